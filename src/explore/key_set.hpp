// A set of keys with nothing beside them: open addressing, with the keys themselves in the table.
//
// Keys are kept and given *mixed*, spread evenly over all 64-bit numbers, so that no operation has
// to hash; mixing can be undone. One owner. Memory: 8 bytes a place; at most four in five are
// taken, and a full table grows by half. Insertion is O(1) expected; what a key will touch can be
// fetched ahead.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace orchard::explore {

// Source: the finalizer of MurmurHash3 (Appleby 2011), each step of which can be undone.
constexpr std::uint64_t mixed_key(std::uint64_t key) {
  key ^= key >> 33;
  key *= 0xFF51AFD7ED558CCD;
  key ^= key >> 33;
  key *= 0xC4CEB9FE1A85EC53;
  return key ^ key >> 33;
}
constexpr std::uint64_t unmixed_key(std::uint64_t mixed) {
  mixed ^= mixed >> 33;
  mixed *= 0x9CB4B2F8129337DB;
  mixed ^= mixed >> 33;
  mixed *= 0x4F74430C22A54005;
  return mixed ^ mixed >> 33;
}

class KeySet {
 public:
  // Stands in free places: the one key that no set may have, mixed.
  static constexpr std::uint64_t free_place = mixed_key(~std::uint64_t{0});

  // Whether it is new.
  bool insert(std::uint64_t key) {
    if (taken_ * 5 >= places_.size() * 4) grow(places_.size() + places_.size() / 2);
    for (std::size_t at = place(key);; at = at + 1 == places_.size() ? 0 : at + 1) {
      if (places_[at] == key) return false;
      if (places_[at] != free_place) continue;
      places_[at] = key;
      ++taken_;
      return true;
    }
  }
  void prefetch(std::uint64_t key) const {
    if (!places_.empty()) __builtin_prefetch(&places_[place(key)], 1);
  }
  // Room for so many keys.
  void reserve(std::uint64_t keys) {
    if (keys * 5 / 4 + 1 > places_.size()) grow(keys * 5 / 4 + 1);
  }
  std::uint64_t size() const { return taken_; }
  std::uint64_t bytes() const { return places_.capacity() * sizeof(std::uint64_t); }
  // Without any key; the memory is given back.
  void clear() {
    places_ = {};
    taken_ = 0;
  }

  // As it was with these places.
  void restore(std::vector<std::uint64_t> places);

  // The mixed keys are those of the places that are not free.
  std::span<const std::uint64_t> places() const { return places_; }

 private:
  // Of fewer than 2^32 places; the upper bits are left to whoever shares keys out.
  std::size_t place(std::uint64_t key) const {
    return static_cast<std::size_t>((key & 0xFFFFFFFF) * places_.size() >> 32);
  }
  void grow(std::uint64_t places);

  std::vector<std::uint64_t> places_;
  std::uint64_t taken_ = 0;
};

}  // namespace orchard::explore
