// One call of a command: its arguments read against the option table, and the streams it writes to.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

#include "base/interruption.hpp"
#include "orchard/budget.hpp"
#include "orchard/circuit.hpp"
#include "orchard/game.hpp"
#include "orchard/line.hpp"
#include "orchard/picture.hpp"

namespace orchard::cli {

// The exit statuses of the command contract.
enum class Status : int { done = 0, failed = 1, wrong_call = 2, unfinished = 3 };

struct Call {
  std::string command;
  std::string game;
  std::map<std::string, std::vector<std::string>, std::less<>> values;  // given ones, by option
  std::stop_token stop;                                                 // an interrupt by the user

  bool flag(std::string_view option) const { return values.contains(option); }
  // The value given, else the initial one of the table, if there is one.
  std::optional<std::string> text(std::string_view option) const;
  std::vector<std::string> texts(std::string_view option) const;
  std::optional<std::uint64_t> number(std::string_view option) const;  // numbers and bytes
  std::optional<double> seconds(std::string_view option) const;

  bool json() const { return flag("json"); }
  Budget budget() const;  // from the options of the command, with progress on a terminal
  // Of --claims, else NAME.claims beside NAME.gdl if there is one.
  std::optional<std::string> claims_file() const;
  TextStyle style() const;  // for standard output
  LoadOptions limits() const;
};

// A number with an optional K, M, G or T (powers of 1024); none if it is anything else.
std::optional<std::uint64_t> parse_bytes(std::string_view text);

// Prints diagnostics: as text on standard error, with --json as a document on standard output.
// The status is `unfinished` if nothing is wrong but that limits were met, else `wrong_call`.
Status report(const Call& call, const Diagnostics& diagnostics);
// Of a command that was cut short before it had anything to say.
Status report(const Call& call, const Interrupted& interrupted);
inline Status report(const Call& call, const Diagnostic& diagnostic) {
  Diagnostics one;
  one.add(diagnostic);
  return report(call, one);
}

// Of files written beside an answer: what could not be written is told on standard error, and does
// not take the answer away. The status is `unfinished` then if it was `done`.
Status after_side_files(Status status, const Diagnostics& faults);

// Why the files that the call names for writing could not be written, before any work is done.
Diagnostics unusable_outputs(const Call& call);

// The limits and sizes of the call.
// Lines of the terminal; without one, as many as one likes.
std::size_t terminal_height();

Result<LoadOptions> load_options(const Call& call);
// The same for rules that come over the wire: by themselves they may not take the whole machine.
Result<LoadOptions> load_options_for_strangers(const Call& call);

// The description of the call, with its findings in one line on standard error; none, with
// everything reported, if it cannot be used.
std::optional<Game> load_game(const Call& call);

// The game, or the same with a circuit made of all that can be reached from its start and from
// other positions, where its rules have none and play is short enough; says so on standard error.
Game game_to_explore(const Call& call, const Game& game, const std::vector<Position>& from = {},
                     CircuitReach reach = CircuitReach::every_position);

// The file of the drawing rules of the call; empty if there are none.
std::string drawing_file(const Call& call);

// The pictures of the game: by the drawing rules of --drawing, else those of NAME.draw beside
// NAME.gdl, else inferred. None, with everything reported, if the drawing rules cannot be used.
Result<Picture> load_picture(const Call& call, const Game& game);
std::optional<Picture> picture_of(const Call& call, const Game& game);

struct Opened {
  Game game;
  Position start;  // of --position, else the start of the game
};
// The same with the position to begin at; none, with everything reported, if one is missing.
std::optional<Opened> open_game(const Call& call);
// The same, with a circuit of all that can be reached if that is little and the rules have none.
Opened ready_to_play_at_random(const Call& call, const Opened& opened);
// Whether making the circuit of the rules is given up for its time. Tries it, if nobody has yet.
bool circuit_takes_too_long(const Game& game);
// The same of `game_to_explore`.
Opened ready_to_explore(const Call& call, const Opened& opened);
std::optional<Opened> open_game_to_explore(const Call& call);

// The line of play of --after from the position: so many random plies of --seed, or as written.
// None, with everything reported, if it cannot be played.
std::optional<Line> line_of_call(const Call& call, const Game& game, const Position& start);

// Whether --view, if given, names a role; reports it if not.
bool check_view(const Call& call, const Game& game);
// The role of --view, if one is given and known.
std::optional<Role> viewing_role(const Call& call, const Game& game);

// Why an operation ended early, for a remark: "after 3 seconds".
std::string_view remark_on(Ending ending);
Status status_of(Ending ending);

Status show(const Call& call);
Status why(const Call& call);
Status check(const Call& call);
Status find(const Call& call);
Status compare(const Call& call);
Status cases(const Call& call);
Status walk(const Call& call);
Status census(const Call& call);
Status playouts(const Call& call);
Status play(const Call& call);
Status series(const Call& call);
Status solve(const Call& call);
Status learn(const Call& call);
Status desk(const Call& call);
Status language_server(const Call& call);
Status serve(const Call& call);
Status host(const Call& call);
Status records(const Call& call);
Status new_game(const Call& call);
Status format(const Call& call);
Status export_game(const Call& call);

}  // namespace orchard::cli
