// The lane programs that answer questions on given positions: what depends on a position alone, and
// what follows from a joint move in it.
#pragma once

#include "circuit/lanes/lane_program.hpp"
#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

struct PositionPrograms {
  // Inputs of both: the fluents, then the moves role by role (the first program reads only the
  // fluents).
  // Reports: whether the position is an end; legal moves, role by role; goal values, role by role;
  // whether a move is legal that is not declared.
  LaneProgram position;
  // Next state: the fluents after the joint move. Reports: percepts, role by role; whether a fluent
  // comes to be that is not declared.
  LaneProgram step;
};

PositionPrograms make_position_programs(const GameNetwork& game);

}  // namespace orchard::circuit
