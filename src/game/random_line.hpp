// One line of play in which every role, chance too, chooses uniformly among its legal moves: the
// one place where random play is made, so that every command draws the same line for a seed.
#pragma once

#include <functional>

#include "game/core.hpp"
#include "orchard/random.hpp"

namespace orchard {

enum class LineEnding {
  terminal,  // the game is over
  stuck,     // some role has no legal move
  plies,     // the number of plies was reached
  left,      // the visitor asked for no more
};

// A position of the line. The joint move leads to the next one; null where the line ends.
struct LinePosition {
  std::uint64_t ply = 0;
  const std::vector<TermId>* fluents = nullptr;
  const std::vector<std::vector<TermId>>* legal = nullptr;  // by role; not asked for at an end
  const std::vector<TermId>* joint = nullptr;
  LineEnding ending = LineEnding::left;    // meaningful without a joint move
  PositionEvaluator* evaluator = nullptr;  // set to this position (and joint move)
};

// Plays on from `fluents`; `visit` returns false to leave. Throws logic::LimitExceeded. `visit`
// may ask the evaluator more about the position but leaves position and joint move as they are.
LineEnding random_line(PositionEvaluator& evaluator, std::vector<TermId> fluents, Random& random,
                       std::uint64_t most_plies,
                       const std::function<bool(const LinePosition&)>& visit);

}  // namespace orchard
