// The interpreter's loop, for whatever vectors the processor has.
#pragma once

#include <cstddef>
#include <cstdint>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// Where a value lies: a memory and a block in it.
struct LanePlace {
  std::uint32_t memory : 2;
  std::uint32_t block : 30;
};

struct LaneRecord {  // an operation with places instead of values
  LanePlace a;
  LanePlace b;
  LanePlace c;
  std::uint32_t result;  // block of the results
  std::uint8_t table;
};

// `results` may be one of the memories; an operation never writes what it reads.
void run_records(const LaneRecord* records, std::size_t count, const LaneBlock* const* memories,
                 LaneBlock* results);

}  // namespace orchard::circuit
