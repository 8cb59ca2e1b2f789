// Random bits for 512 lanes at a time, the same on every machine.
//
// Four planes at a time come from 32 generators of 64 bits side by side, xoshiro256++, one for each
// word of the four planes. Source: Blackman and Vigna, "Scrambled linear pseudorandom number
// generators" (2021). Belongs to one thread.
#pragma once

#include <array>
#include <vector>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

class RandomPlanes {
 public:
  // Independent sources for the parts of one seed.
  RandomPlanes(std::uint64_t seed, std::uint64_t part);
  // As if made anew, in the same memory.
  void restart(std::uint64_t seed, std::uint64_t part);

  // The next `count` planes in a row, good until the next call.
  const LaneBlock* take(std::size_t count);

 private:
  static constexpr std::size_t batch = 64;  // planes made at once: few enough to stay near

  std::array<LaneBlock, 16> state_;  // four words of the generators of one plane, then of the next
  std::vector<LaneBlock> planes_;
  std::size_t next_ = 0;  // to give out
};

}  // namespace orchard::circuit
