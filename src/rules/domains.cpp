#include "rules/domains.hpp"

namespace orchard::rules {

namespace {

bool declares_only(const Description& description, const Clause& clause) {
  const Keyword keyword = description.relation(clause.head.relation).keyword;
  return keyword == Keyword::base || keyword == Keyword::input;
}

Domains::Name name_of(const PatternSymbol& symbol) {
  return {symbol.symbol(), symbol.arity};
}

}  // namespace

Domains::Domains(const Description& description) : places_(description), domains_(places_.size()) {
  std::vector<const Clause*> rules;
  for (const Clause& clause : description.clauses()) {
    if (declares_only(description, clause)) continue;
    if (clause.body.empty()) {
      apply(description, clause);
    } else {
      rules.push_back(&clause);
    }
  }
  for (bool changed = true; changed;) {
    changed = false;
    for (const Clause* clause : rules) changed = apply(description, *clause) || changed;
  }
}

// Adds to the head's places what the conditions allow; true if something was new.
bool Domains::apply(const Description& description, const Clause& clause) {
  absl::flat_hash_map<std::uint32_t, std::vector<PlaceId>> bound;  // places of each variable
  bool possible = true;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    places_.visit(description, literal.atom, [&](PlaceId place, const PatternSymbol& symbol) {
      if (symbol.kind == PatternSymbol::Kind::variable) {
        bound[symbol.value].push_back(place);
      } else {
        possible = possible && domain(place).contains(name_of(symbol));
      }
    });
  }
  if (!possible) return false;
  absl::flat_hash_map<std::uint32_t, std::vector<Name>> values;
  for (const auto& [variable, places] : bound) {
    std::vector<Name>& fitting = values[variable];
    for (const Name& name : domain(places.front())) {
      bool everywhere = true;
      for (const PlaceId place : places) everywhere = everywhere && domain(place).contains(name);
      if (everywhere) fitting.push_back(name);
    }
    if (fitting.empty()) return false;
  }
  bool changed = false;
  places_.visit(description, clause.head, [&](PlaceId place, const PatternSymbol& symbol) {
    Domain& here = domains_[index_of(place)];
    if (symbol.kind != PatternSymbol::Kind::variable) {
      changed = here.insert(name_of(symbol)).second || changed;
      return;
    }
    for (const Name& name : values[symbol.value]) changed = here.insert(name).second || changed;
  });
  return changed;
}

std::optional<Domains::Fault> Domains::fault(const Description& description,
                                             const Clause& clause) const {
  std::optional<Fault> found;
  absl::flat_hash_map<std::uint32_t, PlaceId> first;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    places_.visit(description, literal.atom, [&](PlaceId place, const PatternSymbol& symbol) {
      if (found || domain(place).empty()) return;
      if (symbol.kind != PatternSymbol::Kind::variable) {
        if (!domain(place).contains(name_of(symbol))) found = Fault{&symbol, place, std::nullopt};
        return;
      }
      const auto [known, is_new] = first.try_emplace(symbol.value, place);
      if (is_new) return;
      for (const Name& name : domain(place)) {
        if (domain(known->second).contains(name)) return;
      }
      found = Fault{&symbol, place, known->second};
    });
  }
  return found;
}

}  // namespace orchard::rules
