// A network as a straight sequence of operations on lanes: bit l of every word belongs to lane l.
//
// A value is a block of 512 lanes. Values 0 … inputs-1 are given; each operation makes the next
// one, any function of up to three earlier values by its table: bit 4a + 2b + c of the table is the
// result for those bits. Immutable once made.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace orchard::circuit {

inline constexpr std::size_t lanes = 512;

struct alignas(64) LaneBlock {
  std::array<std::uint64_t, lanes / 64> words{};
};

// The first of them, up to all.
inline LaneBlock first_lanes(std::size_t count) {
  LaneBlock result;
  for (std::size_t w = 0; w < result.words.size(); ++w) {
    const std::size_t here = count - std::min(count, w * 64);
    result.words[w] = here >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << here) - 1;
  }
  return result;
}

struct LaneOperation {
  std::uint32_t a = 0;
  std::uint32_t b = 0;
  std::uint32_t c = 0;
  std::uint8_t table = 0;
};

struct LaneProgram {
  std::uint32_t inputs = 0;
  std::uint32_t state_inputs = 0;  // of them; the others are random bits
  std::vector<LaneOperation> operations;
  std::vector<std::uint32_t> outputs;  // values: first the reports, then the next state
  std::uint32_t reports = 0;
};

}  // namespace orchard::circuit
