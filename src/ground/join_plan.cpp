// The order in which the conditions of a clause are joined. Part of the Instantiator.
#include <algorithm>
#include <cmath>

#include "ground/instantiate.hpp"

namespace orchard::ground {

using rules::Literal;

// Which variables of a clause have values at a point of its plan.
class Instantiator::BoundVariables {
 public:
  explicit BoundVariables(const FlatClause& clause) : bound_(clause.variables, false) {}

  void bind(const Pattern& pattern) {
    for (const PatternSymbol& symbol : pattern) {
      if (symbol.kind == PatternSymbol::Kind::variable) bound_[symbol.value] = true;
    }
  }
  // Of the column that begins at `first`.
  bool covers(const Pattern& pattern, std::size_t first) const {
    const auto column = std::span(pattern).subspan(first, pattern[first].size);
    return std::ranges::all_of(column, [&](const PatternSymbol& symbol) {
      return symbol.kind != PatternSymbol::Kind::variable || bound_[symbol.value];
    });
  }

 private:
  std::vector<bool> bound_;
};

// How many candidates a condition is likely to leave; below 1 if it can be looked up.
double Instantiator::cost(const ClauseFacts& facts, std::uint32_t literal,
                          const BoundVariables& bound) const {
  const FlatLiteral& condition = facts.clause->body[literal];
  const auto open = std::ranges::count_if(facts.body[literal], [&](const Column& column) {
    return !bound.covers(condition.atom.columns, column.first);
  });
  if (condition.kind != Literal::Kind::positive) return open > 0 ? HUGE_VAL : 0;
  if (open == 0) return 0.5;
  // As if the columns were independent: rows to the power of the share that is open.
  const auto& store = program_.stores_[index_of(condition.atom.predicate)];
  const double rows = std::max<double>(store.rows(), 8);
  return std::pow(rows, static_cast<double>(open) / store.columns());
}

Instantiator::Step Instantiator::step_of(const ClauseFacts& facts, std::uint32_t literal,
                                         bool checks, const BoundVariables& bound) {
  constexpr std::size_t most_indexed = 32;
  Step step;
  step.literal = literal;
  step.checks = checks;
  if (checks) return step;
  const FlatAtom& atom = facts.clause->body[literal].atom;
  std::uint32_t mask = 0;
  for (std::uint32_t c = 0; c < std::min(facts.body[literal].size(), most_indexed); ++c) {
    if (!bound.covers(atom.columns, facts.body[literal][c].first)) continue;
    mask |= 1u << c;
    step.key.push_back(c);
  }
  if (mask != 0) step.index = program_.stores_[index_of(atom.predicate)].index_on(mask);
  return step;
}

// What is known or can be looked up comes first; else the condition that is likely to leave the
// fewest candidates, by the size of its table and the share of its columns that are known.
void Instantiator::make_plan(ClauseFacts& facts, std::size_t trigger, Plan& plan) {
  const FlatClause& clause = *facts.clause;
  plan.steps.clear();
  plan.made_at = std::max<std::size_t>(queue_.size(), 1);
  BoundVariables bound(clause);
  std::vector<std::uint32_t> left;
  for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
    const FlatLiteral& literal = clause.body[l];
    if (l == trigger) {
      bound.bind(literal.atom.columns);
      continue;
    }
    const bool ignored = literal.kind == Literal::Kind::negative &&
                         !schema_.predicate(literal.atom.predicate).is_static();
    if (!ignored) left.push_back(l);
  }
  while (!left.empty()) {
    std::vector<double> costs;
    for (const std::uint32_t l : left) costs.push_back(cost(facts, l, bound));
    const auto best = std::ranges::min_element(costs) - costs.begin();
    const std::uint32_t l = left[static_cast<std::size_t>(best)];
    const bool checks =
        clause.body[l].kind != Literal::Kind::positive || costs[static_cast<std::size_t>(best)] < 1;
    left.erase(left.begin() + best);
    plan.steps.push_back(step_of(facts, l, checks, bound));
    bound.bind(clause.body[l].atom.columns);
  }
}

}  // namespace orchard::ground
