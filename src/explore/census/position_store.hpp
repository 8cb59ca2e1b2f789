// The set of positions met so far, each a string of bytes that whoever uses it makes and reads.
//
// Invariants: positions are numbered from 0 in the order of adding; a number stays valid, and so
// does what `key` gives. One owner. Cost: add O(length of the key) expected.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <memory>
#include <string_view>
#include <utility>
#include <vector>

namespace orchard {

class PositionStore {
 public:
  // The number of a position, and whether it is new.
  std::pair<std::uint64_t, bool> add(std::string_view key);
  std::string_view key(std::uint64_t number) const { return keys_[number]; }

  std::uint64_t size() const { return keys_.size(); }
  std::uint64_t bytes() const;

 private:
  static constexpr std::size_t block_bytes = 1u << 20;

  std::string_view keep(std::string_view key);

  std::vector<std::string_view> keys_;  // by position number, into the blocks
  absl::flat_hash_map<std::string_view, std::uint64_t> known_;
  std::vector<std::unique_ptr<char[]>> blocks_;
  std::size_t used_ = block_bytes;  // bytes of the last block
};

}  // namespace orchard
