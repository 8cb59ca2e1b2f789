#include "circuit/lanes/random_planes.hpp"

#include <algorithm>

#include "circuit/lanes/lane_kernels.hpp"

namespace orchard::circuit {
namespace {

// Steele, Lea and Flood, "Fast splittable pseudorandom number generators" (2014).
std::uint64_t mixed(std::uint64_t& state) {
  state += 0x9E3779B97F4A7C15ULL;
  std::uint64_t z = state;
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
  return z ^ (z >> 31);
}

}  // namespace

RandomPlanes::RandomPlanes(std::uint64_t seed, std::uint64_t part) {
  restart(seed, part);
}

void RandomPlanes::restart(std::uint64_t seed, std::uint64_t part) {
  std::uint64_t state = seed;
  state = mixed(state) ^ (part * 0xD1342543DE82EF95ULL);
  for (LaneBlock& block : state_) {
    for (std::uint64_t& word : block.words) word = mixed(state);
  }
  next_ = planes_.size();
}

const LaneBlock* RandomPlanes::take(std::size_t count) {
  if (next_ + count > planes_.size()) {
    // What is left is given up, so that a call's planes stand in a row.
    planes_.resize(std::max(planes_.size(), std::max(batch, (count + 3) / 4 * 4)));
    make_planes(state_.data(), planes_.data(), planes_.size());
    next_ = 0;
  }
  const LaneBlock* const result = planes_.data() + next_;
  next_ += count;
  return result;
}

}  // namespace orchard::circuit
