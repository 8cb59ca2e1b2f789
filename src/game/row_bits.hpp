// Bits of rows of words, 64 a word.
#pragma once

#include <bit>
#include <cstdint>
#include <vector>

namespace orchard {

// The bits first … end-1 of a row that are set, counted from `first`, ascending.
inline void set_bits(const std::uint64_t* row, std::size_t first, std::size_t end,
                     std::vector<std::uint32_t>& numbers) {
  numbers.clear();
  for (std::size_t w = first / 64; w * 64 < end; ++w) {
    std::uint64_t word = row[w];
    if (w == first / 64) word &= ~std::uint64_t{0} << (first % 64);
    if (end - w * 64 < 64) word &= (std::uint64_t{1} << (end - w * 64)) - 1;
    for (; word != 0; word &= word - 1) {
      const std::size_t at = w * 64 + static_cast<std::size_t>(std::countr_zero(word));
      numbers.push_back(static_cast<std::uint32_t>(at - first));
    }
  }
}

}  // namespace orchard
