// Between rows and lanes: a row holds one lane's bits, 64 a word; a block holds one bit of each
// lane.
#pragma once

#include <cstdint>
#include <span>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

inline constexpr std::size_t words_for(std::size_t bits) {
  return (bits + 63) / 64;
}

// `rows` has `row_count` rows of words_for(blocks.size()) words; lanes beyond them become zero.
// O(bits · lanes / 64 · log 64).
void rows_to_lanes(std::span<const std::uint64_t> rows, std::size_t row_count,
                   std::span<LaneBlock> blocks);
// The other way; bits of a row beyond the blocks become zero.
void lanes_to_rows(std::span<const LaneBlock> blocks, std::size_t row_count,
                   std::span<std::uint64_t> rows);

// Rows of one word, one for each lane, in which block i is bit places[i], ascending, and all other
// bits are zero. What it costs depends on how many bytes the places lie in.
void lanes_to_places(std::span<const LaneBlock> blocks, std::span<const std::uint8_t> places,
                     std::span<std::uint64_t> rows);

}  // namespace orchard::circuit
