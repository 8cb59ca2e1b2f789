// Which roles can share a choice: those that never choose at the same time.
//
// Where roles move in turn, one choice a ply is enough for all of them: the candidates are the
// moves of whoever is to move, and everybody else makes the one move there is. Found by watching
// sampled games, never relied on: the program that uses it reports a conflict wherever what was
// seen does not hold, and is replaced by one with a choice for every role.
#pragma once

#include <vector>

#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

struct ChoiceGroups {
  // Moves that were their role's only one whenever legal, at times while another role had a choice:
  // made without a choice.
  std::vector<std::vector<bool>> waits;  // by role and move
  // Roles that share a choice; every role is in one group.
  std::vector<std::vector<std::size_t>> groups;
};

// A group for each role, and no waiting moves: right for any game.
ChoiceGroups separate_groups(const GameNetwork& game);

// From 64 games side by side, with fixed random numbers, for 128 plies.
ChoiceGroups sampled_groups(const ground::GroundProgram& ground, const GameNetwork& game);

}  // namespace orchard::circuit
