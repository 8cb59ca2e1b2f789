// Which relation depends on which: the dependency graph of a description, its cycles, and the
// order in which relations can be computed.
//
// A relation depends on those in the bodies of its clauses. Relations that depend on one another
// form a *component*; components are numbered so that a relation's component comes after those it
// depends on. O(size of the clauses); no recursion.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "rules/description.hpp"

namespace orchard::rules {

// When the instances of a relation can be known.
enum class Phase : std::uint8_t {
  constant,  // from the description alone
  position,  // once the position is known: it depends on `true`
  step,      // once the joint move is known too: it depends on `does`
};

class Dependency {
 public:
  explicit Dependency(const Description& description);

  struct Use {  // a body literal of a clause of the relation that depends
    RelationId on{};
    std::uint32_t clause = 0;
    std::uint32_t literal = 0;
    bool negative = false;
  };

  std::span<const Use> uses(RelationId relation) const { return uses_[index_of(relation)]; }
  std::uint32_t component(RelationId relation) const { return component_[index_of(relation)]; }
  // Members of each component, components in computing order.
  const std::vector<std::vector<RelationId>>& components() const { return members_; }
  bool is_recursive(std::uint32_t component) const { return recursive_[component]; }
  Phase phase(RelationId relation) const { return phase_[index_of(relation)]; }

  // All relations that the given ones depend on, themselves included.
  std::vector<bool> cone(std::span<const RelationId> relations) const;

  // A shortest chain of uses from a relation to the first one that `is_target`; empty if none.
  template <class Target>
  std::vector<Use> path(RelationId from, Target&& is_target) const;

 private:
  void find_components();
  void find_phases(const Description& description);

  std::vector<std::vector<Use>> uses_;
  std::vector<std::uint32_t> component_;
  std::vector<std::vector<RelationId>> members_;
  std::vector<bool> recursive_;
  std::vector<Phase> phase_;
};

template <class Target>
std::vector<Dependency::Use> Dependency::path(RelationId from, Target&& is_target) const {
  constexpr std::size_t unseen = static_cast<std::size_t>(-1);
  struct Step {
    Use use;
    std::size_t previous;
  };
  std::vector<Step> steps;
  std::vector<bool> seen(uses_.size(), false);
  const auto visit = [&](RelationId relation, std::size_t previous) -> std::size_t {
    for (const Use& use : uses(relation)) {
      if (is_target(use.on)) {
        steps.push_back({use, previous});
        return steps.size() - 1;
      }
      if (seen[index_of(use.on)]) continue;
      seen[index_of(use.on)] = true;
      steps.push_back({use, previous});
    }
    return unseen;
  };
  std::size_t found = visit(from, unseen);
  for (std::size_t at = 0; found == unseen && at < steps.size(); ++at) {
    found = visit(steps[at].use.on, at);
  }
  std::vector<Use> chain;
  for (; found != unseen; found = steps[found].previous) {
    chain.insert(chain.begin(), steps[found].use);
  }
  return chain;
}

}  // namespace orchard::rules
