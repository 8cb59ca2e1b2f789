// The positions that can follow from one, numbered in the order of their finding, and what follows
// from each: what values are handed back on.
//
// There are two ways to find them: by the circuit, and by the evaluator where the rules have no
// circuit. One owner while it explores; then any number of readers.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "explore/space/state_space.hpp"
#include "orchard/game.hpp"
#include "solve/repeating.hpp"
#include "solve/solution_source.hpp"

namespace orchard::solve_inner {

class ExploredPositions {
 public:
  virtual ~ExploredPositions() = default;
  // Explores from a position until the budget ends; called again with a larger one, without a
  // checkpoint, it goes on. Fails if the position, or a checkpoint, cannot be used.
  virtual Result<Ending> explore(const Position& from, const Budget& budget, unsigned threads) = 0;
  // What was found; it looks into this object.
  virtual PositionGraph graph() const = 0;
  virtual std::optional<std::uint32_t> number(const Position& position) const = 0;
  // Of a goal that the language does not know, if one was met; else empty.
  virtual std::string remark() const { return {}; }
  // Writes what the positions are worth to a file.
  virtual Diagnostics keep(const std::string& file, const SolvedValues& known,
                           const SolutionSource::Facts& facts) const = 0;
};

// "ann has a goal of 200: …" if the language does not know the goal; else empty.
std::string remark_on_goal(const Role& role, const Term& goal);

// The game must outlive what is made of it.
std::unique_ptr<ExploredPositions> explored_by_circuit(const LaneGame& lanes);
// One by one, some ten thousand steps a second. Memory: 4 bytes a fluent of each position, and of
// each step, and about 50 a position.
std::unique_ptr<ExploredPositions> explored_by_evaluator(const Game& game);

}  // namespace orchard::solve_inner
