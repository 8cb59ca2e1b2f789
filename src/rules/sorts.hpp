// Sorts of things, inferred: two places of a description have the same sort if a variable can
// carry a term from one to the other.
//
// A place is an argument of a relation, or of a function term within a fluent, within a move, or
// elsewhere. Rows and columns of a board come out as two sorts unless the rules mix them. Found
// by union-find over the variables of every clause; almost linear in the size of the clauses.
// Immutable; safe to share.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <cstdint>
#include <optional>
#include <vector>

#include "rules/description.hpp"

namespace orchard::rules {

class Sorts {
 public:
  enum class Owner : std::uint8_t {
    relation,  // argument of an atom
    fluent,    // argument of a fluent: (true (square HERE …))
    move,      // argument of a move: (does ?role (tie HERE …))
    function,  // argument of any other function term
  };
  using Sort = std::uint32_t;

  explicit Sorts(const Description& description);

  // The sort of a place; none if no clause speaks of it.
  std::optional<Sort> sort(Owner owner, SymbolId name, std::uint32_t arity,
                           std::uint32_t argument) const;

 private:
  struct PlaceKey {
    Owner owner;
    SymbolId name;
    std::uint32_t arity;
    std::uint32_t argument;
    friend bool operator==(const PlaceKey&, const PlaceKey&) = default;
    template <class Hash>
    friend Hash AbslHashValue(Hash hash, const PlaceKey& key) {
      return Hash::combine(std::move(hash), key.owner, key.name, key.arity, key.argument);
    }
  };

  void read_clause(const Description& description, const Clause& clause);
  void read_arguments(const Description& description, const Atom& atom);
  std::uint32_t place(const PlaceKey& key);
  std::uint32_t root(std::uint32_t node);
  void unite(std::uint32_t a, std::uint32_t b);

  std::vector<std::uint32_t> parent_;  // of places and variables; roots point to themselves
  absl::flat_hash_map<PlaceKey, std::uint32_t> places_;
  absl::flat_hash_map<std::uint32_t, std::uint32_t> variables_;  // of the clause being read
};

}  // namespace orchard::rules
