// The inner loops of transposing, for whatever vectors the processor has.
#pragma once

#include <cstdint>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// Adds a byte to the rows of all lanes, which have zero there: bit i of it is the lane's of
// eight[i].
void add_byte_to_rows(const LaneBlock* eight, unsigned byte, std::uint64_t* rows);

// Of 64 blocks the squares of 64 × 64 bits that stand side by side in them, each in place: bit i of
// word g of block j becomes bit j of word g of block i.
void transpose_squares(LaneBlock* blocks);

}  // namespace orchard::circuit
