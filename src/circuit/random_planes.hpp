// Random bits for 512 lanes at a time, the same on every machine.
//
// Each plane is the exclusive-or of four earlier ones (216, 337, 579 and 1279 before): a
// generalised feedback shift register in every lane, all begun with different bits. Source: Ziff,
// "Four-tap shift-register-sequence random-number generators" (1998). Belongs to one thread; about
// 250 kB.
#pragma once

#include <vector>

#include "circuit/lane_program.hpp"

namespace orchard::circuit {

class RandomPlanes {
 public:
  // Independent sources for the parts of one seed.
  RandomPlanes(std::uint64_t seed, std::uint64_t part);
  // As if made anew, in the same memory.
  void restart(std::uint64_t seed, std::uint64_t part);

  // The next `count` planes in a row, good until the next call; count up to `most`.
  static constexpr std::size_t most = 2048;
  const LaneBlock* take(std::size_t count);

 private:
  static constexpr std::size_t longest = 1279;

  std::vector<LaneBlock> planes_;
  std::size_t next_ = longest;  // to give out
};

}  // namespace orchard::circuit
