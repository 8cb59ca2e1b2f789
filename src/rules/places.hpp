// Places of a description: the arguments at which terms stand.
//
// A place is an argument of a relation, or of a function term within a fluent, within a move, or
// elsewhere. `init`, `true` and `next` speak of the same fluents and share their places; so do
// `legal` and `does`. `base` and `input` share them too, since they declare the same.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <cstdint>
#include <optional>
#include <vector>

#include "rules/description.hpp"

namespace orchard::rules {

enum class PlaceId : std::uint32_t {};
inline std::size_t index_of(PlaceId id) {
  return static_cast<std::size_t>(id);
}

class Places {
 public:
  enum class Owner : std::uint8_t {
    relation,  // argument of an atom
    fluent,    // argument of a fluent: (true (square HERE …))
    move,      // argument of a move: (does ?role (tie HERE …))
    function,  // argument of any other function term
  };

  struct Key {
    Owner owner;
    SymbolId name;
    std::uint32_t arity;
    std::uint32_t argument;  // from 0
    friend bool operator==(const Key&, const Key&) = default;
    template <class Hash>
    friend Hash AbslHashValue(Hash hash, const Key& key) {
      return Hash::combine(std::move(hash), key.owner, key.name, key.arity, key.argument);
    }
  };

  // Numbers all places that the clauses speak of.
  explicit Places(const Description& description);

  std::size_t size() const { return within_.size(); }
  std::optional<PlaceId> find(Owner owner, SymbolId name, std::uint32_t arity,
                              std::uint32_t argument) const;
  // What the arguments of a function that stands at a place belong to. A variable may carry the
  // function to a place where they belong to something else.
  Owner within(PlaceId place) const { return within_[static_cast<std::size_t>(place)]; }

  // Every place that the rules write something at, with what it is, in no order.
  const absl::flat_hash_map<Key, PlaceId>& all() const { return ids_; }

  // Calls visit(place, symbol) for the symbols of an atom that the description has.
  template <class Visit>
  void visit(const Description& description, const Atom& atom, Visit&& visit) const;

 private:
  // Walks an atom: place_of(key, within) gives the id of a place.
  template <class PlaceOf, class Visit>
  static void walk(const Description& description, const Atom& atom, PlaceOf&& place_of,
                   Visit&& visit);
  static SymbolId shared_name(const Description& description, const Relation& relation);
  static Owner owner_of_terms(Keyword keyword, std::uint32_t argument);

  absl::flat_hash_map<Key, PlaceId> ids_;
  absl::flat_hash_map<Key, PlaceId> carried_;  // of functions, where no rule writes them
  std::vector<Owner> within_;                  // by place
};

template <class PlaceOf, class Visit>
void Places::walk(const Description& description, const Atom& atom, PlaceOf&& place_of,
                  Visit&& visit) {
  struct Open {
    Owner owner;
    SymbolId name;
    std::uint32_t arity;
    std::uint32_t next;  // argument
  };
  const Relation& relation = description.relation(atom.relation);
  std::vector<Open> open{{Owner::relation, shared_name(description, relation), relation.arity, 0}};
  for (const PatternSymbol& symbol : atom.arguments) {
    while (open.back().next == open.back().arity) open.pop_back();
    Open& around = open.back();
    const std::uint32_t argument = around.next++;
    const Owner inner = around.owner == Owner::relation ? owner_of_terms(relation.keyword, argument)
                                                        : Owner::function;
    visit(place_of(Key{around.owner, around.name, around.arity, argument}, inner), symbol);
    if (symbol.kind == PatternSymbol::Kind::function) {
      open.push_back({inner, symbol.symbol(), symbol.arity, 0});
    }
  }
}

template <class Visit>
void Places::visit(const Description& description, const Atom& atom, Visit&& visit) const {
  walk(
      description, atom, [&](const Key& key, Owner) { return ids_.at(key); }, visit);
}

}  // namespace orchard::rules
