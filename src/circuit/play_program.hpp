// The lane program of one ply of random play: positions and random bits in, positions after a
// uniformly chosen joint move out. A lane whose game is over begins again at the start.
#pragma once

#include "circuit/choice_groups.hpp"
#include "circuit/lane_program.hpp"

namespace orchard::circuit {

struct PlayProgram {
  LaneProgram program;
  std::uint32_t random_blocks = 0;  // that a ply consumes
  // Reports: whether the position was an end; whether a role had no move (and it was none); the
  // conflict; then for each role its goal values there.
  static constexpr std::uint32_t terminal = 0;
  static constexpr std::uint32_t stuck = 1;
  static constexpr std::uint32_t conflict = 2;     // the choice groups do not hold here
  static constexpr std::uint32_t first_value = 3;  // of the first role
  std::vector<std::uint32_t> first_goal;           // report, by role
  // Where the random planes of a role's choice begin; roles of a group share them. none: no choice.
  std::vector<std::uint32_t> first_plane;
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  std::uint32_t gates = 0;  // of the network, before pairs
  std::uint32_t pairs = 0;
};

PlayProgram make_play_program(const ground::GroundProgram& ground, const GameNetwork& game,
                              const ChoiceGroups& groups);

}  // namespace orchard::circuit
