#include "explore/symmetry/renamings.hpp"

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "game/core.hpp"

namespace orchard::explore {

namespace {

// By what they do to fluents, without the identity.
using Elements = std::map<std::vector<std::uint32_t>, Automorphism>;

bool changes_nothing(const Automorphism& one) {
  for (std::uint32_t f = 0; f < one.fluents.size(); ++f) {
    if (one.fluents[f] != f) return false;
  }
  return true;
}

// What both do, the second one first.
Automorphism composed(const Automorphism& first, const Automorphism& second) {
  Automorphism result = second;
  for (std::uint32_t& fluent : result.fluents) fluent = first.fluents[fluent];
  for (std::uint32_t& role : result.roles) role = first.roles[role];
  for (std::size_t role = 0; role < result.moves.size(); ++role) {
    for (std::uint32_t& move : result.moves[role]) {
      move = first.moves[second.roles[role]][move];
    }
  }
  return result;
}

// What a subgroup and one more element make; none if they are more than `most`.
std::optional<Elements> closed(Elements group, const Automorphism& further, std::size_t most) {
  std::vector<const Automorphism*> open{&group.try_emplace(further.fluents, further).first->second};
  while (!open.empty()) {
    const Automorphism& one = *open.back();
    open.pop_back();
    // Whatever is put in now is met by those that are there, and by those to come, from both sides.
    std::vector<Automorphism> products;
    for (const auto& [fluents, other] : group) {
      products.push_back(composed(one, other));
      products.push_back(composed(other, one));
    }
    for (Automorphism& product : products) {
      if (changes_nothing(product)) continue;
      const auto [at, is_new] = group.try_emplace(product.fluents, product);
      if (group.size() > most) return std::nullopt;
      if (is_new) open.push_back(&at->second);
    }
  }
  return group;
}

// The largest that two of the elements make, with more of them as long as it stays small enough.
Elements largest_subgroup(const Elements& elements, std::size_t most) {
  Elements result;
  for (auto first = elements.begin(); first != elements.end(); ++first) {
    const auto one = closed({}, first->second, most);
    if (!one) continue;
    for (auto second = first; second != elements.end(); ++second) {
      if (second != first && one->contains(second->first)) continue;
      auto both = closed(*one, second->second, most);
      if (both && both->size() > result.size()) result = std::move(*both);
      if (result.size() == most) return result;
    }
  }
  for (const auto& [fluents, further] : elements) {
    if (result.contains(fluents)) continue;
    if (auto larger = closed(result, further, most)) result = std::move(*larger);
  }
  return result;
}

}  // namespace

std::vector<Automorphism> automorphisms_of(const LaneGame& game,
                                           std::span<const std::uint64_t> start, std::size_t most,
                                           TooMany too_many,
                                           const std::function<bool(const Automorphism&)>& only) {
  const std::vector<std::uint64_t> initial = game.row(game.ground().initial());
  if (!std::ranges::equal(initial, start.first(initial.size()))) return {};
  const auto whole = LaneGame::instantiate(game.core(), false, ground::Splitting::none());
  if (!whole || (*whole)->fluents().size() != game.ground().fluents().size()) return {};
  SymmetryFinder finder(**whole);
  const bool part = too_many == TooMany::subgroup;
  const std::size_t enough = part ? 64 : most;  // to find subgroups in
  Elements found;
  const bool all = finder.each_of_start([&](const Automorphism& one) {
    if (!changes_nothing(one) && only(one)) found.try_emplace(one.fluents, one);
    return found.size() <= std::max(most, enough);
  });
  if (!all || found.size() > most) found = part ? largest_subgroup(found, most) : Elements{};
  std::vector<Automorphism> result;
  for (auto& [fluents, one] : found) result.push_back(std::move(one));
  return result;
}

Renamings renamings_of(const LaneGame& game, std::span<const std::uint64_t> start) {
  constexpr std::size_t most = 15;
  // Of a part of many the keys cost more than they spare.
  const auto all = [](const Automorphism&) { return true; };
  Renamings result;
  for (const Automorphism& one : automorphisms_of(game, start, most, TooMany::none, all)) {
    std::vector<std::uint32_t>& from = result.emplace_back(one.fluents.size());
    for (std::uint32_t f = 0; f < from.size(); ++f) from[one.fluents[f]] = f;
  }
  std::ranges::sort(result);
  return result;
}

std::vector<std::uint64_t> renamed(std::span<const std::uint64_t> row,
                                   const std::vector<std::uint32_t>& renaming) {
  std::vector<std::uint64_t> result(row.size(), 0);
  for (std::uint32_t f = 0; f < renaming.size(); ++f) {
    const std::uint32_t from = renaming[f];
    result[f / 64] |= (row[from / 64] >> (from % 64) & 1) << (f % 64);
  }
  return result;
}

}  // namespace orchard::explore
