// The instances of clauses that lead to an atom, and a smallest proof among them.
//
// Atoms are nodes; an instance of a clause leads from the atoms of its positive conditions to its
// head. The cost of a proof is its number of steps and leaves. Knuth (1977): settling atoms in the
// order of their cost gives each a smallest proof, and one without circles.
#pragma once

#include <absl/container/flat_hash_map.h>

#include "explain/clause_search.hpp"

namespace orchard::explain {

struct Atom {
  RelationId relation{};
  std::vector<TermId> row;
  friend bool operator==(const Atom&, const Atom&) = default;
  template <class Hash>
  friend Hash AbslHashValue(Hash hash, const Atom& atom) {
    return Hash::combine(std::move(hash), atom.relation, atom.row);
  }
};

class ProofGraph {
 public:
  struct Step {
    std::uint32_t clause = 0;
    Bindings bindings;
  };

  // `in_full`: what never changes during play is taken apart too.
  ProofGraph(Facts& facts, bool in_full, std::size_t& steps)
      : facts_(facts), in_full_(in_full), steps_(steps) {}

  // Works out the proofs of an atom that holds. False if the steps ran out before there was one.
  bool prove(const Atom& atom);

  // The clause that gives an atom in a smallest proof; none for a leaf: a fluent, a move, or what
  // never changes.
  const Step* step(const Atom& atom) const;

 private:
  struct Instance {
    std::size_t head = 0;
    Step step;
    std::vector<std::size_t> premises;
    std::size_t open = 0;  // premises without a proof yet
    std::uint64_t cost = 0;
  };
  struct Node {
    Atom atom;
    std::vector<std::size_t> used_by;   // instances
    std::optional<std::size_t> best;    // instance
    std::optional<std::uint64_t> cost;  // once settled
    bool leaf = false;
  };

  std::size_t node(const Atom& atom);
  bool is_leaf(const Atom& atom) const;
  bool expand(std::size_t number);
  void settle(std::size_t first_node, std::size_t first_instance);

  Facts& facts_;
  bool in_full_;
  std::size_t& steps_;
  bool root_is_constant_ = false;
  std::vector<Node> nodes_;
  std::vector<Instance> instances_;
  absl::flat_hash_map<Atom, std::size_t> numbers_;
};

}  // namespace orchard::explain
