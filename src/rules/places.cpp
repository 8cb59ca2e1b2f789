#include "rules/places.hpp"

namespace orchard::rules {

Places::Places(const Description& description) {
  const auto place_of = [&](const Key& key) {
    const auto [entry, is_new] = ids_.try_emplace(key, PlaceId{static_cast<std::uint32_t>(size_)});
    if (is_new) ++size_;
    return entry->second;
  };
  const auto ignore = [](PlaceId, const PatternSymbol&) {};
  for (const Clause& clause : description.clauses()) {
    walk(description, clause.head, place_of, ignore);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) walk(description, literal.atom, place_of, ignore);
    }
  }
}

std::optional<PlaceId> Places::find(Owner owner, SymbolId name, std::uint32_t arity,
                                    std::uint32_t argument) const {
  const auto known = ids_.find({owner, name, arity, argument});
  return known == ids_.end() ? std::nullopt : std::optional(known->second);
}

Places::Owner Places::owner_of_terms(Keyword keyword, std::uint32_t argument) {
  switch (keyword) {
    case Keyword::init:
    case Keyword::true_:
    case Keyword::next:
    case Keyword::base:
      return Owner::fluent;
    case Keyword::legal:
    case Keyword::does:
    case Keyword::input:
      return argument == 1 ? Owner::move : Owner::function;
    default:
      return Owner::function;
  }
}

SymbolId Places::shared_name(const Description& description, const Relation& relation) {
  Keyword shared = relation.keyword;
  if (shared == Keyword::init || shared == Keyword::next || shared == Keyword::base) {
    shared = Keyword::true_;
  } else if (shared == Keyword::legal || shared == Keyword::input) {
    shared = Keyword::does;
  }
  if (shared == Keyword::none) return relation.name;
  const auto found = description.find(shared);
  return found ? description.relation(*found).name : description.keyword_symbol(shared);
}

}  // namespace orchard::rules
