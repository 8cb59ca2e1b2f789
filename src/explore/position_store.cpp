#include "explore/position_store.hpp"

#include <algorithm>
#include <cstring>

namespace orchard {

std::pair<std::uint64_t, bool> PositionStore::add(std::span<const rules::TermId> fluents) {
  numbers_.clear();
  for (const rules::TermId fluent : fluents) {
    const auto [entry, is_new] =
        number_of_fluent_.try_emplace(fluent, static_cast<std::uint32_t>(fluents_.size()));
    if (is_new) fluents_.push_back(fluent);
    numbers_.push_back(entry->second);
  }
  std::ranges::sort(numbers_);
  scratch_.clear();
  std::uint32_t last = 0;
  for (const std::uint32_t number : numbers_) {
    std::uint32_t step = number - last;
    for (; step >= 0x80; step >>= 7) scratch_ += static_cast<char>(step | 0x80);
    scratch_ += static_cast<char>(step);
    last = number;
  }
  const auto known = known_.find(scratch_);
  if (known != known_.end()) return {known->second, false};
  const std::uint64_t number = packed_.size();
  packed_.push_back(keep(scratch_));
  known_.emplace(packed_.back(), number);
  return {number, true};
}

void PositionStore::fetch(std::uint64_t number, std::vector<rules::TermId>& fluents) const {
  fluents.clear();
  std::uint32_t last = 0;
  std::uint32_t step = 0;
  int shift = 0;
  for (const char byte : packed_[number]) {
    step |= (static_cast<std::uint32_t>(byte) & 0x7F) << shift;
    shift += 7;
    if (static_cast<unsigned char>(byte) >= 0x80) continue;
    last += step;
    fluents.push_back(fluents_[last]);
    step = 0;
    shift = 0;
  }
}

std::string_view PositionStore::keep(std::string_view packed) {
  if (packed.empty()) return {};
  if (used_ + packed.size() > block_bytes) {
    blocks_.push_back(std::make_unique<char[]>(std::max(block_bytes, packed.size())));
    used_ = 0;
  }
  char* place = blocks_.back().get() + used_;
  std::memcpy(place, packed.data(), packed.size());
  used_ += packed.size();
  return {place, packed.size()};
}

std::uint64_t PositionStore::bytes() const {
  constexpr std::uint64_t entry = sizeof(std::string_view) + sizeof(std::uint64_t) + 1;
  return blocks_.size() * block_bytes + packed_.capacity() * sizeof(std::string_view) +
         known_.capacity() * entry;
}

}  // namespace orchard
