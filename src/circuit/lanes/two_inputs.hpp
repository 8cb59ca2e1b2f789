// A lane program whose operations read at most two values, for processors whose instructions do.
#pragma once

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// The same outputs from the same inputs. Each operation is one of: the conjunction, the
// disjunction, the exclusive or of b and c, or b without c (its table, with a = b; see
// `two_input_tables`), or the negation of b (with a = b = c), or a constant. Functions of three
// values become the fewest of these that an expression needs, four at most.
LaneProgram in_two_inputs(const LaneProgram& program);

// Of operations with a = b: bits 4a + 2b + c that can come up are 0, 1, 6 and 7.
inline constexpr std::uint8_t both_table = 0b10000000;
inline constexpr std::uint8_t either_table = 0b11000010;
inline constexpr std::uint8_t differ_table = 0b01000010;
inline constexpr std::uint8_t without_table = 0b01000000;   // b and not c
inline constexpr std::uint8_t negation_table = 0b00000001;  // of a = b = c

}  // namespace orchard::circuit
