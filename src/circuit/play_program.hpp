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
  // conflict; what moves each role had; then for each role its goal values there.
  static constexpr std::uint32_t terminal = 0;
  static constexpr std::uint32_t stuck = 1;
  static constexpr std::uint32_t conflict = 2;  // the choice groups do not hold here
  struct MoveReports {                          // of a role, for the mean number of its legal moves
    std::uint32_t to_move = 0;                  // it has a legal move that is no waiting move
    std::uint32_t forced = 0;                   // … and it is its only one, made without a choice
    std::uint32_t count = 0;  // else the number of its legal moves, lowest bit first …
    std::uint32_t count_bits = 0;
  };
  std::vector<MoveReports> moves;         // by role
  std::uint32_t first_value = 0;          // goal values follow from here
  std::vector<std::uint32_t> first_goal;  // report, by role
  // Where the random planes of a role's choice begin; roles of a group share them. none: no choice.
  std::vector<std::uint32_t> first_plane;
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  std::uint32_t gates = 0;  // of the network, before pairs
  std::uint32_t pairs = 0;
};

struct PlaySetting {
  std::vector<bool> initial;               // by fluent: where games begin
  std::vector<std::vector<bool>> waiting;  // by role and move: waiting moves, for the reports
};

PlayProgram make_play_program(const GameNetwork& game, const ChoiceGroups& groups,
                              const PlaySetting& setting);

}  // namespace orchard::circuit
