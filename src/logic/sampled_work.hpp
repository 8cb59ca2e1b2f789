// How much work the evaluator has with a program: counted on a few random plies, the same on
// every machine, so that what is decided by it is the same too.
#pragma once

#include <cstdint>
#include <vector>

#include "logic/program.hpp"

namespace orchard::logic {

struct SampledWork {
  std::uint64_t plies = 0;
  bool broke_off = false;  // a position took more than it was allowed
  std::uint64_t total = 0;
  std::vector<std::uint64_t> of_component;  // without what it asked of others
  std::vector<double> rows;                 // by TableId, in a position, on average
};

// Plays until `plies` are made or more than `most_work` was spent. Not threadsafe with anybody
// who changes the program.
SampledWork sample_work(const Program& program, std::uint64_t plies, std::uint64_t most_work);

}  // namespace orchard::logic
