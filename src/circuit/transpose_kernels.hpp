// The inner loop of transposing few bits, for whatever vectors the processor has.
#pragma once

#include <cstdint>

#include "circuit/lane_program.hpp"

namespace orchard::circuit {

// Adds a byte to the rows of all lanes, which have zero there: bit i of it is the lane's of
// eight[i].
void add_byte_to_rows(const LaneBlock* eight, unsigned byte, std::uint64_t* rows);

}  // namespace orchard::circuit
