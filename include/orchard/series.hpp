// Many matches between the same players: who wins how often, and how sure that is.
//
//   orchard::SeriesOptions options{.players = {{"Ada", "careful"}, {"Ben", "playouts:500"}}, .games
//   = 200}; auto result = orchard::run_series(game, options).value();
//
// The players sit down in the order of the roles (chance left out) and move on by one seat after
// each match, unless the seats are fixed. The same seed and opponents with counts give the same
// matches, whatever the number of threads.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/match.hpp"
#include "orchard/ratings.hpp"
#include "orchard/results_store.hpp"

namespace orchard {

// A share with the interval in which it lies with 95 % certainty (Wilson 1927).
struct Share {
  // The share of successes, from 0 to 1.
  double share = 0;
  // The lower end of the interval.
  double least = 0;
  // The upper end of the interval.
  double most = 1;
};
// The interval of a share: so many successes of so many trials. Source: Wilson (1927).
Share wilson(double successes, double trials);

// One player of a series.
struct SeriesPlayer {
  // The name of the player in results.
  std::string name;
  std::string who;  // as of make_opponent
  // An opponent of one's own, instead of `who`; made anew for every match, from any thread.
  std::function<std::unique_ptr<Opponent>(std::uint64_t seed)> make{};
  // What `make` depends on beside `who`, such as a digest of a file that it reads: matches that a
  // store has of other contents are not these.
  std::string content{};
};

// Who plays how many matches, and how.
struct SeriesOptions {
  std::vector<SeriesPlayer> players{};  // one for each role but chance
  // The number of matches to play.
  std::uint64_t games = 100;
  // The seed of all random choices.
  std::uint64_t seed = 1;
  std::uint64_t plies = 10'000;  // a longer match counts as unfinished
  // The number of threads to use.
  unsigned threads = 1;
  // Players keep their seats; else they change after each match.
  bool fixed_seats = false;
  std::optional<double> move_seconds{};  // a choice that takes longer forfeits the match
  // The start of the game if not set.
  std::optional<Position> from{};
  // Where matches are written as they end, and those that are there already are taken from.
  std::optional<ResultsStore> store{};
  bool moves = false;  // the store keeps whole matches, not their results alone
  Budget budget{};  // a match that it cuts short does not count
};

// Sums over the matches of a player. A match that was forfeited counts as lost for whoever did so,
// as won for the others, and with a goal of 0 for all.
struct SeriesTally : Tally {
  // The number of matches played.
  std::uint64_t games = 0;
  double seconds = 0;         // spent on moves with a choice
  std::uint64_t choices = 0;  // such moves
};

// The result of a series.
struct SeriesResult {
  // In the order of the players.
  std::vector<SeriesTally> by_player;
  std::vector<std::vector<SeriesTally>> by_seat;  // by player and role (chance left out)
  // How often each player did better than each other one, draws as half.
  std::vector<std::vector<double>> better;
  std::map<std::uint64_t, std::uint64_t> lengths;  // plies → matches
  // The number of matches played.
  std::uint64_t games = 0;
  // The number of matches that were broken off before their end.
  std::uint64_t unfinished = 0;
  std::uint64_t stuck = 0;  // matches in which a role had no move, though the game was not over
  std::uint64_t without_goals = 0;  // matches at whose end a role had no single goal
  std::uint64_t stored = 0;         // of the games, taken from the store
  std::uint64_t late = 0;           // of the forfeits, by a late move
  std::uint64_t forfeits = 0;  // an illegal or a late move ended the match: a loss for who made it
  // Why the series ended.
  Ending ending = Ending::complete;
};

// Fails with `wrong-players` (another number than roles), what make_opponent says, or
// `cannot-store`.
Result<SeriesResult> run_series(const Game& game, const SeriesOptions& options);

// Every player against every other: a series of `games` matches for each choice of as many players
// as there are roles.
struct RoundRobinResult {
  // In the order of the players.
  std::vector<SeriesTally> by_player;
  // In the order of the players.
  std::vector<Rating> ratings;
  // How often the first did better than the second, a draw as half.
  std::vector<std::vector<double>> better;
  // The number of matches played.
  std::uint64_t games = 0;
  // Of them, taken from the store.
  std::uint64_t stored = 0;
  // The number of matches that were broken off before their end.
  std::uint64_t unfinished = 0;
  // The number of matches in which a role had no move, though the game was not over.
  std::uint64_t stuck = 0;
  // The number of matches at whose end a role had no single goal.
  std::uint64_t without_goals = 0;
  // Of them, ended by an illegal or a late move.
  std::uint64_t forfeits = 0;
  // Of these, by a late one.
  std::uint64_t late = 0;
  // Why the round robin ended.
  Ending ending = Ending::complete;
};
// `options.players` has more players than the game has roles, and the game has two or more (else
// `wrong-players`).
Result<RoundRobinResult> run_round_robin(const Game& game, const SeriesOptions& options);

}  // namespace orchard
