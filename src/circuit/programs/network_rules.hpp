// A network as text: rules of the language without variables, with a relation for every gate. What
// reads descriptions reads it back, and the game it describes is the same.
#pragma once

#include <string>

#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

// (<= gate_12 (true (turn east)) (not gate_7)) for a gate that asks for a fluent and that
// another gate does not hold; legal moves, next fluents, goals, percepts and ends by gates.
// Only gates that one of these asks for.
std::string to_rules(const ground::GroundProgram& program, const GameNetwork& game);

}  // namespace orchard::circuit
