// The inner loops over blocks of lanes, for whatever vectors the processor has.
#pragma once

#include <cstddef>
#include <cstdint>

#include "circuit/lane_program.hpp"

namespace orchard::circuit {

// Planes from `first` to `end`-1, each the exclusive-or of those 216, 337, 579 and 1279 before.
void extend_planes(LaneBlock* planes, std::size_t first, std::size_t end);

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

// For each of `groups` of lanes: those that have ended leave it; how many is added to the sum with
// the number lengths[g], and of those not finished to that of `stuck`. `left[g]` tells whether
// lanes are left in it.
struct GroupSums {
  LaneBlock* ended = nullptr;
  LaneBlock* stuck = nullptr;
};
void leave_groups(LaneBlock* groups, const std::uint64_t* lengths, std::size_t count,
                  const LaneBlock& ended, const LaneBlock& finished, const GroupSums& sums,
                  bool* left);

// For each pattern of `values`: how many of the lanes have it, added to its sum; flips[p · values +
// v] is all ones where the pattern lacks value v, else 0. Lanes with some pattern are taken out of
// `lanes`; whether any is left.
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& lanes, LaneBlock* sums);

// One less for these lanes in numbers written bit by bit, lowest first; `some` gets the lanes whose
// number is not 0.
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& lanes, LaneBlock& some);

}  // namespace orchard::circuit
