// What a game is like, in figures: to see what an evening of changes has changed.
//
//   auto before = orchard::summarize(old_game).value();
//   auto after = orchard::summarize(new_game).value();
//   std::cout << before.mean_length << " → " << after.mean_length << "\n";
//
// Figures of random games are exact for the seed and the same on every machine. Any thread may
// call.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/compare.hpp"
#include "orchard/game.hpp"
#include "orchard/review.hpp"

namespace orchard {

// What a game is like.
struct GameSummary {
  // How many rules and facts the description has, with its directives worked out.
  std::size_t rules = 0;
  // The names of the roles.
  std::vector<std::string> roles{};
  // Every move that the rules foresee, as "ROLE MOVE"; empty if there is no circuit.
  std::vector<std::string> moves{};
  // The random games that were played.
  std::uint64_t games = 0;
  // Of those that ended: the mean number of plies, the least and the most.
  double mean_length = 0;
  // The fewest plies of a game that ended.
  std::uint64_t least_length = 0;
  // The most plies of a game that ended.
  std::uint64_t most_length = 0;
  // For each role, the mean goal of the games that ended.
  std::vector<double> mean_goals{};
  // The share of games in which some role is left without a move.
  double stuck = 0;
  // For each role, the mean number of legal moves when it is to move.
  std::vector<double> branching{};
  // The number of positions that can be reached; none if not all were counted.
  std::optional<std::uint64_t> positions{};
  // The plies to the deepest of them, or to the last depth that was counted to its end.
  std::uint64_t depth = 0;
  // The positions down to that depth.
  std::uint64_t positions_to_depth = 0;
  // The questions of a review, and the claims.
  std::vector<Answer> questions{};
  // The answers to the designer's claims.
  std::vector<Answer> claims{};
};

// What to look at, and what it may cost.
struct SummaryOptions {
  // `positions`: for counting, and for the review, 300 000 if not set.
  Budget budget{};
  // Of the random games.
  std::uint64_t seed = 1;
  // How many random games.
  std::uint64_t games = 10'000;
  // For counting and exploring.
  unsigned threads = 1;
  // A file of claims.
  std::optional<std::string> claims{};
};

// Plays, counts and reviews. What the budget does not allow is left out. Fails if the claims do not
// read, or the rules cost too much in some position.
Result<GameSummary> summarize(const Game& game, const SummaryOptions& options = {});

// The summary of the second of two games with what the first calls its roles and moves, so that the
// two can be held against each other.
GameSummary in_words_of_first(GameSummary second, const Renaming& renaming);

}  // namespace orchard
