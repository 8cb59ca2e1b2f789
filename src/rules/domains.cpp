#include "rules/domains.hpp"

#include <algorithm>

#include "base/interruption.hpp"

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

Domains::Domains(const Description& description, const Excused& excused)
    : places_(description), domains_(places_.size()) {
  std::vector<const Clause*> rules;
  for (const Clause& clause : description.clauses()) {
    if (declares_only(description, clause)) continue;
    if (clause.body.empty()) {
      apply(description, clause, excused);
    } else {
      rules.push_back(&clause);
    }
  }
  for (bool changed = true; changed;) {
    changed = false;
    for (const Clause* clause : rules) {
      end_if_interrupted();
      changed = apply(description, *clause, excused) || changed;
    }
  }
}

// Adds to the head's places what the conditions allow; true if something was new.
bool Domains::apply(const Description& description, const Clause& clause, const Excused& excused) {
  absl::flat_hash_map<std::uint32_t, std::vector<PlaceId>> bound;  // places of each variable
  bool possible = true;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    const PatternSymbol* excused_end = nullptr;  // of the term being skipped
    places_.visit(description, literal.atom, [&](PlaceId place, const PatternSymbol& symbol) {
      if (excused.contains(&symbol)) excused_end = std::max(excused_end, &symbol + symbol.size);
      const bool is_excused = &symbol < excused_end;
      if (symbol.kind == PatternSymbol::Kind::variable) {
        std::vector<PlaceId>& places = bound[symbol.value];
        if (!is_excused) places.push_back(place);
      } else {
        possible = possible && (is_excused || allows(place, name_of(symbol)));
      }
    });
  }
  if (!possible) return false;
  absl::flat_hash_map<std::uint32_t, Domain> values;
  for (const auto& [variable, places] : bound) {
    Domain& fitting = values[variable];
    fitting = common(places);
    if (fitting.empty()) return false;
  }
  bool changed = false;
  places_.visit(description, clause.head, [&](PlaceId place, const PatternSymbol& symbol) {
    Domain& here = domains_[index_of(place)];
    if (symbol.kind != PatternSymbol::Kind::variable) {
      changed = here.insert(name_of(symbol)).second || changed;
      return;
    }
    const auto from = bound.find(symbol.value);
    for (const Name& name : values[symbol.value]) {
      changed = here.insert(name).second || changed;
      if (name.arity > 0 && from != bound.end() && !from->second.empty()) {
        changed = carry(name, from->second.front(), place) || changed;
      }
    }
  });
  return changed;
}

// What can stand in a function that a variable brings from one place to another; true if something
// was new.
bool Domains::carry(const Name& name, PlaceId from, PlaceId to) {
  if (places_.within(from) == places_.within(to)) return false;
  bool changed = false;
  for (std::uint32_t argument = 0; argument < name.arity; ++argument) {
    const auto source = places_.find(places_.within(from), name.symbol, name.arity, argument);
    const auto target = places_.find(places_.within(to), name.symbol, name.arity, argument);
    if (!source || !target) continue;
    for (const Name& inner : domains_[index_of(*source)]) {
      changed = domains_[index_of(*target)].insert(inner).second || changed;
    }
  }
  return changed;
}

// What can stand at all of the places.
Domains::Domain Domains::common(const std::vector<PlaceId>& places) const {
  std::optional<Domain> result;
  for (const PlaceId place : places) {
    if (domain(place).contains(anything)) continue;
    if (!result) {
      result = domain(place);
    } else {
      absl::erase_if(*result, [&](const Name& name) { return !domain(place).contains(name); });
    }
  }
  return result.value_or(Domain{anything});
}

Domains::Domain Domains::values(const Description& description, const Clause& clause,
                                const PatternSymbol& symbol) const {
  std::vector<PlaceId> places;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    places_.visit(description, literal.atom, [&](PlaceId place, const PatternSymbol& other) {
      const bool same = other.kind == PatternSymbol::Kind::variable && other.value == symbol.value;
      if (same) places.push_back(place);
    });
  }
  return places.empty() ? Domain{} : common(places);
}

std::optional<Domains::Fault> Domains::fault(const Description& description, const Clause& clause,
                                             const Excused& excused) const {
  std::optional<Fault> found;
  absl::flat_hash_map<std::uint32_t, PlaceId> first;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    places_.visit(description, literal.atom, [&](PlaceId place, const PatternSymbol& symbol) {
      if (found || excused.contains(&symbol) || domain(place).empty()) return;
      if (symbol.kind != PatternSymbol::Kind::variable) {
        const Fault fault{&symbol, place, std::nullopt};
        if (is_fault(fault)) found = fault;
        return;
      }
      const auto [known, is_new] = first.try_emplace(symbol.value, place);
      const Fault fault{&symbol, place, known->second};
      if (!is_new && is_fault(fault)) found = fault;
    });
  }
  return found;
}

bool Domains::is_fault(const Fault& fault) const {
  if (fault.other) return common({fault.place, *fault.other}).empty();
  return !allows(fault.place, name_of(*fault.symbol));
}

}  // namespace orchard::rules
