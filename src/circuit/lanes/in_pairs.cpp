#include <algorithm>
#include <cassert>
#include <queue>

#include "circuit/lanes/equivalence.hpp"
#include "circuit/lanes/mapping.hpp"

namespace orchard::circuit {

Network in_pairs(const Network& network, std::vector<Signal>& outputs) {
  std::vector<bool> needed(network.size(), false);
  for (const Signal output : outputs) needed[output.node()] = true;
  for (std::uint32_t node = network.size(); node-- > 0;) {
    if (!needed[node]) continue;
    for (const Signal signal : network.of(node)) needed[signal.node()] = true;
  }
  Network result;
  std::vector<std::uint32_t> level{0};  // by node of the result
  std::vector<Signal> copy(network.size(), never);
  for (std::uint32_t i = 0; i < network.inputs(); ++i) {
    copy[network.input(i)] = result.add_input();
    level.push_back(0);
  }
  using Entry = std::pair<std::uint32_t, Signal>;
  for (std::uint32_t node = 0; node < network.size(); ++node) {
    if (!needed[node] || !network.is_gate(node)) continue;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> open;
    for (const Signal signal : network.of(node)) {
      const Signal copied = copy[signal.node()] ^ signal.negated();
      open.emplace(level[copied.node()], copied);
    }
    while (open.size() > 1) {
      const Signal a = open.top().second;
      open.pop();
      const Signal b = open.top().second;
      open.pop();
      const Signal pair = result.both(a, b);
      while (level.size() < result.size()) {
        level.push_back(std::max(level[a.node()], level[b.node()]) + 1);
      }
      open.emplace(level[pair.node()], pair);
    }
    copy[node] = open.top().second;
  }
  std::vector<Signal> copied;
  for (const Signal output : outputs) copied.push_back(copy[output.node()] ^ output.negated());
  assert(same_on_random_inputs(network, outputs, result, copied));
  outputs = std::move(copied);
  return result;
}

}  // namespace orchard::circuit
