#include "prove/values.hpp"

#include <algorithm>

namespace orchard::prove {

std::vector<bool> values_in(const circuit::GameNetwork& game, const circuit::Network& network,
                            const std::vector<bool>& position,
                            const std::vector<std::uint32_t>* joint) {
  std::vector<bool> values(network.size(), false);
  for (std::size_t f = 0; f < position.size(); ++f) values[game.fluents[f].node()] = position[f];
  if (joint != nullptr) {
    for (std::size_t role = 0; role < joint->size(); ++role) {
      values[game.does[role][(*joint)[role]].node()] = true;
    }
  }
  for (std::uint32_t node = 0; node < network.size(); ++node) {
    if (!network.is_gate(node)) continue;
    values[node] = std::ranges::all_of(
        network.of(node), [&](circuit::Signal operand) { return holds(values, operand); });
  }
  return values;
}

}  // namespace orchard::prove
