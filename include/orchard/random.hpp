// A random source that gives the same numbers on every machine, compiler and library.
//
// The bits are those of std::mt19937_64, which the C++ standard fixes; the distributions of the
// standard library are not fixed, so the one draw that the library needs is made here.
// One source belongs to one thread.
#pragma once

#include <cstdint>
#include <random>

namespace orchard {

// A source of random numbers that gives the same ones on every machine.
class Random {
 public:
  // The same numbers for the same seed.
  explicit Random(std::uint64_t seed) : bits_(seed) {}

  // Uniform in 0 … bound-1, without bias; `bound` is at least 1. Expected cost: one draw of 64
  // bits (rejection happens with probability below bound / 2^64).
  std::uint64_t below(std::uint64_t bound) {
    const std::uint64_t rejected = (0 - bound) % bound;  // 2^64 mod bound
    std::uint64_t draw = bits_();
    while (draw < rejected) draw = bits_();
    return draw % bound;
  }

  // A source for a part of the work, independent of how much of this one is used elsewhere.
  static Random stream(std::uint64_t seed, std::uint64_t part) {
    std::seed_seq mix{static_cast<std::uint32_t>(seed), static_cast<std::uint32_t>(seed >> 32),
                      static_cast<std::uint32_t>(part), static_cast<std::uint32_t>(part >> 32)};
    Random random(0);
    random.bits_.seed(mix);
    return random;
  }

 private:
  std::mt19937_64 bits_;
};

}  // namespace orchard
