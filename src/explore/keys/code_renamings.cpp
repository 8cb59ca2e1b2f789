#include "explore/keys/code_renamings.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace orchard::explore {

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
