// The lane program of one ply of random play: positions and random bits in, positions after a
// uniformly chosen joint move out. A lane whose game is over begins again at the start; one for
// which no move could be drawn keeps its position.
#pragma once

#include "circuit/lanes/lane_program.hpp"
#include "circuit/programs/choice_groups.hpp"

namespace orchard::circuit {

struct PlayProgram {
  LaneProgram program;  // inputs: the fluents, whether the lane plays, the random planes
  std::uint32_t random_blocks = 0;  // that a ply consumes
  // Reports, all of lanes that play: whether the game is over here, for an end or because a role
  // has no move; whether it is an end; whether the choice groups do not hold here, or something
  // comes up that a guided ground program does not declare; whether a move was made from here. Then
  // what is counted, then for each role its goal values here.
  static constexpr std::uint32_t over = 0;
  static constexpr std::uint32_t terminal = 1;
  static constexpr std::uint32_t conflict = 2;
  static constexpr std::uint32_t moved = 3;
  static constexpr std::uint32_t first_counted = 4;
  // Lanes to be counted; each stands for 2^weight positions in which the role is to move, or legal
  // moves of it there. Only where a move was made.
  struct Counted {
    std::uint32_t role = 0;
    bool moves = false;
    std::uint32_t weight = 0;
  };
  std::vector<Counted> counted;           // by report, from first_counted
  std::uint32_t first_value = 0;          // goal values follow from here
  std::vector<std::uint32_t> first_goal;  // report, by role
  // Where the random planes of a role's choice begin, and among how many it is made; roles of a
  // group share them. none: no choice.
  struct Planes {
    std::uint32_t first = none;
    std::size_t candidates = 0;
  };
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  std::vector<Planes> planes;  // by role
  std::uint32_t choices = 0;   // that a ply makes
  std::uint32_t gates = 0;     // of the network, before pairs
  std::uint32_t pairs = 0;
};

struct PlaySetting {
  std::vector<bool> initial;               // by fluent: where games begin
  std::vector<std::vector<bool>> waiting;  // by role and move: waiting moves, for the counts
};

PlayProgram make_play_program(const GameNetwork& game, const ChoiceGroups& groups,
                              const PlaySetting& setting);

}  // namespace orchard::circuit
