#include "circuit/network/copier.hpp"

namespace orchard::circuit {

Signal Copier::operator()(Signal signal) {
  open_.assign(1, signal.node());
  while (!open_.empty()) {
    const std::uint32_t node = open_.back();
    if (done_[node]) {
      open_.pop_back();
      continue;
    }
    bool ready = true;
    for (const Signal operand : from_.of(node)) {
      if (done_[operand.node()]) continue;
      ready = false;
      open_.push_back(operand.node());
    }
    if (!ready) continue;
    std::vector<Signal> operands;
    for (const Signal operand : from_.of(node)) {
      operands.push_back(copy_[operand.node()] ^ operand.negated());
    }
    copy_[node] = to_.all(std::move(operands));
    done_[node] = true;
    open_.pop_back();
  }
  return copy_[signal.node()] ^ signal.negated();
}

}  // namespace orchard::circuit
