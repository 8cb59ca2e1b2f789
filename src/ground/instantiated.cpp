// What becomes of an instantiation: the ground clauses, or why it was given up.
#include <fmt/core.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "ground/instantiate.hpp"
#include "syntax/tree.hpp"

namespace orchard::ground {

using rules::Literal;

// What the clause with the most instances ranges over.
void Instantiator::fail(std::uint32_t clause, std::string message, std::string_view remedy) {
  const auto most = std::ranges::max_element(facts_, {}, &ClauseFacts::instances);
  if (most->instances > 1000) clause = most->clause->clause;
  const rules::Description& description = program_.description();
  const rules::Clause& source = description.clauses()[clause];
  const rules::Domains domains(description);
  std::string ranges;
  absl::flat_hash_map<std::uint32_t, const PatternSymbol*> variables;
  for (const Literal& literal : source.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    for (const PatternSymbol& symbol : literal.atom.arguments) {
      if (symbol.kind != PatternSymbol::Kind::variable) continue;
      if (!variables.try_emplace(symbol.value, &symbol).second) continue;
      ranges += fmt::format("{}{} over {}", ranges.empty() ? "" : ", ",
                            description.rules()[source.rule].variables[symbol.value],
                            domains.values(description, source, symbol).size());
    }
  }
  fault_ = syntax::error_at(
      description.tree(), source.head.node, "too-many-instances", message + "; most by this rule",
      fmt::format("{}{}", remedy, ranges.empty() ? "" : "; its variables range: " + ranges));
  fault_->is_limit = true;
}

// Now that all atoms are known: what a negative condition asks for is one of them, or can never
// hold, and the condition goes. The clauses of a head come to stand together, so that whoever goes
// from atom to atom reads memory in a row.
void Instantiator::finish_clauses() {
  std::vector<AtomId> asked_for;
  asked_for.reserve(all_asked_.size());
  for (const Asked& asked : all_asked_) {
    const std::size_t p = index_of(asked.predicate);
    const std::uint32_t row = program_.stores_[p].find(asked_[p].row(asked.row));
    asked_for.push_back(row == FactStore::no_row ? no_atom : program_.atom_of_row_[p][row]);
  }
  for (FactStore& store : program_.stores_) store.drop_indexes();
  asked_.clear();
  std::vector<std::uint32_t>& first = program_.first_clause_;
  first.assign(program_.atoms_.size() + 1, 0);
  for (const GroundClause& clause : program_.clauses_) ++first[index_of(clause.head) + 1];
  std::partial_sum(first.begin(), first.end(), first.begin());
  std::vector<std::uint32_t> at(first.begin(), first.end() - 1);
  std::vector<GroundClause> clauses(program_.clauses_.size());
  for (const GroundClause& clause : program_.clauses_) {
    clauses[at[index_of(clause.head)]++] = clause;
  }
  program_.clauses_ = std::move(clauses);
  const std::vector<AtomId> before = std::exchange(program_.bodies_, {});
  std::vector<AtomId>& bodies = program_.bodies_;
  bodies.reserve(before.size());
  for (GroundClause& clause : program_.clauses_) {
    const std::span<const AtomId> from =
        std::span(before).subspan(clause.first, clause.positive + clause.negative);
    clause.first = bodies.size();
    const auto positive = from.first(clause.positive);
    bodies.insert(bodies.end(), positive.begin(), positive.end());
    clause.negative = 0;
    for (const AtomId asked : from.subspan(clause.positive)) {
      const AtomId atom = asked_for[index_of(asked) & ~is_asked];
      if (atom == no_atom) continue;
      bodies.push_back(atom);
      ++clause.negative;
    }
  }
}

}  // namespace orchard::ground
