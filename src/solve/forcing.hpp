// What must come about on every line of play, and what some roles can force, on explored positions.
//
// A condition is looked at in a position together with the joint move that leaves it. A line stays
// at its end. Positions that were not looked at count as reached or not, as asked for: what holds
// both ways is certain.
#pragma once

#include <span>
#include <vector>

#include "explore/space/state_space.hpp"

namespace orchard::solving {

using explore::StateSpace;

// Where a condition holds.
struct Condition {
  std::vector<bool> in_position;  // where nothing leaves: at ends, and if it asks for no move
  std::vector<bool> with_step;    // by number of the step; empty if it asks for no move

  bool holds(StateSpace::Number position) const { return in_position[position]; }
  bool holds(const StateSpace& space, StateSpace::Number position, std::size_t step) const {
    return with_step.empty() ? in_position[position] : with_step[space.first_step(position) + step];
  }
};

// For each position when it was found to be one of those asked for, from 1; 0 if it is none. What
// follows it, and was needed for it, was found before.
using Found = std::vector<std::uint32_t>;

// Positions from which every line comes to `goal`, and `path` (if any) holds until then.
// O((positions + steps) · rounds); one round where no position comes again. `order`: followers
// first, where that is possible.
Found must_reach(const StateSpace& space, const Condition& goal, const Condition* path,
                 std::span<const StateSpace::Number> order, bool beyond);

struct Forcing {
  std::vector<bool> coalition;  // by role
  std::vector<bool> fair;       // by role: chance that plays fair
};
// Positions from which the roles of the coalition, each seeing everything, can force `goal`: they
// choose, then the others do. With fair chance: such that it comes about with probability one.
Found can_force(const StateSpace& space, const Condition& goal, const Forcing& forcing,
                std::span<const StateSpace::Number> order, bool beyond);

// The coalition's choices of joint moves in a position: for each joint move the number of the
// coalition's choice it belongs to.
std::vector<std::size_t> coalition_choices(const StateSpace& space, StateSpace::Number position,
                                           const Forcing& forcing);

}  // namespace orchard::solving
