// Conditions that never hold, by the domains of places: names that never stand there, variables for
// which no value fits. One slip makes much else impossible, so causes are told from consequences.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/similar.hpp"
#include "rules/domains.hpp"
#include "rules/finding_sink.hpp"

namespace orchard::rules {
namespace {

// The same name at the same place, in another rule.
bool says_the_same(const Domains::Fault& a, const Domains::Fault& b) {
  if (a.symbol == b.symbol) return true;
  return !a.other && !b.other && a.place == b.place && a.symbol->value == b.symbol->value &&
         a.symbol->arity == b.symbol->arity;
}

class ImpossibleConditions {
 public:
  ImpossibleConditions(const Description& description, FindingSink& sink)
      : description_(description), sink_(sink) {}

  void run();

 private:
  struct Found {
    const Clause* clause;
    Domains::Fault fault;
  };

  std::vector<Found> faults(const Domains& domains, const Domains::Excused& excused) const;
  Domains::Excused undefined_conditions() const;
  void report(const Domains& domains, const Found& found);
  bool is_foreseen(const Domains& domains, const Found& cause,
                   const std::vector<Found>& found) const;
  void find_idle(const Domains& domains);
  std::vector<std::string> names_at(const Domains& domains, PlaceId place) const;
  Remedy what_was_meant(const Domains& domains, const std::string& name, PlaceId place) const;

  const Description& description_;
  FindingSink& sink_;
};

// Those on relations that nothing concludes are told already: what follows from them is no slip of
// its own.
Domains::Excused ImpossibleConditions::undefined_conditions() const {
  Domains::Excused excused;
  for (const Clause& clause : description_.clauses()) {
    for (const Literal& literal : clause.body) {
      if (literal.is_comparison()) continue;
      const Relation& relation = description_.relation(literal.atom.relation);
      if (relation.concluded || relation.keyword != Keyword::none) continue;
      for_each_argument(
          literal.atom.arguments,
          [&](const PatternSymbol* first, const PatternSymbol*) { excused.insert(first); });
    }
  }
  return excused;
}

// A fault that is gone once all faulty conditions are taken to hold is a consequence of others.
// Causes are reported and taken to hold, and the search begins again, until nothing is left. Faults
// that only cause one another have no first one; then the first in the text is it.
void ImpossibleConditions::run() {
  constexpr int most_rounds = 20;
  Domains::Excused excused = undefined_conditions();
  for (int round = 0; round < most_rounds; ++round) {
    const Domains domains(description_, excused);
    std::vector<Found> found = faults(domains, excused);
    if (found.empty()) return find_idle(domains);
    Domains::Excused all = excused;
    for (const Found& one : found) all.insert(one.fault.symbol);
    const Domains lenient(description_, all);
    std::vector<Found> causes;
    std::ranges::copy_if(found, std::back_inserter(causes),
                         [&](const Found& one) { return lenient.is_fault(one.fault); });
    if (causes.empty()) causes.push_back(found.front());
    for (const Found& cause : causes) {
      if (!is_foreseen(domains, cause, found)) report(domains, cause);
    }
    for (const Found& one : found) {
      const bool same = std::ranges::any_of(
          causes, [&](const Found& cause) { return says_the_same(cause.fault, one.fault); });
      if (same) excused.insert(one.fault.symbol);
    }
  }
}

std::vector<ImpossibleConditions::Found> ImpossibleConditions::faults(
    const Domains& domains, const Domains::Excused& excused) const {
  std::vector<Found> result;
  for (const Clause& clause : description_.clauses()) {
    if (auto fault = domains.fault(description_, clause, excused)) {
      result.push_back({&clause, *fault});
    }
  }
  return result;
}

std::vector<std::string> ImpossibleConditions::names_at(const Domains& domains,
                                                        PlaceId place) const {
  std::vector<std::string> names;
  for (const Domains::Name& name : domains.domain(place)) {
    names.push_back(description_.terms().name(name.symbol));
  }
  std::ranges::sort(names, [](const auto& a, const auto& b) { return compare_names(a, b) < 0; });
  return names;
}

Remedy ImpossibleConditions::what_was_meant(const Domains& domains, const std::string& name,
                                            PlaceId place) const {
  const std::vector<std::string> there = names_at(domains, place);
  const auto meant = most_similar(name, there);
  return meant ? Remedy::name_meant(name, *meant)
               : fmt::format("what can stand here: {}", some_of(there));
}

// Whether several rules ask for a thing that this start does not have and that looks like nothing
// else: a kind of piece that another start has, not a slip. (That its rules never take part is
// found by looking at play.)
bool ImpossibleConditions::is_foreseen(const Domains& domains, const Found& cause,
                                       const std::vector<Found>& found) const {
  constexpr std::size_t several = 2;
  if (cause.fault.other) return false;
  std::set<syntax::NodeIndex> rules;
  for (const Found& one : found) {
    if (says_the_same(cause.fault, one.fault)) {
      rules.insert(description_.rules()[one.clause->rule].node);
    }
  }
  const std::string& name = description_.terms().name(cause.fault.symbol->symbol());
  return rules.size() >= several && !most_similar(name, names_at(domains, cause.fault.place));
}

void ImpossibleConditions::report(const Domains& domains, const Found& found) {
  const PatternSymbol& symbol = *found.fault.symbol;
  if (found.fault.other) {
    sink_.add(symbol.node, "disjoint-places",
              fmt::format("nothing can be {} both here and before",
                          description_.rules()[found.clause->rule].variables[symbol.value]),
              fmt::format("here: {}; before: {}", some_of(names_at(domains, found.fault.place)),
                          some_of(names_at(domains, *found.fault.other))));
    return;
  }
  const std::string& name = description_.terms().name(symbol.symbol());
  if (sink_.is_explained(name)) return;
  sink_.add(symbol.node, "impossible-condition",
            fmt::format("`{}` never stands here, so this condition never holds", name),
            what_was_meant(domains, name, found.fault.place));
}

// (not (true (bed ?row sonw))): what never holds is no condition when negated.
void ImpossibleConditions::find_idle(const Domains& domains) {
  for (const Clause& clause : description_.clauses()) {
    for (const Literal& literal : clause.body) {
      if (literal.kind != Literal::Kind::negative) continue;
      domains.places().visit(
          description_, literal.atom, [&](PlaceId place, const PatternSymbol& symbol) {
            const Domains::Domain& domain = domains.domain(place);
            const bool name = symbol.kind != PatternSymbol::Kind::variable;
            if (!name || domain.empty() || domains.allows(place, {symbol.symbol(), symbol.arity})) {
              return;
            }
            const std::string& text = description_.terms().name(symbol.symbol());
            if (sink_.is_explained(text)) return;
            sink_.add(symbol.node, "idle-condition",
                      fmt::format("`{}` never stands here, so this negation always holds", text),
                      what_was_meant(domains, text, place));
          });
    }
  }
}

}  // namespace

std::string some_of(const std::vector<std::string>& names) {
  constexpr std::size_t most = 8;
  std::string text;
  for (std::size_t i = 0; i < std::min(most, names.size()); ++i) {
    text += (i == 0 ? "" : ", ") + names[i];
  }
  return names.size() > most ? text + ", …" : text;
}

void find_impossible(const Description& description, FindingSink& sink) {
  ImpossibleConditions(description, sink).run();
}

}  // namespace orchard::rules
