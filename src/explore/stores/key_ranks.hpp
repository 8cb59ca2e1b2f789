// The measure of keys: how many of its fluents hold in their positions.
//
// For 64 keys at once that differ in their lowest bits alone: which of them have a measure. A
// value; memory: a table for the keys' parts, some kilobytes.
#pragma once

#include "explore/keys/measure.hpp"
#include "explore/keys/position_code.hpp"

namespace orchard::explore {

class KeyRanks {
 public:
  KeyRanks(const PositionCode& code, const Measure& measure);

  // The measure at a depth, as keys have it: without fluents that always hold.
  std::int64_t at_depth(std::uint64_t depth) const {
    return at_start_ + step_ * static_cast<std::int64_t>(depth);
  }
  // Of the keys from `first` on, a multiple of 64, which have this measure.
  std::uint64_t mask(std::uint64_t first, std::int64_t rank) const {
    for (const Field& field : fields_) {
      rank -= field.ranks[first >> field.first_bit & (field.ranks.size() - 1)];
    }
    if (rank < 0 || static_cast<std::size_t>(rank) >= ranks_) return 0;
    const std::uint64_t context = first >> 6 & (contexts_ - 1);
    return masks_[context * ranks_ + static_cast<std::size_t>(rank)];
  }

 private:
  // Some bits of a key, those of whole groups.
  struct Field {
    std::uint32_t first_bit = 0;
    std::vector<std::uint16_t> ranks;  // by what the bits are
  };

  std::int64_t at_start_;
  int step_;
  std::vector<Field> fields_;  // above those that the masks are for
  // By the bits above the lowest six that belong to a group of theirs, and rank.
  std::vector<std::uint64_t> masks_;
  std::size_t contexts_ = 1;
  std::size_t ranks_ = 1;
};

}  // namespace orchard::explore
