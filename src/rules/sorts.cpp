#include "rules/sorts.hpp"

#include <numeric>

namespace orchard::rules {

Sorts::Sorts(const Description& description) : places_(description), parent_(places_.size()) {
  std::iota(parent_.begin(), parent_.end(), 0u);
  for (const Clause& clause : description.clauses()) {
    absl::flat_hash_map<std::uint32_t, std::uint32_t> variables;  // → a place where it stands
    const auto read = [&](PlaceId place, const PatternSymbol& symbol) {
      if (symbol.kind != PatternSymbol::Kind::variable) return;
      const auto here = static_cast<std::uint32_t>(place);
      const auto [entry, is_new] = variables.try_emplace(symbol.value, here);
      if (!is_new) parent_[root(entry->second)] = root(here);
    };
    places_.visit(description, clause.head, read);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) places_.visit(description, literal.atom, read);
    }
  }
  for (std::uint32_t place = 0; place < parent_.size(); ++place) parent_[place] = root(place);
}

std::optional<Sorts::Sort> Sorts::sort(Owner owner, SymbolId name, std::uint32_t arity,
                                       std::uint32_t argument) const {
  const auto place = places_.find(owner, name, arity, argument);
  return place ? std::optional(parent_[index_of(*place)]) : std::nullopt;
}

std::uint32_t Sorts::root(std::uint32_t place) {
  while (parent_[place] != place) {
    parent_[place] = parent_[parent_[place]];
    place = parent_[place];
  }
  return place;
}

}  // namespace orchard::rules
