// The inner loops over blocks of lanes, for whatever vectors the processor has.
//
// Numbers of lanes are written bit by bit: a block holds one bit of all lanes' numbers, the lowest
// block first.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// The next outputs of xoshiro256++ in every word: `state` has four blocks for each of four planes
// in turn; `count` is a multiple of four.
void make_planes(LaneBlock* state, LaneBlock* planes, std::size_t count);

bool any_lane(const LaneBlock& block);
std::uint64_t count_lanes(const LaneBlock& block);

// Counts lanes of sixteen blocks at a time with carry-save adders: most of the work is done on
// whole blocks, and lanes are counted for every sixteenth only. Source: Harley and Seal, in Warren,
// "Hacker's Delight", 2nd edition (2012), section 5-1.
struct BitCounter {
  LaneBlock ones, twos, fours, eights;
  std::uint64_t sixteens = 0;
  std::uint64_t more = 0;  // counted one by one
  std::uint64_t total() const;
};
// Of sixteen blocks, the first of each `stride`; or of one.
void count_sixteen(const LaneBlock* blocks, std::size_t stride, BitCounter& counter);
void count_one(const LaneBlock& block, BitCounter& counter);

// One ply of lanes: what was there, and what is kept for the lanes whose game is over.
struct LanePly {
  const LaneBlock* over = nullptr;
  const LaneBlock* ended = nullptr;  // of them, by an end
  const LaneBlock* moved = nullptr;  // lanes whose game is a ply older afterwards
  const LaneBlock* conflict = nullptr;
  const LaneBlock* values = nullptr;
  std::size_t value_count = 0;
  LaneBlock* ages = nullptr;
  std::size_t age_bits = 0;
  LaneBlock* pending = nullptr;        // lanes for which something is kept
  LaneBlock* pending_ended = nullptr;  // of them, those whose game came to an end
  LaneBlock* pending_ages = nullptr;
  LaneBlock* pending_values = nullptr;
};
struct PlyOutcome {
  bool over = false;      // somewhere
  bool conflict = false;  // somewhere; then nothing was done
  bool overlap = false;   // a lane that is over has something kept already; then nothing was done
  bool carry = false;     // ages did not fit: what is carried over
};
PlyOutcome finish_ply(const LanePly& ply, LaneBlock& carry);

// How many of the lanes have each number. Gives the pairs written to `found`, of number and lanes.
struct NumberCount {
  std::uint64_t number = 0;
  std::uint64_t lanes = 0;
};
std::size_t count_numbers(const LaneBlock* bits, std::size_t bit_count, const LaneBlock& of_lanes,
                          NumberCount* found);  // room for `lanes` of them

// For each pattern of `values`: how many of the lanes have it, added to its count; flips[p · values
// + v] is all ones where the pattern lacks value v, else 0. Lanes with some pattern are taken out
// of `of_lanes`; whether any is left.
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& of_lanes, std::uint64_t* counts);

// One less for these lanes; `some` keeps those of them whose number is not 0 afterwards.
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& of_lanes, LaneBlock& some);

}  // namespace orchard::circuit
