#include "explore/key_set.hpp"

#include <algorithm>
#include <utility>

namespace orchard::explore {

static_assert(unmixed_key(mixed_key(0x0123456789ABCDEF)) == 0x0123456789ABCDEF);

void KeySet::grow(std::uint64_t places) {
  constexpr std::uint64_t fewest = 64;
  const std::vector<std::uint64_t> before = std::exchange(places_, {});
  places_.assign(std::max(places, fewest), free_place);
  for (const std::uint64_t key : before) {
    if (key == free_place) continue;
    std::size_t at = place(key);
    while (places_[at] != free_place) at = at + 1 == places_.size() ? 0 : at + 1;
    places_[at] = key;
  }
}

void KeySet::restore(std::vector<std::uint64_t> places) {
  places_ = std::move(places);
  taken_ = static_cast<std::uint64_t>(
      std::ranges::count_if(places_, [](std::uint64_t key) { return key != free_place; }));
}

}  // namespace orchard::explore
