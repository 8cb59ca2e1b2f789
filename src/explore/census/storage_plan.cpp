#include "explore/census/storage_plan.hpp"

#include <algorithm>

#include "explore/stores/key_bitmap.hpp"

namespace orchard::explore {

namespace {

// Of the bitmaps that are to be used; none if they do not fit, or sets of fewer keys are better: a
// bitmap of all positions is slower than sets of a few of them that stand for many.
std::optional<std::uint64_t> bytes_of_bitmaps(const StorageFacts& facts, bool layers) {
  constexpr std::size_t many_alike = 4;
  if (facts.no_room_for_bits || !facts.joined_bits) return std::nullopt;
  const auto bytes = bitmap_bytes(*facts.joined_bits, layers);
  if (!bytes || facts.asked == CensusStore::bitmap) return bytes;
  const bool fits = facts.alike < many_alike && (!facts.memory || *bytes <= *facts.memory);
  return fits ? bytes : std::nullopt;
}

// While there are at most so many keys sets are best: runs take longer, and large bitmaps soon take
// all of their memory.
std::uint64_t few_keys(const StorageFacts& facts, std::optional<std::uint64_t> bitmaps) {
  constexpr std::uint64_t few = 3'000'000;  // of one word
  constexpr std::uint64_t little_memory = 512 << 20;
  constexpr std::uint64_t bytes_worth_a_key = 400;
  constexpr std::uint64_t bytes_of_sets = 128;  // for each key, at most
  if (facts.asked != CensusStore::automatic) return 0;
  if (bitmaps) return *bitmaps > little_memory ? *bitmaps / bytes_worth_a_key : 0;
  return std::min(few / facts.words, facts.memory.value_or(~std::uint64_t{0}) / bytes_of_sets);
}

}  // namespace

std::optional<std::uint64_t> bitmap_bytes(std::uint32_t bits, bool layers) {
  if (bits > KeyBitmap::most_bits) return std::nullopt;
  return (std::uint64_t{1} << bits) / 8 * (layers ? 1 : 3);
}

StoragePlan StoragePlan::of_numbers(const std::vector<std::uint64_t>& numbers) {
  StoragePlan plan;
  plan.store = static_cast<Store>(numbers.at(0));
  plan.layers = numbers.at(1) != 0;
  return plan;
}

StoragePlan plan_storage(const StorageFacts& facts) {
  using Store = StoragePlan::Store;
  StoragePlan plan;
  plan.layers = facts.layers_apart && facts.asked != CensusStore::keys;
  if (facts.asked == CensusStore::keys || facts.asked == CensusStore::layers) {
    plan.store = Store::sets;
    return plan;
  }
  const auto bitmaps =
      facts.asked == CensusStore::runs ? std::nullopt : bytes_of_bitmaps(facts, plan.layers);
  plan.store = bitmaps ? Store::bitmap : Store::runs;
  const std::uint64_t few = few_keys(facts, bitmaps);
  if (few > 0 && facts.keys <= few) {
    plan.store = Store::sets;
    plan.most_keys = few;
  }
  return plan;
}

}  // namespace orchard::explore
