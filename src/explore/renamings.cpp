#include "explore/renamings.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "game/core.hpp"

namespace orchard::explore {

std::vector<Automorphism> automorphisms_of(const LaneGame& game,
                                           std::span<const std::uint64_t> start, std::size_t most,
                                           const std::function<bool(const Automorphism&)>& only) {
  const std::vector<std::uint64_t> initial = game.row(game.ground().initial());
  if (!std::ranges::equal(initial, start.first(initial.size()))) return {};
  const auto whole = LaneGame::instantiate(game.core(), false, ground::Splitting::none());
  if (!whole || (*whole)->fluents().size() != game.ground().fluents().size()) return {};
  SymmetryFinder finder(**whole);
  std::map<std::vector<std::uint32_t>, Automorphism> result;  // by what they do to fluents
  const bool all = finder.each_of_start([&](const Automorphism& one) {
    bool same = true;
    for (std::uint32_t f = 0; f < one.fluents.size(); ++f) same = same && one.fluents[f] == f;
    if (!same && only(one)) result.try_emplace(one.fluents, one);
    return result.size() <= most;
  });
  std::vector<Automorphism> found;
  if (!all || result.size() > most) return found;
  for (auto& [fluents, one] : result) found.push_back(std::move(one));
  return found;
}

Renamings renamings_of(const LaneGame& game, std::span<const std::uint64_t> start) {
  constexpr std::size_t most = 15;
  Renamings result;
  for (const Automorphism& one :
       automorphisms_of(game, start, most, [](const Automorphism&) { return true; })) {
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

Renamings renamings_within(const Renamings& renamings, const PositionCode& code) {
  std::map<std::vector<std::uint32_t>, const std::vector<std::uint32_t>*> different;
  for (const auto& renaming : renamings) {
    std::vector<std::uint32_t> within;
    bool same = true;
    for (const PositionCode::Group& group : code.groups) {
      for (const std::uint32_t fluent : group.fluents) {
        within.push_back(renaming[fluent]);
        same = same && renaming[fluent] == fluent;
      }
    }
    if (!same) different.emplace(std::move(within), &renaming);
  }
  Renamings result;
  for (const auto& [within, renaming] : different) result.push_back(*renaming);
  return result;
}

bool keeps_code(const PositionCode& code, const Renamings& renamings) {
  const auto sorted = [](std::vector<std::uint32_t> fluents) {
    std::ranges::sort(fluents);
    return fluents;
  };
  using Fluents = std::vector<std::uint32_t>;
  std::set<std::pair<Fluents, std::set<Fluents>>> groups;  // with what holds together in them
  for (const PositionCode::Group& group : code.groups) {
    std::set<Fluents> patterns;
    for (const circuit::Combination& places : group.patterns) {
      Fluents held;
      for (const std::uint16_t place : places) held.push_back(group.fluents[place]);
      patterns.insert(sorted(std::move(held)));
    }
    groups.emplace(sorted(group.fluents), std::move(patterns));
  }
  const auto kept = [&](const std::vector<std::uint32_t>& renaming) {
    const auto renamed = [&](Fluents fluents) {
      for (std::uint32_t& fluent : fluents) fluent = renaming[fluent];
      return sorted(std::move(fluents));
    };
    return renamed(code.always) == sorted(code.always) &&
           std::ranges::all_of(groups, [&](const auto& group) {
             std::set<Fluents> patterns;
             for (const Fluents& held : group.second) patterns.insert(renamed(held));
             return groups.contains({renamed(group.first), std::move(patterns)});
           });
  };
  return std::ranges::all_of(renamings, kept);
}

}  // namespace orchard::explore
