#include "solve/bounds_table.hpp"

#include <xxhash.h>

#include <algorithm>
#include <utility>

namespace orchard::solve_inner {

// The place of a position; what stands there may be another one.
std::size_t BoundsTable::place_of(std::span<const std::uint64_t> row) const {
  return XXH3_64bits(row.data(), row.size_bytes()) & (entries_.size() - 1);
}

BoundsTable::Entry* BoundsTable::find(std::span<const std::uint64_t> row) {
  if (entries_.empty()) return nullptr;
  const std::size_t place = place_of(row);
  const bool same = std::ranges::equal(std::span(keys_).subspan(place * words_, words_), row);
  return same ? &entries_[place] : nullptr;
}

BoundsTable::Entry& BoundsTable::make(std::span<const std::uint64_t> row, std::uint8_t highest) {
  constexpr std::size_t most = std::size_t{1} << 21;
  if (Entry* const known = find(row)) return *known;
  if (used_ * 2 >= entries_.size() && entries_.size() < most) grow();
  const std::size_t place = place_of(row);
  if (entries_[place].upper == unused) ++used_;
  std::ranges::copy(row, keys_.begin() + static_cast<std::ptrdiff_t>(place * words_));
  entries_[place] = {0, highest, 0, 0, no_move};
  return entries_[place];
}

void BoundsTable::grow() {
  constexpr std::size_t first_size = std::size_t{1} << 14;
  constexpr std::size_t times = 4;
  const std::vector<Entry> entries = std::exchange(entries_, {});
  const std::vector<std::uint64_t> keys = std::exchange(keys_, {});
  const std::size_t size = entries.empty() ? first_size : entries.size() * times;
  entries_.assign(size, {0, unused, 0, 0, no_move});
  keys_.assign(size * words_, ~std::uint64_t{0});
  used_ = 0;
  for (std::size_t i = 0; i < entries.size(); ++i) {
    if (entries[i].upper == unused) continue;
    make(std::span(keys).subspan(i * words_, words_), 0) = entries[i];
  }
}

}  // namespace orchard::solve_inner
