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

  // Stands in a domain for whatever there is, where nothing is known: see Excused.
  static constexpr Name anything{SymbolId{0xFFFFFFFF}, 0};

  // Symbols of conditions that are taken to fit, with all that stands within them, whatever can
  // stand at their places. What is known of variables by them alone is `anything`.
  using Excused = absl::flat_hash_set<const PatternSymbol*>;

  explicit Domains(const Description& description, const Excused& excused = {});

  const Places& places() const { return places_; }
  const Domain& domain(PlaceId place) const { return domains_[index_of(place)]; }
  bool allows(PlaceId place, const Name& name) const {
    return domain(place).contains(name) || domain(place).contains(anything);
  }

  // What a variable of a clause can be, by its positive conditions; `symbol` is a place of it in
  // the head.
  Domain values(const Description& description, const Clause& clause,
                const PatternSymbol& symbol) const;

  // Why no instance of a clause can ever be derived, by the domains.
  struct Fault {
    const PatternSymbol* symbol = nullptr;  // a name that never stands there, or a variable …
    PlaceId place{};
    std::optional<PlaceId> other;  // … that no value fits at both places
  };
  // The first fault that is not excused; one whose places have no domain at all follows from
  // another and is none.
  std::optional<Fault> fault(const Description& description, const Clause& clause,
                             const Excused& excused = {}) const;
  // Whether a fault found in other domains of the description is one in these.
  bool is_fault(const Fault& fault) const;

 private:
  bool apply(const Description& description, const Clause& clause, const Excused& excused);
  bool carry(const Name& name, PlaceId from, PlaceId to);
  Domain common(const std::vector<PlaceId>& places) const;

  Places places_;
  std::vector<Domain> domains_;
};

}  // namespace orchard::rules
