#include "explore/symmetry/symmetry_group.hpp"

#include <xxhash.h>

#include <algorithm>
#include <map>
#include <string>

#include "circuit/lanes/transpose.hpp"
#include "explore/symmetry/renamings.hpp"

namespace orchard::explore {

namespace {

bool keeps_roles(const Automorphism& one) {
  for (std::uint32_t role = 0; role < one.roles.size(); ++role) {
    if (one.roles[role] != role) return false;
  }
  return true;
}

// By number in one game: the number in the other of what has the same text; empty if one is
// missing there.
template <class Things>
std::vector<std::uint32_t> same_in(const ground::GroundProgram& to, const Things& there,
                                   const ground::GroundProgram& from, const Things& here) {
  std::map<std::string, std::uint32_t> known;
  for (const auto& thing : there) {
    known.emplace(to.terms().text(thing.term), static_cast<std::uint32_t>(known.size()));
  }
  std::vector<std::uint32_t> result;
  for (const auto& thing : here) {
    const auto same = known.find(from.terms().text(thing.term));
    if (same == known.end()) return {};
    result.push_back(same->second);
  }
  return there.size() == here.size() ? result : std::vector<std::uint32_t>{};
}

std::vector<std::uint32_t> carried(const std::vector<std::uint32_t>& image,
                                   const std::vector<std::uint32_t>& same) {
  std::vector<std::uint32_t> result(image.size());
  for (std::uint32_t i = 0; i < image.size(); ++i) result[same[i]] = same[image[i]];
  return result;
}

}  // namespace

SymmetryGroup SymmetryGroup::of(const LaneGame& rules, const LaneGame& game, Row start) {
  const auto& from = rules.ground();
  const auto& to = game.ground();
  const auto same_fluents = same_in(to, to.fluents(), from, from.fluents());
  std::vector<std::vector<std::uint32_t>> same_moves;
  bool same = same_fluents.size() == from.fluents().size();
  for (std::size_t role = 0; role < from.moves().size(); ++role) {
    same_moves.push_back(same_in(to, to.moves()[role], from, from.moves()[role]));
    same = same && same_moves.back().size() == from.moves()[role].size();
  }
  SymmetryGroup group;
  const std::vector<std::uint64_t> initial = game.row(to.initial());
  if (!same || !std::ranges::equal(initial, start.first(initial.size()))) return group;
  const auto found = automorphisms_of(rules, rules.row(from.initial()), SymmetryGroup::most - 1,
                                      TooMany::subgroup, keeps_roles);
  if (found.empty()) return group;

  std::vector<std::vector<std::uint32_t>> images(1,
                                                 std::vector<std::uint32_t>(same_fluents.size()));
  for (std::uint32_t f = 0; f < same_fluents.size(); ++f) images[0][f] = f;
  group.moves_.emplace_back();
  for (const Automorphism& one : found) {
    images.push_back(carried(one.fluents, same_fluents));
    auto& moves = group.moves_.emplace_back();
    for (std::size_t role = 0; role < same_moves.size(); ++role) {
      moves.push_back(carried(one.moves[role], same_moves[role]));
    }
  }
  std::map<std::vector<std::uint32_t>, Element> number;
  for (std::size_t e = 0; e < images.size(); ++e)
    number.emplace(images[e], static_cast<Element>(e));
  group.inverses_.assign(images.size(), 0);
  for (std::size_t a = 0; a < images.size(); ++a) {
    auto& products = group.products_.emplace_back();
    for (std::size_t b = 0; b < images.size(); ++b) {
      std::vector<std::uint32_t> both(images[b].size());
      for (std::size_t f = 0; f < both.size(); ++f) both[f] = images[a][images[b][f]];
      const auto product = number.find(both);
      if (product == number.end()) return {};  // the finder gave up on some
      products[b] = product->second;
      if (product->second == 0) group.inverses_[a] = static_cast<Element>(b);
    }
  }

  group.words_ = std::max<std::size_t>(circuit::words_for(same_fluents.size()), 1);
  group.entry_words_ = (group.words_ + 1) / 2 * 2;
  const std::size_t parts = group.words_ * 64 / 4;
  for (const auto& image : images) {
    auto& table = group.tables_.emplace_back(parts * values * group.entry_words_, 0);
    for (std::size_t f = 0; f < image.size(); ++f) {
      for (std::size_t value = 0; value < values; ++value) {
        if ((value >> (f % 4) & 1) == 0) continue;
        table[((f / 4) * values + value) * group.entry_words_ + image[f] / 64] |=
            std::uint64_t{1} << (image[f] % 64);
      }
    }
  }
  return group;
}

namespace {

// `pairs`: of words an entry of the table has; 0 if that is not known.
template <std::size_t pairs>
void add_entries(std::span<const std::uint64_t> row, const std::uint64_t* entry,
                 std::size_t entry_words, std::uint64_t* sum) {
  const std::size_t words = pairs == 0 ? entry_words : 2 * pairs;
  for (const std::uint64_t word : row) {
    for (unsigned shift = 0; shift < 64; shift += 4, entry += SymmetryGroup::values * words) {
      const std::uint64_t* const of_value =
          entry + (word >> shift & (SymmetryGroup::values - 1)) * words;
      for (std::size_t w = 0; w < words; ++w) sum[w] |= of_value[w];
    }
  }
}

template <std::size_t pairs>
void rename_in_registers(std::span<const std::uint64_t> row, const std::uint64_t* table,
                         std::uint64_t* renamed) {
  std::array<std::uint64_t, 2 * pairs> sum{};
  add_entries<pairs>(row, table, 2 * pairs, sum.data());
  std::copy_n(sum.data(), row.size(), renamed);
}

}  // namespace

void SymmetryGroup::rename(Row row, Element element, std::uint64_t* renamed) const {
  if (element == 0) {
    std::ranges::copy(row, renamed);
    return;
  }
  const std::uint64_t* const table = tables_[element].data();
  switch (entry_words_) {
    case 2:
      return rename_in_registers<1>(row, table, renamed);
    case 4:
      return rename_in_registers<2>(row, table, renamed);
    case 6:
      return rename_in_registers<3>(row, table, renamed);
    default:
      break;
  }
  std::vector<std::uint64_t> sum(entry_words_, 0);
  add_entries<0>(row, table, entry_words_, sum.data());
  std::copy_n(sum.data(), row.size(), renamed);
}

std::uint64_t SymmetryGroup::digest() const {
  std::uint64_t result = 0;
  for (const auto& table : tables_) {
    result = XXH3_64bits_withSeed(table.data(), table.size() * sizeof(table[0]), result);
  }
  return result;
}

SymmetryGroup::Least SymmetryGroup::least(Row row, std::uint64_t* least) const {
  Least result;
  Element by = 0;
  std::ranges::copy(row, least);
  if (size() == 1) return result;
  constexpr std::size_t usual = 8;
  std::array<std::uint64_t, usual> on_stack;
  std::vector<std::uint64_t> beyond(words_ > usual ? words_ : 0);
  std::uint64_t* const renamed = beyond.empty() ? on_stack.data() : beyond.data();
  for (std::size_t e = 1; e < size(); ++e) {
    rename(row, static_cast<Element>(e), renamed);
    const auto order =
        std::lexicographical_compare_three_way(renamed, renamed + words_, least, least + words_);
    if (order > 0) continue;
    result.several = order == 0;
    if (order == 0) continue;
    std::copy_n(renamed, words_, least);
    by = static_cast<Element>(e);
  }
  result.from = inverses_[by];
  return result;
}

std::uint16_t SymmetryGroup::stabilizer(Row row) const {
  std::uint16_t result = 1;
  std::vector<std::uint64_t> renamed(row.size());
  for (std::size_t e = 1; e < size(); ++e) {
    rename(row, static_cast<Element>(e), renamed.data());
    if (std::ranges::equal(renamed, row)) result |= static_cast<std::uint16_t>(1u << e);
  }
  return result;
}

}  // namespace orchard::explore
