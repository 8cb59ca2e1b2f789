// What the signals of a game's network are in a position.
#pragma once

#include <cstdint>
#include <vector>

#include "circuit/programs/game_network.hpp"

namespace orchard::prove {

// By node, with a joint move made (a number for each role); without one, signals that depend on
// moves mean nothing. `network`: that of the game, or a copy of it with further gates. O(gates).
std::vector<bool> values_in(const circuit::GameNetwork& game, const circuit::Network& network,
                            const std::vector<bool>& position,
                            const std::vector<std::uint32_t>* joint = nullptr);

// Whether a signal holds by them.
inline bool holds(const std::vector<bool>& values, circuit::Signal signal) {
  return values[signal.node()] != signal.negated();
}

}  // namespace orchard::prove
