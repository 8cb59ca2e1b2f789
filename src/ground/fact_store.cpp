#include "ground/fact_store.hpp"

#include <absl/hash/hash.h>

#include <algorithm>

namespace orchard::ground {

std::uint64_t FactStore::hash(std::span<const TermId> key) {
  return absl::HashOf(absl::Span<const TermId>(key.data(), key.size()));
}

std::uint32_t FactStore::find(std::span<const TermId> wanted) const {
  const auto found = whole_.find(hash(wanted));
  if (found == whole_.end()) return no_row;
  for (const std::uint32_t number : found->second) {
    if (std::ranges::equal(row(number), wanted)) return number;
  }
  return no_row;
}

std::pair<std::uint32_t, bool> FactStore::insert(std::span<const TermId> added) {
  std::vector<std::uint32_t>& same = whole_[hash(added)];
  for (const std::uint32_t number : same) {
    if (std::ranges::equal(row(number), added)) return {number, false};
  }
  const std::uint32_t number = rows_++;
  same.push_back(number);
  cells_.insert(cells_.end(), added.begin(), added.end());
  for (Index& index : indexes_) add_to(index, number);
  return {number, true};
}

void FactStore::add_to(Index& index, std::uint32_t number) {
  const std::span<const TermId> cells = row(number);
  std::vector<TermId> key;
  for (std::uint32_t c = 0; c < columns_; ++c) {
    if ((index.mask >> c & 1) != 0) key.push_back(cells[c]);
  }
  index.rows[hash(key)].push_back(number);
}

std::uint32_t FactStore::index_on(std::uint32_t mask) {
  for (std::uint32_t i = 0; i < indexes_.size(); ++i) {
    if (indexes_[i].mask == mask) return i;
  }
  indexes_.push_back({mask, {}});
  for (std::uint32_t number = 0; number < rows_; ++number) add_to(indexes_.back(), number);
  return static_cast<std::uint32_t>(indexes_.size() - 1);
}

std::span<const std::uint32_t> FactStore::rows_with(std::uint32_t index,
                                                    std::span<const TermId> key) const {
  const auto found = indexes_[index].rows.find(hash(key));
  if (found == indexes_[index].rows.end()) return {};
  return found->second;
}

double FactStore::rows_a_key(std::uint32_t index) const {
  const std::size_t keys = indexes_[index].rows.size();
  return keys == 0 ? 0 : static_cast<double>(rows_) / static_cast<double>(keys);
}

}  // namespace orchard::ground
