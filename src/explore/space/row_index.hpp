// Finds the number of a row by its hash.
//
// Open addressing with the hash in the slot, in the order of the hashes: a lookup that was fetched
// ahead costs no further miss, rows are compared only where all of the hash is the same, and
// growing runs over the slots from one end to the other. A set of a library, measured in its place,
// took half as long again for exploring. One thread. Memory: 8 bytes a slot, three quarters of them
// at most in use.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

namespace orchard::explore {

class RowIndex {
 public:
  using Number = std::uint32_t;  // three thousand million of them at most

  std::uint64_t bytes() const { return slots_.capacity() * sizeof(Slot); }
  void reserve(std::uint64_t count) {
    while (count * 4 > slots_.size() * 3) grow();
  }

  void prefetch(std::uint32_t hash) const { __builtin_prefetch(&slots_[place_of(hash)]); }
  // The first number with this hash: nearly always the one that will be found.
  std::optional<Number> likely(std::uint32_t hash) const {
    return find(hash, [](Number) { return true; });
  }
  // The number with this hash for which `is_same(number)`.
  template <class IsSame>
  std::optional<Number> find(std::uint32_t hash, IsSame&& is_same) const {
    for (std::size_t at = place_of(hash); slots_[at].used != 0; at = next(at)) {
      const Slot& slot = slots_[at];
      if (slot.hash == hash && is_same(slot.used - 1)) return slot.used - 1;
    }
    return std::nullopt;
  }
  // One that is not there yet.
  void add(std::uint32_t hash, Number number) {
    reserve(++count_);
    put({hash, number + 1});
  }

 private:
  struct Slot {
    std::uint32_t hash = 0;
    std::uint32_t used = 0;  // a number and one, or nothing
  };

  std::size_t place_of(std::uint32_t hash) const { return hash >> shift_; }
  std::size_t next(std::size_t at) const { return at + 1 == slots_.size() ? 0 : at + 1; }
  void put(Slot slot) {
    std::size_t at = place_of(slot.hash);
    while (slots_[at].used != 0) at = next(at);
    slots_[at] = slot;
  }
  void grow() {
    std::vector<Slot> before(slots_.size() * 2);
    before.swap(slots_);
    --shift_;
    for (const Slot& slot : before) {
      if (slot.used != 0) put(slot);
    }
  }

  unsigned shift_ = 26;  // 32 less the bits of a place
  std::vector<Slot> slots_ = std::vector<Slot>(std::size_t{1} << (32 - 26));
  std::uint64_t count_ = 0;
};

}  // namespace orchard::explore
