#include "rules/places.hpp"

namespace orchard::rules {

Places::Places(const Description& description) {
  const auto number = [&](absl::flat_hash_map<Key, PlaceId>& ids, const Key& key, Owner within) {
    const auto next = PlaceId{static_cast<std::uint32_t>(within_.size())};
    const auto [entry, is_new] = ids.try_emplace(key, next);
    if (is_new) within_.push_back(within);
    return entry->second;
  };
  const auto place_of = [&](const Key& key, Owner within) { return number(ids_, key, within); };
  const auto ignore = [](PlaceId, const PatternSymbol&) {};
  for (const Clause& clause : description.clauses()) {
    walk(description, clause.head, place_of, ignore);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) walk(description, literal.atom, place_of, ignore);
    }
  }
  for (const auto& [key, place] : ids_) {
    if (key.owner == Owner::relation) continue;
    for (const Owner owner : {Owner::fluent, Owner::move, Owner::function}) {
      const Key other{owner, key.name, key.arity, key.argument};
      if (!ids_.contains(other)) number(carried_, other, Owner::function);
    }
  }
}

std::optional<PlaceId> Places::find(Owner owner, SymbolId name, std::uint32_t arity,
                                    std::uint32_t argument) const {
  const Key key{owner, name, arity, argument};
  if (const auto known = ids_.find(key); known != ids_.end()) return known->second;
  const auto known = carried_.find(key);
  return known == carried_.end() ? std::nullopt : std::optional(known->second);
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
