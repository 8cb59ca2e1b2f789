// When the values of a lane program are used.
#pragma once

#include <vector>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

class Liveness {
 public:
  explicit Liveness(const LaneProgram& program);

  // Positions of the operations that read a value, ascending.
  std::span<const std::uint32_t> uses(std::uint32_t value) const {
    return std::span(uses_).subspan(first_[value], first_[value + 1] - first_[value]);
  }
  bool is_output(std::uint32_t value) const { return output_[value]; }
  // The values that no later operation and no output needs.
  std::span<const std::uint32_t> last_used_at(std::uint32_t operation) const {
    return dead_[operation];
  }

 private:
  std::vector<std::uint32_t> uses_;
  std::vector<std::uint32_t> first_;  // by value
  std::vector<bool> output_;
  std::vector<std::vector<std::uint32_t>> dead_;
};

}  // namespace orchard::circuit
