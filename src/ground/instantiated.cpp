// What becomes of an instantiation: the ground clauses, or why it was given up.
#include <fmt/core.h>

#include <algorithm>

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

// The ground clauses with their negative atoms, now that all atoms are known: one that is not there
// never holds, so its negation always does.
void Instantiator::keep_clauses() {
  for (std::size_t i = 0; i < kept_.size(); ++i) {
    const bool last = i + 1 == kept_.size();
    const std::size_t body_end = last ? positives_.size() : kept_[i + 1].body;
    const std::size_t negatives_end = last ? negatives_.size() : kept_[i + 1].negatives;
    GroundClause clause;
    clause.head = heads_[i];
    clause.clause = kept_[i].clause;
    clause.first = static_cast<std::uint32_t>(program_.bodies_.size());
    clause.positive = static_cast<std::uint32_t>(body_end - kept_[i].body);
    for (std::size_t b = kept_[i].body; b < body_end; ++b) {
      program_.bodies_.push_back(positives_[b]);
    }
    for (std::size_t n = kept_[i].negatives; n < negatives_end; ++n) {
      const NegativeRow& negative = negatives_[n];
      const std::size_t columns = schema_.predicate(negative.predicate).columns;
      const std::uint32_t row = program_.stores_[index_of(negative.predicate)].find(
          std::span(negative_cells_).subspan(negative.first, columns));
      if (row == FactStore::no_row) continue;
      program_.bodies_.push_back(program_.atom_of_row_[index_of(negative.predicate)][row]);
      ++clause.negative;
    }
    program_.clauses_.push_back(clause);
  }
}

}  // namespace orchard::ground
