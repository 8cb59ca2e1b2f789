// In how many random games a formula holds, when first, and how often: what a designer wants to
// know of a rule that is there for a purpose.
//
//   auto counts = orchard::count_formulas(game, {"(exists ?n row (true (bed ?n sown)))"}).value();
//
// One thread at a time for a call; the game may be shared.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "orchard/line.hpp"
#include "orchard/playouts.hpp"

namespace orchard {

// What was counted of one formula.
struct FormulaCount {
  // As it was given.
  std::string formula;
  // The number of games in which it holds in some position, the last one included.
  std::uint64_t games = 0;
  // The number of positions in which it holds, all games together.
  std::uint64_t positions = 0;
  // After how many plies it first holds → in how many games; sums up to `games`.
  std::map<std::uint64_t, std::uint64_t> first;
  // Literals that nothing the rules can derive fits: it may hold never or always for that reason.
  std::vector<std::string> unfit;

  // Of the games in which it holds, the mean of the plies after which it first does; 0 if there is
  // none.
  double mean_first() const;
};

// What was counted of several formulas in the same games.
struct FormulaCounts {
  // In the order in which they were given.
  std::vector<FormulaCount> formulas;
  // The number of games played, to their end or to the most plies.
  std::uint64_t games = 0;
  // Why counting ended; games that were being played are left out.
  Ending ending = Ending::complete;
};

// Plays `options.games` random games (1000 if not set and no seconds are) of `options.seed`, and
// counts in each position of them: formulas as of `find_position`, about positions; a variable that
// is not bound stands for anything. Fails with `bad-claim`, and if the rules have too many
// instances for a circuit. O(games × plies) evaluations, 512 at a time; `options.threads` is not
// used.
Result<FormulaCounts> count_formulas(const Game& game, const std::vector<std::string>& formulas,
                                     const PlayoutOptions& options = {});

// Where a formula holds in lines of play that are there already, such as those of records.
struct PliesWhere {
  // Literals that nothing the rules can derive fits.
  std::vector<std::string> unfit;
  // By line, after how many plies it holds, ascending.
  std::vector<std::vector<std::uint64_t>> plies;
};

// Looks at every position of the lines; formulas as of `count_formulas`. Fails as that does.
// O(positions) evaluations, 512 at a time.
Result<PliesWhere> plies_where(const Game& game, const std::string& formula,
                               const std::vector<Line>& lines);

}  // namespace orchard
