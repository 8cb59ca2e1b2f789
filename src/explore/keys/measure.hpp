// What tells depths apart: fluents of which one more holds, or one less, after every joint move.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "ground/ground_program.hpp"

namespace orchard::explore {

// Where it holds of all positions, none has two depths.
struct Measure {
  std::vector<std::uint32_t> fluents;
  std::int64_t at_start = 0;
  int step = 0;  // 1 or -1; 0: there is no measure
};

// Looks for a measure among the fluents of a functor, and those of a functor with one value at one
// place, in the rows of games that are shown to it. A value.
class MeasureFinder {
 public:
  explicit MeasureFinder(const ground::GroundProgram& ground);

  // A position so many plies after the first one, which comes first.
  void observe(std::span<const std::uint64_t> row, std::uint64_t ply);
  // One that fits all that was shown.
  Measure measure() const;

 private:
  struct Class {
    std::vector<std::uint32_t> fluents;
    std::int64_t at_start = 0;
    bool rises = true;
    bool falls = true;
  };
  std::vector<Class> classes_;
  std::vector<std::vector<std::size_t>> classes_of_;  // by fluent
};

}  // namespace orchard::explore
