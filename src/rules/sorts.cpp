#include "rules/sorts.hpp"

namespace orchard::rules {
namespace {

// What the function terms at an argument of this relation are.
Sorts::Owner owner_of_terms(Keyword keyword, std::uint32_t argument) {
  switch (keyword) {
    case Keyword::init:
    case Keyword::true_:
    case Keyword::next:
    case Keyword::base: return Sorts::Owner::fluent;
    case Keyword::legal:
    case Keyword::does:
    case Keyword::input:
      return argument == 1 ? Sorts::Owner::move : Sorts::Owner::function;
    default: return Sorts::Owner::function;
  }
}

// `init`, `true`, `next`, `base` speak of the same things, and so do `legal`, `does`, `input`.
Keyword family(Keyword keyword) {
  switch (keyword) {
    case Keyword::init:
    case Keyword::next:
    case Keyword::base: return Keyword::true_;
    case Keyword::legal:
    case Keyword::input: return Keyword::does;
    default: return keyword;
  }
}

}  // namespace

Sorts::Sorts(const Description& description) {
  for (const Clause& clause : description.clauses()) read_clause(description, clause);
  for (std::uint32_t node = 0; node < parent_.size(); ++node) parent_[node] = root(node);
}

std::optional<Sorts::Sort> Sorts::sort(Owner owner, SymbolId name, std::uint32_t arity,
                                       std::uint32_t argument) const {
  const auto known = places_.find({owner, name, arity, argument});
  return known == places_.end() ? std::nullopt : std::optional(parent_[known->second]);
}

void Sorts::read_clause(const Description& description, const Clause& clause) {
  variables_.clear();
  read_arguments(description, clause.head);
  for (const Literal& literal : clause.body) {
    if (!literal.is_comparison()) read_arguments(description, literal.atom);
  }
}

void Sorts::read_arguments(const Description& description, const Atom& atom) {
  struct Open {
    Owner owner;
    SymbolId name;
    std::uint32_t arity;
    std::uint32_t next;   // argument
    Keyword keyword;      // of a relation
  };
  const Relation& relation = description.relation(atom.relation);
  const Keyword representative = family(relation.keyword);
  SymbolId name = relation.name;
  if (const auto shared = description.find(representative);
      representative != Keyword::none && shared) {
    name = description.relation(*shared).name;
  }
  std::vector<Open> open{{Owner::relation, name, relation.arity, 0, relation.keyword}};
  for (const PatternSymbol& symbol : atom.arguments) {
    while (open.back().next == open.back().arity) open.pop_back();
    Open& around = open.back();
    const std::uint32_t argument = around.next++;
    const std::uint32_t here = place({around.owner, around.name, around.arity, argument});
    if (symbol.kind == PatternSymbol::Kind::variable) {
      const auto [entry, is_new] = variables_.try_emplace(symbol.value, here);
      if (!is_new) unite(entry->second, here);
    } else if (symbol.kind == PatternSymbol::Kind::function) {
      const Owner owner = around.owner == Owner::relation
                              ? owner_of_terms(around.keyword, argument)
                              : Owner::function;
      open.push_back({owner, symbol.symbol(), symbol.arity, 0, Keyword::none});
    }
  }
}

std::uint32_t Sorts::place(const PlaceKey& key) {
  const auto [entry, is_new] =
      places_.try_emplace(key, static_cast<std::uint32_t>(parent_.size()));
  if (is_new) parent_.push_back(entry->second);
  return entry->second;
}

std::uint32_t Sorts::root(std::uint32_t node) {
  while (parent_[node] != node) {
    parent_[node] = parent_[parent_[node]];
    node = parent_[node];
  }
  return node;
}

void Sorts::unite(std::uint32_t a, std::uint32_t b) { parent_[root(a)] = root(b); }

}  // namespace orchard::rules
