#include "rules/dependency.hpp"

#include <algorithm>

#include "base/components.hpp"

namespace orchard::rules {

Dependency::Dependency(const Description& description) : uses_(description.relations().size()) {
  for (std::uint32_t c = 0; c < description.clauses().size(); ++c) {
    const Clause& clause = description.clauses()[c];
    for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
      const Literal& literal = clause.body[l];
      if (literal.is_comparison()) continue;
      uses_[index_of(clause.head.relation)].push_back(
          {literal.atom.relation, c, l, literal.kind == Literal::Kind::negative});
    }
  }
  find_components();
  find_phases(description);
}

void Dependency::find_components() {
  const auto count = static_cast<std::uint32_t>(uses_.size());
  component_.assign(count, 0);
  struct Cursor {
    const std::vector<Use>* uses;
    std::size_t at;
  };
  each_component(
      count,
      [&](std::uint32_t relation) {
        return Cursor{&uses_[relation], 0};
      },
      [](Cursor& cursor) -> std::optional<std::uint32_t> {
        if (cursor.at == cursor.uses->size()) return std::nullopt;
        return static_cast<std::uint32_t>(index_of((*cursor.uses)[cursor.at++].on));
      },
      [&](const std::vector<std::uint32_t>& found) {
        std::vector<RelationId>& members = members_.emplace_back();
        for (const std::uint32_t member : found) {
          component_[member] = static_cast<std::uint32_t>(members_.size() - 1);
          members.push_back(RelationId{member});
        }
      });

  recursive_.assign(members_.size(), false);
  for (std::uint32_t relation = 0; relation < count; ++relation) {
    for (const Use& use : uses_[relation]) {
      if (component(use.on) == component_[relation]) recursive_[component_[relation]] = true;
    }
  }
}

void Dependency::find_phases(const Description& description) {
  phase_.assign(uses_.size(), Phase::constant);
  for (const std::vector<RelationId>& members : members_) {
    Phase phase = Phase::constant;
    for (const RelationId member : members) {
      const Keyword keyword = description.relation(member).keyword;
      if (keyword == Keyword::true_) phase = std::max(phase, Phase::position);
      if (keyword == Keyword::does) phase = Phase::step;
      for (const Use& use : uses(member)) phase = std::max(phase, phase_[index_of(use.on)]);
    }
    for (const RelationId member : members) phase_[index_of(member)] = phase;
  }
}

std::vector<bool> Dependency::cone(std::span<const RelationId> relations) const {
  std::vector<bool> inside(uses_.size(), false);
  std::vector<RelationId> pending(relations.begin(), relations.end());
  while (!pending.empty()) {
    const RelationId relation = pending.back();
    pending.pop_back();
    if (inside[index_of(relation)]) continue;
    inside[index_of(relation)] = true;
    for (const Use& use : uses(relation)) pending.push_back(use.on);
  }
  return inside;
}

}  // namespace orchard::rules
