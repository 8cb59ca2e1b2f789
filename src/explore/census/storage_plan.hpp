// How a count keeps its positions: the one place where that is decided, from what is known.
//
// A pure function: the same facts, the same plan. What is known grows while a count is tried: that
// keys are more than sets are good for, that a bitmap found no room, that layers are not apart.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "orchard/census.hpp"

namespace orchard::explore {

struct StorageFacts {
  CensusStore asked = CensusStore::automatic;
  bool layers_apart = false;                 // a measure tells the depths of keys apart
  std::size_t alike = 1;                     // positions that one key may stand for
  std::size_t words = 1;                     // of a key without joined groups
  std::optional<std::uint32_t> joined_bits;  // of a key with joined groups, if there is such a code
  std::optional<std::uint64_t> memory;       // for all of it
  std::uint64_t keys = 0;                    // there are at least so many
  bool no_room_for_bits = false;             // a bitmap was tried, and there was none
};

struct StoragePlan {
  enum class Store : std::uint8_t {
    sets,    // of keys, in parts that fit into caches
    runs,    // keys in order, each coded as what it is beyond the one before
    bitmap,  // a bit for each key there could be, of the code with joined groups
  };
  Store store = Store::runs;
  bool layers = false;                       // two layers are kept, not all keys
  std::optional<std::uint64_t> most_keys{};  // beyond them another plan is better

  // As it stands in a saved state.
  std::vector<std::uint64_t> numbers() const {
    return {static_cast<std::uint64_t>(store), layers ? 1u : 0u};
  }
  static StoragePlan of_numbers(const std::vector<std::uint64_t>& numbers);
  friend bool operator==(const StoragePlan&, const StoragePlan&) = default;
};

StoragePlan plan_storage(const StorageFacts& facts);

// Bytes of the bitmaps of keys of so many bits; none if there can be no such bitmap.
std::optional<std::uint64_t> bitmap_bytes(std::uint32_t bits, bool layers);

}  // namespace orchard::explore
