// A set of mixed keys with nothing beside them: open addressing, with the keys themselves in the
// table.
//
// One owner. Memory: a key a place; at most four places in five are taken, and a full table grows
// by half. Insertion is O(1) expected; what a key will touch can be fetched ahead.
#pragma once

#include <algorithm>
#include <span>
#include <utility>
#include <vector>

#include "explore/stores/key_parts.hpp"

namespace orchard::explore {

template <std::size_t words>
class KeySet {
 public:
  static constexpr Key<words> free_place = [] {
    Key<words> key{};
    key[words - 1] = ~std::uint64_t{0};
    return key;
  }();

  // Whether it is new.
  bool insert(const Key<words>& key) {
    if (taken_ * 5 >= places_.size() * 4) grow(places_.size() + places_.size() / 2);
    for (std::size_t at = place(key);; at = after(at)) {
      if (same_key(places_[at], key)) return false;
      if (!same_key(places_[at], free_place)) continue;
      places_[at] = key;
      ++taken_;
      return true;
    }
  }
  void prefetch(const Key<words>& key) const {
    if (!places_.empty()) __builtin_prefetch(&places_[place(key)], 1);
  }
  // Room for so many keys.
  void reserve(std::uint64_t keys) {
    if (keys * 5 / 4 + 1 > places_.size()) grow(keys * 5 / 4 + 1);
  }
  std::uint64_t size() const { return taken_; }
  std::uint64_t bytes() const { return places_.capacity() * sizeof(Key<words>); }
  // As it was with these places.
  void restore(std::vector<Key<words>> places) {
    places_ = std::move(places);
    taken_ = static_cast<std::uint64_t>(std::ranges::count_if(
        places_, [](const Key<words>& key) { return !same_key(key, free_place); }));
  }

  // The keys are those of the places that are not free.
  std::span<const Key<words>> places() const { return places_; }

 private:
  // Of fewer than 2^32 places; the highest bits are left to whoever shares keys out.
  std::size_t place(const Key<words>& key) const {
    return static_cast<std::size_t>((key[0] << key_part_bits >> 32) * places_.size() >> 32);
  }
  std::size_t after(std::size_t place) const { return place + 1 == places_.size() ? 0 : place + 1; }
  void grow(std::uint64_t places) {
    constexpr std::uint64_t fewest = 64;
    const std::vector<Key<words>> before = std::exchange(places_, {});
    places_.assign(std::max(places, fewest), free_place);
    for (const Key<words>& key : before) {
      if (same_key(key, free_place)) continue;
      std::size_t at = place(key);
      while (!same_key(places_[at], free_place)) at = after(at);
      places_[at] = key;
    }
  }

  std::vector<Key<words>> places_;
  std::uint64_t taken_ = 0;
};

}  // namespace orchard::explore
