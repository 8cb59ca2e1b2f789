// Whoever chooses moves for a role: the interface for the library's opponents and for one's own.
//
// An opponent sits in one seat of one match at a time and is called by one thread at a time. What
// it wants to remember between moves it keeps in its own members. It never needs to know which
// game it plays: everything it may use is in the Situation.
#pragma once

#include <chrono>
#include <cstdint>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/solve.hpp"
#include "orchard/view.hpp"

namespace orchard {

// What an opponent may use to choose a move.
struct Situation {
  // The game that is played.
  const Game& game;
  const Role& role;  // the opponent's own
  // Where the game stands. With hidden information it is the true position too, for whoever runs
  // the match; an opponent that plays fair looks at `view` instead.
  const Position& position;
  const std::vector<Move>& legal;  // for the role; never empty
  // How many joint moves were made.
  std::uint64_t ply = 0;
  std::optional<Position> last_position;  // before the last joint move; none at the start
  // The role's move in the ply before; empty at the start.
  std::optional<Move> own_last_move;
  const View* view = nullptr;  // what the role can know; null without hidden information
  // When the choice must be made, and whether somebody wants the match to end: for opponents that
  // think for long. Nothing forces them to look.
  std::optional<std::chrono::steady_clock::time_point> deadline{};
  // Asks the opponent to choose at once, with the best move it has found.
  std::stop_token stop{};
  // What the opponent may keep in memory for its next moves, in bytes, about; as it likes if not
  // set.
  std::optional<std::uint64_t> memory_bytes{};
};

// Whoever chooses moves for a role.
class Opponent {
 public:
  virtual ~Opponent() = default;
  // The name of the opponent in results.
  virtual std::string name() const = 0;
  // One of `situation.legal`. Anything else is refused by the match and counts as a fault.
  virtual Move choose(const Situation& situation) = 0;
  // Called while others choose, with the position in which they do: what is found out now may help
  // with the next choice. Ends when the situation says so; may leave by an exception then.
  virtual void think_ahead(const Situation& situation) { (void)situation; }
  // Told once when the match is over.
  virtual void match_ended(const Game& game, const Role& role, const Position& last) {
    (void)game, (void)role, (void)last;
  }
};

// Chooses uniformly among the legal moves; the same moves for the same seed.
std::unique_ptr<Opponent> random_opponent(std::uint64_t seed);

// The ladder: opponents for any game, which know it only by its rules.
//
//   random               uniform among the legal moves
//   greedy               the move with the best goal value right after it, then what things and
//                        moves of its own against the others' tell of the result in random games
//   careful              exact for three plies: takes a win, blocks a loss, avoids giving one
//   lookahead[:PLIES|:SECONDSs]
//                        all moves and replies for so many plies (3), or as far as there is time,
//                        leaves judged by playouts
//   playouts[:COUNT|:SECONDSs][/THREADS]
//                        tree search with so many random games a move (10000), or for so long; with
//                        seconds it also searches to the ends once they are near
//   perfect              best play where at most 300 000 positions can follow (fewer in large
//                        games) or a search can tell, else as playouts
//
// Others who choose at the same time, or after, are taken to choose what is worst for the role;
// chance is averaged over; tree search mixes its moves where several choose at once. With hidden
// information they play on positions drawn from those that fit what the role knows. With a count
// and one thread they make the same moves for the same seed. Where the rules have no circuit, all but
// random look at the ends that the next two plies can make and at random games by the evaluator, so
// many as their name says, but for 10 000 plies a move at most. Fails with `unknown-opponent`.
Result<std::unique_ptr<Opponent>> make_opponent(std::string_view who, std::uint64_t seed);

// What an opponent of that name cannot do in a game, in a sentence: best play where something is
// hidden, looking further than two plies where the rules have no circuit. None if there is nothing
// to say.
std::optional<std::string> opponent_caveat(std::string_view who, const Game& game);

// Best play by what was solved before; as `perfect` where that says nothing.
std::unique_ptr<Opponent> solved_opponent(Solution solution, std::uint64_t seed);

// The names above, with what may stand behind them.
std::vector<std::string> opponent_names();

}  // namespace orchard
