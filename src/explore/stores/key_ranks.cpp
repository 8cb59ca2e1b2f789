#include "explore/stores/key_ranks.hpp"

#include <algorithm>

namespace orchard::explore {

namespace {

using Groups = std::vector<const PositionCode::Group*>;

// How many of the measure's fluents hold where the bits of these groups, from `first_bit` on, are
// `bits`; numbers that stand for nothing count none.
std::uint16_t rank_of(const Groups& groups, const Measure& measure, std::uint32_t first_bit,
                      std::uint64_t bits) {
  std::uint16_t result = 0;
  for (const PositionCode::Group* group : groups) {
    const std::uint64_t number =
        bits >> (group->first_bit - first_bit) & ((std::uint64_t{1} << group->bits) - 1);
    if (number >= group->patterns.size()) continue;
    for (const std::uint16_t place : group->patterns[number]) {
      if (std::ranges::find(measure.fluents, group->fluents[place]) != measure.fluents.end()) {
        ++result;
      }
    }
  }
  return result;
}

}  // namespace

KeyRanks::KeyRanks(const PositionCode& code, const Measure& measure)
    : at_start_(measure.at_start), step_(measure.step) {
  constexpr std::uint32_t word_bits = 6;
  constexpr std::uint32_t most_field_bits = 12;
  for (const std::uint32_t fluent : code.always) {
    if (std::ranges::find(measure.fluents, fluent) != measure.fluents.end()) --at_start_;
  }
  Groups groups;
  for (const PositionCode::Group& group : code.groups) groups.push_back(&group);
  std::ranges::sort(groups, {}, &PositionCode::Group::first_bit);
  Groups low;
  std::uint32_t low_bits = word_bits;
  std::size_t next = 0;
  for (; next < groups.size() && groups[next]->first_bit < word_bits; ++next) {
    low.push_back(groups[next]);
    low_bits = std::max(low_bits, groups[next]->first_bit + groups[next]->bits);
  }
  std::vector<std::uint16_t> ranks;
  for (std::uint64_t bits = 0; bits < std::uint64_t{1} << low_bits; ++bits) {
    ranks.push_back(rank_of(low, measure, 0, bits));
  }
  contexts_ = ranks.size() / 64;
  ranks_ = std::size_t{1} + *std::ranges::max_element(ranks);
  masks_.assign(contexts_ * ranks_, 0);
  for (std::uint64_t bits = 0; bits < ranks.size(); ++bits) {
    masks_[bits / 64 * ranks_ + ranks[bits]] |= std::uint64_t{1} << (bits % 64);
  }
  while (next < groups.size()) {
    Groups together;
    std::uint32_t bits = 0;
    for (; next < groups.size(); ++next) {
      if (bits > 0 && bits + groups[next]->bits > most_field_bits) break;
      bits += groups[next]->bits;
      together.push_back(groups[next]);
    }
    Field& field = fields_.emplace_back();
    field.first_bit = together.front()->first_bit;
    for (std::uint64_t value = 0; value < std::uint64_t{1} << bits; ++value) {
      field.ranks.push_back(rank_of(together, measure, field.first_bit, value));
    }
  }
}

}  // namespace orchard::explore
