// The set of positions met so far, packed.
//
// Invariants: positions are numbered from 0 in the order of adding; a number stays valid.
// A position is kept as the ascending numbers of its fluents (numbered in the order of meeting),
// each as the difference from the one before in a variable number of bytes.
// One owner. Cost: add and fetch O(fluents) expected.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "rules/term_table.hpp"

namespace orchard {

class PositionStore {
 public:
  // The number of a position (fluents in any order), and whether it is new.
  std::pair<std::uint64_t, bool> add(std::span<const rules::TermId> fluents);
  // The fluents of a position, in no particular order.
  void fetch(std::uint64_t number, std::vector<rules::TermId>& fluents) const;

  std::uint64_t size() const { return packed_.size(); }
  std::uint64_t bytes() const;

 private:
  static constexpr std::size_t block_bytes = 1u << 20;

  std::string_view keep(std::string_view packed);

  absl::flat_hash_map<rules::TermId, std::uint32_t> number_of_fluent_;
  std::vector<rules::TermId> fluents_;    // by number
  std::vector<std::string_view> packed_;  // by position number, into the blocks
  absl::flat_hash_map<std::string_view, std::uint64_t> known_;
  std::vector<std::unique_ptr<char[]>> blocks_;
  std::size_t used_ = block_bytes;      // bytes of the last block
  std::vector<std::uint32_t> numbers_;  // scratch
  std::string scratch_;
};

}  // namespace orchard
