// A description without variables: every atom that can matter in some reachable position, and the
// clauses between them.
//
// What can hold is over-approximated: an atom is there if it can be derived when negation is
// ignored on what changes during play; what never changes is worked out exactly and gone from the
// clauses. So an atom that is missing never holds, in any reachable position. Immutable once made;
// safe to share between threads.
//
// Where that has no end or is too much, `base` and `input` can guide: what they do not declare is
// left out. It is not dropped silently: the atoms that would make it are listed, and
// wherever one of them holds, what is missing may matter.
#pragma once

#include <absl/container/flat_hash_set.h>

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "ground/fact_store.hpp"
#include "ground/schema.hpp"
#include "orchard/result.hpp"

namespace orchard::ground {

enum class AtomId : std::uint32_t {};
inline constexpr AtomId no_atom{0xFFFFFFFF};
inline std::size_t index_of(AtomId id) {
  return static_cast<std::size_t>(id);
}

struct GroundClause {
  std::uint64_t first = 0;  // in the pool of body atoms: the positive ones …
  AtomId head{};
  std::uint32_t positive = 0;  // … so many,
  std::uint32_t negative = 0;  // … and the negative ones after them
  std::uint32_t clause = 0;    // of the description
};

// What some line of play can make true or legal, found out elsewhere.
struct ForeseenTerms {
  absl::flat_hash_set<TermId> fluents;
  absl::flat_hash_set<std::pair<TermId, TermId>> moves;  // role and move
};

struct Limits {
  std::uint64_t bytes = 4ull << 30;  // of what is made, about
  std::uint32_t term_depth = 64;
  // A state that grows from ply to ply, as a list of moves, has no end, and is told by what nests
  // deep: counters in nested terms have a few such terms, lists have most of theirs.
  std::uint32_t deep = 8;
  std::uint64_t deep_clauses = 250'000;
  Splitting splitting;
  bool guided = false;  // by `base` and `input`, whichever the description has
  // If given, nothing but this is made, and what would be left out is no matter: it is all there
  // is.
  const ForeseenTerms* foreseen = nullptr;
};

class GroundProgram {
 public:
  // Of what play asks for, and of the relations `also`. Fails with `too-many-instances`, naming the
  // clause that has the most and what it ranges over.
  static Result<std::shared_ptr<const GroundProgram>> make(
      std::shared_ptr<const rules::Description> description, const Limits& limits,
      const std::vector<RelationId>& also = {});

  struct Fluent {
    TermId term{};
    AtomId now = no_atom;   // (true f), if any rule asks for it
    AtomId next = no_atom;  // (next f), if any rule makes it after a move
    bool initial = false;
  };
  struct Move {
    TermId term{};
    AtomId legal = no_atom;
    AtomId does = no_atom;  // if any rule asks for it
  };
  struct Value {  // of a role: a goal value or a percept
    TermId term{};
    AtomId atom = no_atom;
  };

  const rules::Description& description() const { return *description_; }
  rules::TermTable& terms() const { return description_->terms(); }

  std::size_t atom_count() const { return atoms_.size(); }
  // In the order of their heads.
  const std::vector<GroundClause>& clauses() const { return clauses_; }
  std::span<const GroundClause> clauses_of(AtomId head) const {
    const std::uint32_t first = first_clause_[index_of(head)];
    return std::span(clauses_).subspan(first, first_clause_[index_of(head) + 1] - first);
  }
  std::span<const AtomId> positive(const GroundClause& clause) const {
    return std::span(bodies_).subspan(clause.first, clause.positive);
  }
  std::span<const AtomId> negative(const GroundClause& clause) const {
    return std::span(bodies_).subspan(clause.first + clause.positive, clause.negative);
  }
  // The keyword of an atom's relation: true_ and does are inputs of a position or step.
  Keyword keyword(AtomId atom) const;
  Phase phase(AtomId atom) const;
  // Whether what a relation holds is the same in every position.
  bool is_constant(RelationId relation) const {
    return dependency_.phase(relation) == Phase::constant;
  }
  // Whether it stands for conditions that some rules have in common (see `split_bodies.hpp`), and
  // for no atom of the description.
  bool is_part(AtomId atom) const;
  // "(true (square 1 2 bare))"; of a part a name that the description does not have.
  std::string text(AtomId atom) const;

  // What a relation of the description's own can hold: the arguments, and the atom; no_atom for
  // what holds in every position.
  struct Instance {
    std::vector<TermId> arguments;
    AtomId atom = no_atom;
  };
  std::vector<Instance> instances(RelationId relation) const;

  // In the order of Term; by role in the order of the roles.
  const std::vector<Fluent>& fluents() const { return fluents_; }
  std::vector<bool> initial() const;  // by fluent
  const std::vector<std::vector<Move>>& moves() const { return moves_; }
  // By role, the number of its first move where the moves of all roles stand in a row.
  std::vector<std::size_t> first_moves() const;
  const std::vector<std::vector<Value>>& goals() const { return goals_; }
  const std::vector<std::vector<Value>>& percepts() const { return percepts_; }
  AtomId terminal() const { return terminal_; }  // no_atom: no position is an end

  // Of a guided instantiation: what makes fluents and moves that are not declared. None of them are
  // listed among fluents and moves.
  const std::vector<AtomId>& undeclared_next() const { return undeclared_next_; }
  const std::vector<AtomId>& undeclared_legal() const { return undeclared_legal_; }

  // One clause a line, as rules of the language without variables.
  std::string text() const;

 private:
  friend class Instantiator;
  struct Atom {
    PredicateId predicate{};
    std::uint32_t row = 0;
  };
  GroundProgram(std::shared_ptr<const rules::Description> description,
                const std::vector<RelationId>& also, const Limits& limits)
      : description_(std::move(description)),
        dependency_(*description_),
        schema_(*description_, dependency_, also, limits.splitting) {}
  TermId split_term(const Predicate& predicate, std::span<const TermId> row) const;
  struct Collected;
  void collect_row(const Predicate& predicate, std::span<const TermId> row, AtomId atom,
                   Collected& collected);
  void collect();

  std::shared_ptr<const rules::Description> description_;
  rules::Dependency dependency_;
  Schema schema_;
  std::vector<FactStore> stores_;                 // by predicate
  std::vector<Atom> atoms_;                       // of predicates that are not static
  std::vector<std::vector<AtomId>> atom_of_row_;  // by predicate
  std::vector<GroundClause> clauses_;
  std::vector<std::uint32_t> first_clause_;  // by head, and the end
  std::vector<AtomId> bodies_;
  std::vector<Fluent> fluents_;
  std::vector<std::vector<Move>> moves_;
  std::vector<std::vector<Value>> goals_;
  std::vector<std::vector<Value>> percepts_;
  AtomId terminal_ = no_atom;
  std::vector<AtomId> undeclared_next_;
  std::vector<AtomId> undeclared_legal_;
  std::vector<AtomId> never_;  // fluents and moves that are not foreseen: not listed
};

}  // namespace orchard::ground
