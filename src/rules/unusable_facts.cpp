// Facts that no rule can use, one or two of many: (line 0 1 2) where places are 1 to 9. By the
// domains of places: wherever a rule asks for the relation, some value of the fact never fits.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>

#include "rules/domains.hpp"
#include "rules/finding_sink.hpp"

namespace orchard::rules {

namespace {

class UnusableFacts {
 public:
  UnusableFacts(const Description& description, FindingSink& sink)
      : description_(description), sink_(sink), domains_(description) {}

  void run() {
    for (const Clause& clause : description_.clauses()) {
      for (const Literal& literal : clause.body) {
        if (!literal.is_comparison()) uses_[literal.atom.relation].push_back({&clause, &literal});
      }
    }
    for (const auto& [relation, uses] : uses_) {
      if (is_table(description_, description_.relation(relation))) look_at(relation, uses);
    }
  }

 private:
  struct Use {
    const Clause* clause;
    const Literal* literal;
  };
  // A value that does not fit, and those that would.
  struct Misfit {
    const PatternSymbol* value = nullptr;
    Domains::Domain fits;
  };

  void look_at(RelationId relation, const std::vector<Use>& uses);
  bool is_chain(const Relation& relation) const;
  std::optional<Misfit> misfit(const Pattern& fact, const Use& use);
  const Domains::Domain& values(const Use& use, const PatternSymbol& variable);
  std::string text_of(const Domains::Domain& domain) const;

  const Description& description_;
  FindingSink& sink_;
  const Domains domains_;
  std::map<RelationId, std::vector<Use>> uses_;
  std::map<const PatternSymbol*, Domains::Domain> values_;  // of variables of conditions
};

// An order or a chain often goes further than it is needed.
bool UnusableFacts::is_chain(const Relation& relation) const {
  if (relation.arity != 2) return false;
  std::set<std::pair<SymbolId, bool>> seen;
  for (const std::uint32_t number : relation.clauses) {
    const Pattern& fact = description_.clauses()[number].head.arguments;
    if (fact.size() != 2) return false;
    if (!seen.insert({fact[0].symbol(), false}).second) return false;
    if (!seen.insert({fact[1].symbol(), true}).second) return false;
  }
  return true;
}

const Domains::Domain& UnusableFacts::values(const Use& use, const PatternSymbol& variable) {
  const auto [known, is_new] = values_.try_emplace(&variable);
  if (is_new) known->second = domains_.values(description_, *use.clause, variable);
  return known->second;
}

// Why a rule cannot use the fact. Terms within terms are taken to fit.
std::optional<UnusableFacts::Misfit> UnusableFacts::misfit(const Pattern& fact, const Use& use) {
  const Pattern& asked = use.literal->atom.arguments;
  std::size_t at = 0;
  std::optional<Misfit> result;
  for_each_argument(asked, [&](const PatternSymbol* first, const PatternSymbol* end) {
    const PatternSymbol& value = fact[at];
    at += value.size;
    if (result || value.arity > 0 || end - first != 1) return;
    if (first->kind != PatternSymbol::Kind::variable) {
      if (first->symbol() != value.symbol()) result = Misfit{};  // meant for others
      return;
    }
    const Domains::Domain& domain = values(use, *first);
    if (domain.empty() || domain.contains(Domains::anything)) return;
    if (!domain.contains({value.symbol(), 0})) result = Misfit{&value, domain};
  });
  return result;
}

void UnusableFacts::look_at(RelationId id, const std::vector<Use>& uses) {
  constexpr std::size_t few = 2;
  constexpr std::size_t many = 4;  // times as many that can be used
  const Relation& relation = description_.relation(id);
  if (relation.keyword != Keyword::none || is_chain(relation)) return;
  std::vector<std::pair<const Clause*, Misfit>> unusable;
  for (const std::uint32_t number : relation.clauses) {
    const Clause& fact = description_.clauses()[number];
    std::optional<Misfit> shown;
    bool usable = false;
    for (const Use& use : uses) {
      const auto found = misfit(fact.head.arguments, use);
      usable = usable || !found;
      if (found && found->value != nullptr && !shown) shown = found;
    }
    if (usable || !shown) continue;
    unusable.emplace_back(&fact, *shown);
    if (unusable.size() > few) return;
  }
  if (unusable.size() * (many + 1) > relation.clauses.size()) return;
  for (const auto& [fact, found] : unusable) {
    sink_.add(found.value->node, "unusable-fact",
              fmt::format("no rule can use this fact: `{}` never stands where they ask for `{}`",
                          description_.terms().name(found.value->symbol()),
                          description_.terms().name(relation.name)),
              fmt::format("what can stand here: {}", text_of(found.fits)));
  }
}

std::string UnusableFacts::text_of(const Domains::Domain& domain) const {
  std::vector<std::string> names;
  for (const Domains::Name& name : domain) names.push_back(description_.terms().name(name.symbol));
  std::ranges::sort(names, [](const auto& a, const auto& b) { return compare_names(a, b) < 0; });
  return some_of(names);
}

}  // namespace

void find_unusable_facts(const Description& description, FindingSink& sink) {
  UnusableFacts(description, sink).run();
}

}  // namespace orchard::rules
