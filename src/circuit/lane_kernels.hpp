// The inner loops over blocks of lanes, for whatever vectors the processor has.
#pragma once

#include <cstddef>
#include <cstdint>

#include "circuit/lane_program.hpp"

namespace orchard::circuit {

// The next outputs of xoshiro256++ in every word: `state` has four blocks for planes of even number
// and four for those of odd number; `count` is even.
void make_planes(LaneBlock* state, LaneBlock* planes, std::size_t count);

// ended = (terminal or stuck) and active; whether any lane has ended.
bool find_ended(const LaneBlock& terminal, const LaneBlock& stuck, const LaneBlock& active,
                LaneBlock& ended);

// active and neither terminal nor stuck.
LaneBlock running_lanes(const LaneBlock& terminal, const LaneBlock& stuck, const LaneBlock& active);

// Sums are kept apart, one a word of a block, and added up when they are asked for: adding across a
// vector costs more than all else here.

// In how many running lanes a role is to move, and its legal moves there: one where forced, else
// the number written in `bits`, lowest first. Added to the sums.
void count_role_moves(const LaneBlock& running, const LaneBlock& to_move, const LaneBlock& forced,
                      const LaneBlock* bits, std::size_t bit_count, LaneBlock& positions,
                      LaneBlock& choices);

// For each pattern of `values`: how many of the lanes have it, added to its sum; flips[p · values +
// v] is all ones where the pattern lacks value v, else 0. Lanes with some pattern are taken out of
// `lanes`; whether any is left.
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& lanes, LaneBlock* sums);

// One less for these lanes in numbers written bit by bit, lowest first; `some` gets the lanes whose
// number is not 0.
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& lanes, LaneBlock& some);

}  // namespace orchard::circuit
