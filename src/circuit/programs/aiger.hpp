// A game's network in the AIGER format.
#pragma once

#include <string>
#include <vector>

#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

// A signal of a network made from the game's own, with what it is called.
struct NamedSignal {
  std::string name;
  Signal signal;
};

// `network`: that of the game, or a copy of it with further gates. `excluded`: further outputs, the
// states that are never reached (section B of the format).
std::string to_aiger(const ground::GroundProgram& program, const GameNetwork& game,
                     const Network& network, const std::vector<NamedSignal>& excluded);
inline std::string to_aiger(const ground::GroundProgram& program, const GameNetwork& game) {
  return to_aiger(program, game, game.network, {});
}

}  // namespace orchard::circuit
