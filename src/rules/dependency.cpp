// Components by Tarjan's algorithm (Depth-first search and linear graph algorithms, 1972), with
// the depth-first search on a stack of its own.
#include "rules/dependency.hpp"

#include <algorithm>

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
  constexpr std::uint32_t unvisited = 0xFFFFFFFF;
  const std::size_t count = uses_.size();
  component_.assign(count, unvisited);
  std::vector<std::uint32_t> order(count, unvisited);
  std::vector<std::uint32_t> low(count, 0);
  std::vector<std::uint32_t> stack;                             // not yet in a component
  std::vector<std::pair<std::uint32_t, std::size_t>> visiting;  // relation, next use
  std::uint32_t clock = 0;

  const auto enter = [&](std::uint32_t relation) {
    order[relation] = low[relation] = clock++;
    stack.push_back(relation);
    visiting.emplace_back(relation, 0);
  };
  const auto leave = [&](std::uint32_t relation) {
    visiting.pop_back();
    if (!visiting.empty()) {
      low[visiting.back().first] = std::min(low[visiting.back().first], low[relation]);
    }
    if (low[relation] != order[relation]) return;
    std::vector<RelationId>& members = members_.emplace_back();
    std::uint32_t member = unvisited;
    do {
      member = stack.back();
      stack.pop_back();
      component_[member] = static_cast<std::uint32_t>(members_.size() - 1);
      members.push_back(RelationId{member});
    } while (member != relation);
    std::ranges::reverse(members);
  };

  for (std::uint32_t root = 0; root < count; ++root) {
    if (order[root] != unvisited) continue;
    enter(root);
    while (!visiting.empty()) {
      const std::uint32_t relation = visiting.back().first;
      const std::size_t next = visiting.back().second++;
      if (next == uses_[relation].size()) {
        leave(relation);
        continue;
      }
      const auto used = static_cast<std::uint32_t>(index_of(uses_[relation][next].on));
      if (order[used] == unvisited) {
        enter(used);
      } else if (component_[used] == unvisited) {
        low[relation] = std::min(low[relation], order[used]);
      }
    }
  }

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
