// Choosing among the bits of a word, two ways; which is faster depends on the processor.
#pragma once

#include <immintrin.h>

#include <bit>
#include <cstdint>

namespace orchard::bench {

struct BitByDeposit {
  static std::uint64_t pick(std::uint64_t word, std::uint32_t number) {
    return _pdep_u64(std::uint64_t{1} << number, word);
  }
};

struct BitByClearing {
  static std::uint64_t pick(std::uint64_t word, std::uint32_t number) {
    for (; number > 0; --number) word &= word - 1;
    return word & (0 - word);
  }
};

}  // namespace orchard::bench
