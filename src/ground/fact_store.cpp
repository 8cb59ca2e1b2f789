#include "ground/fact_store.hpp"

#include <xxhash.h>

#include <algorithm>

namespace orchard::ground {

std::uint64_t FactStore::hash(std::span<const TermId> key) {
  return XXH3_64bits(key.data(), key.size_bytes());
}

std::uint32_t FactStore::find(std::span<const TermId> wanted) const {
  for (std::uint64_t at = hash(wanted);; ++at) {
    const auto found = whole_.find(at);
    if (found == whole_.end()) return no_row;
    if (std::ranges::equal(row(found->second), wanted)) return found->second;
  }
}

std::pair<std::uint32_t, bool> FactStore::insert(std::span<const TermId> added) {
  for (std::uint64_t at = hash(added);; ++at) {
    const auto [known, is_new] = whole_.try_emplace(at, rows_);
    if (is_new) break;
    if (std::ranges::equal(row(known->second), added)) return {known->second, false};
  }
  const std::uint32_t number = rows_++;
  cells_.insert(cells_.end(), added.begin(), added.end());
  for (Index& index : indexes_) add_to(index, number);
  return {number, true};
}

void FactStore::add_to(Index& index, std::uint32_t number) {
  const std::span<const TermId> cells = row(number);
  key_.clear();
  for (std::uint32_t c = 0; c < columns_; ++c) {
    if ((index.mask >> c & 1) != 0) key_.push_back(cells[c]);
  }
  index.next.push_back(no_row);
  const auto [chain, is_new] = index.chains.try_emplace(hash(key_), Chain{number, number});
  if (is_new) return;
  index.next[chain->second.last] = number;
  chain->second.last = number;
}

std::uint32_t FactStore::index_on(std::uint32_t mask) {
  for (std::uint32_t i = 0; i < indexes_.size(); ++i) {
    if (indexes_[i].mask == mask) return i;
  }
  indexes_.push_back({mask, {}, {}});
  for (std::uint32_t number = 0; number < rows_; ++number) add_to(indexes_.back(), number);
  return static_cast<std::uint32_t>(indexes_.size() - 1);
}

std::uint32_t FactStore::first_with(std::uint32_t index, std::span<const TermId> key) const {
  const auto found = indexes_[index].chains.find(hash(key));
  return found == indexes_[index].chains.end() ? no_row : found->second.first;
}

std::uint64_t FactStore::bytes() const {
  constexpr std::uint64_t of_slot = 17;  // a hash, what it stands for, and a control byte
  std::uint64_t sum = cells_.capacity() * sizeof(TermId) + whole_.capacity() * of_slot;
  for (const Index& index : indexes_) {
    sum += index.chains.capacity() * of_slot + index.next.capacity() * sizeof(std::uint32_t);
  }
  return sum;
}

}  // namespace orchard::ground
