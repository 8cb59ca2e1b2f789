// Sorts of things, inferred: two places of a description have the same sort if a variable can
// carry a term from one to the other.
//
// Rows and columns of a board come out as two sorts unless the rules mix them. Found by union-find
// over the variables of every clause; almost linear in the size of the clauses. Immutable; safe to
// share.
#pragma once

#include "rules/places.hpp"

namespace orchard::rules {

class Sorts {
 public:
  using Owner = Places::Owner;
  using Sort = std::uint32_t;

  explicit Sorts(const Description& description);

  const Places& places() const { return places_; }
  Sort sort(PlaceId place) const { return parent_[index_of(place)]; }
  // The sort of a place; none if no clause speaks of it.
  std::optional<Sort> sort(Owner owner, SymbolId name, std::uint32_t arity,
                           std::uint32_t argument) const;

 private:
  std::uint32_t root(std::uint32_t place);

  Places places_;
  std::vector<std::uint32_t> parent_;  // of places; roots point to themselves
};

}  // namespace orchard::rules
