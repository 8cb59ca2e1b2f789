// The order in which the conditions of a clause are joined. Part of the Instantiator.
#include <algorithm>
#include <cmath>

#include "ground/instantiate.hpp"

namespace orchard::ground {

using rules::Literal;

// What is known or can be looked up comes first; else the condition that is likely to leave the
// fewest candidates, by the size of its table and the share of its columns that are known.
void Instantiator::make_plan(ClauseFacts& facts, std::size_t trigger, Plan& plan) {
  const FlatClause& clause = *facts.clause;
  plan.steps.clear();
  plan.made_at = std::max<std::size_t>(queue_.size(), 1);
  std::vector<bool> bound(clause.variables, false);
  const auto is_bound = [&](const Pattern& pattern, std::size_t first) {
    return std::all_of(pattern.begin() + static_cast<std::ptrdiff_t>(first),
                       pattern.begin() + static_cast<std::ptrdiff_t>(first + pattern[first].size),
                       [&](const PatternSymbol& symbol) {
                         return symbol.kind != PatternSymbol::Kind::variable || bound[symbol.value];
                       });
  };
  const auto bind = [&](const Pattern& pattern) {
    for (const PatternSymbol& symbol : pattern) {
      if (symbol.kind == PatternSymbol::Kind::variable) bound[symbol.value] = true;
    }
  };
  std::vector<std::uint32_t> left;
  for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
    const FlatLiteral& literal = clause.body[l];
    if (l == trigger) {
      bind(literal.atom.columns);
      continue;
    }
    const bool ignored = literal.kind == Literal::Kind::negative &&
                         !schema_.predicate(literal.atom.predicate).is_static();
    if (!ignored) left.push_back(l);
  }
  while (!left.empty()) {
    std::size_t best = 0;
    double best_cost = 0;
    for (std::size_t i = 0; i < left.size(); ++i) {
      const FlatLiteral& literal = clause.body[left[i]];
      std::size_t open = 0;
      for (const std::uint32_t first : facts.body[left[i]]) {
        open += is_bound(literal.atom.columns, first) ? 0 : 1;
      }
      double cost = 0;
      if (literal.kind != Literal::Kind::positive) {
        cost = open > 0 ? HUGE_VAL : 0;
      } else if (open > 0) {
        // As if the columns were independent: rows to the power of the share that is open.
        const auto& store = program_.stores_[index_of(literal.atom.predicate)];
        const double rows = std::max<double>(store.rows(), 8);
        cost = std::pow(rows, static_cast<double>(open) / store.columns());
      } else {
        cost = 0.5;
      }
      if (i == 0 || cost < best_cost) {
        best = i;
        best_cost = cost;
      }
    }
    const std::uint32_t l = left[best];
    left.erase(left.begin() + static_cast<std::ptrdiff_t>(best));
    const FlatLiteral& literal = clause.body[l];
    Step step;
    step.literal = l;
    step.checks = literal.kind != Literal::Kind::positive || best_cost < 1;
    if (!step.checks) {
      std::uint32_t mask = 0;
      constexpr std::uint32_t most_indexed = 32;
      for (std::uint32_t c = 0; c < std::min<std::size_t>(facts.body[l].size(), most_indexed);
           ++c) {
        if (!is_bound(literal.atom.columns, facts.body[l][c])) continue;
        mask |= 1u << c;
        step.key.push_back(c);
      }
      if (mask != 0) step.index = program_.stores_[index_of(literal.atom.predicate)].index_on(mask);
    }
    bind(literal.atom.columns);
    plan.steps.push_back(std::move(step));
  }
}

}  // namespace orchard::ground
