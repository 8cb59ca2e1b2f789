// Hints: matters of style, which are never counted as faults.
#include <absl/container/flat_hash_map.h>
#include <fmt/core.h>

#include <map>
#include <set>

#include "rules/finding_sink.hpp"
#include "rules/keywords.hpp"
#include "rules/single_variables.hpp"

namespace orchard::rules {
namespace {

void find_names_in_two_uses(const Description& description, FindingSink& sink) {
  absl::flat_hash_map<SymbolId, const Relation*> relations;
  for (const Relation& relation : description.relations())
    relations.emplace(relation.name, &relation);
  absl::flat_hash_map<SymbolId, bool> said;
  const auto read = [&](const Pattern& pattern) {
    for (const PatternSymbol& symbol : pattern) {
      if (symbol.kind == PatternSymbol::Kind::variable) continue;
      const auto relation = relations.find(symbol.symbol());
      if (relation == relations.end() || !said.emplace(symbol.symbol(), true).second) continue;
      sink.add(symbol.node, "name-in-two-uses",
               fmt::format("`{}` is a term here and a relation elsewhere",
                           description.terms().name(symbol.symbol())),
               "two names are easier to read", Severity::hint);
    }
  };
  for (const Clause& clause : description.clauses()) {
    read(clause.head.arguments);
    for (const Literal& literal : clause.body) read(literal.atom.arguments);
  }
}

void find_chance_without_percepts(const Description& description, FindingSink& sink) {
  if (description.uses(Keyword::sees)) return;
  const auto role = description.find(Keyword::role);
  for (const std::uint32_t number : description.relation(*role).clauses) {
    const Atom& fact = description.clauses()[number].head;
    if (description.terms().name(fact.arguments.front().symbol()) != "random") continue;
    sink.add(fact.node, "chance-without-percepts",
             "chance plays, and without rules for `sees` every role sees everything",
             "add rules for (sees ROLE PERCEPT) if something is hidden", Severity::hint);
  }
}

// Tables that stand there for the reader, or were left over. (Those of two arguments may order a
// drawing.)
void find_unused_tables(const Description& description, FindingSink& sink) {
  std::set<RelationId> used;
  for (const Clause& clause : description.clauses()) {
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) used.insert(literal.atom.relation);
    }
  }
  for (std::size_t r = 0; r < description.relations().size(); ++r) {
    const Relation& relation = description.relations()[r];
    const bool asked = used.contains(RelationId{static_cast<std::uint32_t>(r)});
    // A single fact is more likely a slip, and a finding.
    const bool table = is_table(description, relation) && relation.clauses.size() > 1;
    if (asked || !table || relation.arity == 2) continue;
    if (relation.keyword != Keyword::none) continue;
    sink.add(relation.first_use, "unused-relation",
             fmt::format("no rule asks for `{}`", description.terms().name(relation.name)),
             "remove it, unless it stands there for the reader", Severity::hint);
  }
}

}  // namespace

void find_hints(const Description& description, Diagnostics& diagnostics) {
  FindingSink sink(description, diagnostics);
  hint_at_single_variables(description, sink);
  find_names_in_two_uses(description, sink);
  find_chance_without_percepts(description, sink);
  find_unused_tables(description, sink);
  diagnostics.sort_by_place();
}

}  // namespace orchard::rules
