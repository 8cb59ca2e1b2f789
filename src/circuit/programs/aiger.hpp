// A game's network in the AIGER format.
#pragma once

#include <string>

#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

std::string to_aiger(const ground::GroundProgram& program, const GameNetwork& game);

}  // namespace orchard::circuit
