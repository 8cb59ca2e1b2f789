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

struct MoveCount {
  std::uint64_t positions = 0;
  std::uint64_t choices = 0;
};
// In how many running lanes a role is to move, and its legal moves there: one where forced, else
// the number written in `bits`, lowest first.
MoveCount count_role_moves(const LaneBlock& running, const LaneBlock& to_move,
                           const LaneBlock& forced, const LaneBlock* bits, std::size_t bit_count);

// For each of `groups` of lanes: how many have ended and how many of them finished; the ended ones
// leave their group. `left[g]` tells whether lanes are left in it.
void leave_groups(LaneBlock* groups, std::size_t count, const LaneBlock& ended,
                  const LaneBlock& finished, std::uint32_t* ended_counts,
                  std::uint32_t* finished_counts, bool* left);

// For each pattern of `values`: how many of the lanes have it; flips[p · values + v] is all ones
// where the pattern lacks value v, else 0. Lanes with some pattern are taken out of `lanes`;
// whether any is left.
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& lanes, std::uint32_t* counts);

// One less for these lanes in numbers written bit by bit, lowest first; `some` gets the lanes whose
// number is not 0.
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& lanes, LaneBlock& some);

}  // namespace orchard::circuit
