#include "circuit/lanes/liveness.hpp"

#include <algorithm>

namespace orchard::circuit {

Liveness::Liveness(const LaneProgram& program) {
  const std::size_t values = program.inputs + program.operations.size();
  std::vector<std::vector<std::uint32_t>> uses(values);
  for (std::uint32_t i = 0; i < program.operations.size(); ++i) {
    const LaneOperation& operation = program.operations[i];
    for (const std::uint32_t operand : {operation.a, operation.b, operation.c}) {
      if (uses[operand].empty() || uses[operand].back() != i) uses[operand].push_back(i);
    }
  }
  output_.assign(values, false);
  for (const std::uint32_t output : program.outputs) output_[output] = true;
  dead_.resize(program.operations.size());
  first_.push_back(0);
  for (std::uint32_t value = 0; value < values; ++value) {
    uses_.insert(uses_.end(), uses[value].begin(), uses[value].end());
    first_.push_back(static_cast<std::uint32_t>(uses_.size()));
    if (!output_[value] && !uses[value].empty()) dead_[uses[value].back()].push_back(value);
  }
}

}  // namespace orchard::circuit
