// Domains: for every place the names that can stand there.
//
// An over-approximation by a fixpoint over the clauses: a clause gives its head's places what its
// positive conditions let its variables be; negation and comparisons are ignored, and so are `base`
// and `input`, which declare but make nothing. A name is a constant, or a function with its number
// of arguments. Immutable; safe to share.
#pragma once

#include <absl/container/flat_hash_set.h>

#include <span>

#include "rules/places.hpp"

namespace orchard::rules {

class Domains {
 public:
  struct Name {
    SymbolId symbol{};
    std::uint32_t arity = 0;  // 0 for a constant
    friend bool operator==(const Name&, const Name&) = default;
    template <class Hash>
    friend Hash AbslHashValue(Hash hash, const Name& name) {
      return Hash::combine(std::move(hash), name.symbol, name.arity);
    }
  };
  using Domain = absl::flat_hash_set<Name>;

  explicit Domains(const Description& description);

  const Places& places() const { return places_; }
  const Domain& domain(PlaceId place) const { return domains_[index_of(place)]; }

  // Why no instance of a clause can ever be derived, by the domains.
  struct Fault {
    const PatternSymbol* symbol = nullptr;  // a name that never stands there, or a variable …
    PlaceId place{};
    std::optional<PlaceId> other;  // … that no value fits at both places
  };
  // The first fault that is a root: the places it speaks of have domains of their own.
  std::optional<Fault> fault(const Description& description, const Clause& clause) const;

 private:
  bool apply(const Description& description, const Clause& clause);

  Places places_;
  std::vector<Domain> domains_;
};

}  // namespace orchard::rules
