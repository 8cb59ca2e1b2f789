// What a block of positions comes to: who can do what, what follows, what ends are worth.
//
// The part of exploring that needs the circuit and nothing of what was found so far, so that
// several threads may do it at once, one expander each. The game and its
// symmetry must outlive it.
#pragma once

#include <variant>
#include <vector>

#include "explore/symmetry/symmetry_group.hpp"
#include "game/lane_evaluator.hpp"
#include "game/step_batch.hpp"

namespace orchard::explore {

enum class Kind : std::uint8_t { open, terminal, stuck };  // stuck: no end, a role cannot move

struct ExpandedBlock {
  std::vector<Kind> kinds;
  std::vector<std::uint16_t> choices;  // by position and role; 0 where play does not go on
  std::vector<std::uint32_t> steps;    // how many follow each position
  std::vector<std::uint64_t> rows;     // what follows, for all positions in a row
  std::vector<std::uint32_t> hashes;   // of each of those, by `hash_of`
  // Where classes are asked for, `rows` are the least of each, and these make what follows of them.
  std::vector<SymmetryGroup::Least> least;
  // The numbers of goal values by role, for each position that play does not go on from.
  std::vector<std::vector<std::vector<std::uint32_t>>> goals;
  bool too_wide = false;  // a role has more moves than can be counted
  bool too_many = false;  // more steps than were allowed: what is there is not all
};

// Of the words of a position.
std::uint32_t hash_of(std::span<const std::uint64_t> row);

class BlockExpander {
 public:
  // `most_steps`: of one block.
  BlockExpander(const LaneGame& game, const SymmetryGroup& symmetry, std::uint64_t most_steps)
      : roles_(game.ground().moves().size()),
        symmetry_(symmetry),
        most_steps_(most_steps),
        positions_(game),
        steps_(game) {}

  std::size_t words() const { return positions_.words(); }
  // `rows`: up to 512 positions behind one another.
  void expand(std::span<const std::uint64_t> rows, std::size_t count, ExpandedBlock& block);

 private:
  void take_steps(const LaneEvaluator& made, std::size_t count, ExpandedBlock& block) const;

  std::size_t roles_;
  const SymmetryGroup& symmetry_;
  std::uint64_t most_steps_;
  LaneEvaluator positions_;
  StepBatch<std::monostate> steps_;
};

}  // namespace orchard::explore
