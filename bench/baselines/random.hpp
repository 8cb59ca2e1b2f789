// The random numbers of the hand-written programs: one multiplication a number (Lemire and others
// call it a wide multiply; the constants are those of SplitMix64's increment and a prime).
#pragma once

#include <cstdint>

namespace orchard::bench {

__extension__ typedef unsigned __int128 Wide;  // of two words

class FastRandom {
 public:
  explicit FastRandom(std::uint64_t seed) : state_(seed) {}
  std::uint32_t below(std::uint32_t bound) {
    state_ += 0x9E3779B97F4A7C15ULL;
    const Wide product = static_cast<Wide>(state_) * (state_ ^ 0xE7037ED1A0B428DBULL);
    const auto bits = static_cast<std::uint32_t>((product >> 64) ^ product);
    return static_cast<std::uint32_t>((std::uint64_t{bits} * bound) >> 32);
  }

 private:
  std::uint64_t state_;
};

}  // namespace orchard::bench
