// Positions as pictures show them.
#pragma once

#include <optional>
#include <vector>

#include "orchard/line.hpp"
#include "orchard/picture.hpp"

namespace orchard::picture {

// What led to a position.
struct LastStep {
  Position before;
  JointMove joint;
};
// The step to position `at` of a line; none to the first.
std::optional<LastStep> step_to(const Line& line, std::size_t at);
inline std::optional<LastStep> last_step(const Line& line) {
  return step_to(line, line.joints.size());
}

// A position with the moves that led to it, those that are no waiting, and at an end what decides
// it.
PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<LastStep>& last);

// The moves of some roles, numbered from 1 through all of them.
std::vector<NumberedMove> numbered_moves(const Game& game, const Position& position,
                                         const std::vector<Role>& roles);

}  // namespace orchard::picture
