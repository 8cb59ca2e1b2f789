#include "explore/census/position_store.hpp"

#include <algorithm>
#include <cstring>

namespace orchard {

std::pair<std::uint64_t, bool> PositionStore::add(std::string_view key) {
  const auto known = known_.find(key);
  if (known != known_.end()) return {known->second, false};
  const std::uint64_t number = keys_.size();
  keys_.push_back(keep(key));
  known_.emplace(keys_.back(), number);
  return {number, true};
}

std::string_view PositionStore::keep(std::string_view key) {
  if (key.empty()) return {};
  if (used_ + key.size() > block_bytes) {
    blocks_.push_back(std::make_unique<char[]>(std::max(block_bytes, key.size())));
    used_ = 0;
  }
  char* place = blocks_.back().get() + used_;
  std::memcpy(place, key.data(), key.size());
  used_ += key.size();
  return {place, key.size()};
}

std::uint64_t PositionStore::bytes() const {
  constexpr std::uint64_t entry = sizeof(std::string_view) + sizeof(std::uint64_t) + 1;
  return blocks_.size() * block_bytes + keys_.capacity() * sizeof(std::string_view) +
         known_.capacity() * entry;
}

}  // namespace orchard
