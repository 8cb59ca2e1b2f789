// Functions of a few signals of which only some combinations occur, as gates.
//
// A combination is the set of signals that hold, by their places. A plan is made once and built
// into any number of networks. What combinations that do not occur give is left open by `telling`,
// which makes plans small by that, and decided by `one_of`. Values.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "circuit/network/network.hpp"

namespace orchard::circuit {

using Combination = std::vector<std::uint16_t>;  // places, ascending

class DecisionPlan {
 public:
  // Holds for the combinations with `wanted`, and for no other of them. The combinations are
  // different; `places` signals. Greedy: what one signal tells is taken out first, else the signal
  // that tells most is asked. O(gates · combinations · places / 64).
  static DecisionPlan telling(std::span<const Combination> combinations, std::size_t places,
                              const std::vector<bool>& wanted);
  // Holds for these combinations alone: a decision diagram over the signals, place by place.
  static DecisionPlan one_of(std::span<const Combination> combinations, std::size_t places);

  Signal build(Network& network, std::span<const Signal> signals) const;

 private:
  // If the signal holds then `yes`, else `no`: earlier nodes. The first two are the constants.
  struct Node {
    std::uint32_t place = 0;
    std::uint32_t yes = 0;
    std::uint32_t no = 0;
  };
  static constexpr std::uint32_t no_node = 0;
  static constexpr std::uint32_t yes_node = 1;
  class Teller;
  class Diagram;

  DecisionPlan() : nodes_(2) {}
  void tell_single_places(std::span<const Combination> combinations,
                          const std::vector<bool>& wanted);

  std::vector<Node> nodes_;
  std::uint32_t root_ = no_node;
};

}  // namespace orchard::circuit
