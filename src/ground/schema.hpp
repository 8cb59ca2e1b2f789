// A description made ready for instantiation: clauses over predicates with flat columns.
//
// Fluents and moves are what most conditions speak of, so each name of a fluent has predicates of
// its own for what holds now, next and at the start, with the fluent's arguments as columns; each
// name of a move likewise for what is legal and done, with the role as first column. A condition
// on any fluent, (true ?f), becomes one clause for each name that can stand there. Long bodies are
// split into parts, predicates that no relation of the description stands for.
//
// Immutable once made.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "rules/dependency.hpp"
#include "rules/description.hpp"
#include "rules/domains.hpp"

namespace orchard::ground {

using rules::Keyword;
using rules::Pattern;
using rules::PatternSymbol;
using rules::Phase;
using rules::RelationId;
using rules::SymbolId;
using rules::TermId;

enum class PredicateId : std::uint32_t {};
inline std::size_t index_of(PredicateId id) {
  return static_cast<std::size_t>(id);
}

struct Predicate {
  RelationId relation{};
  Keyword keyword = Keyword::none;
  // Of fluents and moves:
  SymbolId name{};
  std::uint32_t name_arity = 0;
  bool split = false;  // the columns are the arguments of a fluent or move of that name

  std::uint32_t part = 0;  // of a split body, from 1: `relation` is what its clause derives

  std::uint32_t columns = 0;
  Phase phase = Phase::constant;
  // In computing order: even those of the dependency graph, odd ones between them for parts.
  std::uint32_t component = 0;
  // What follows from a new instance: next → true, legal → does; none for others.
  std::optional<PredicateId> feeds;

  // Its instances are worked out during instantiation and are facts of every position.
  bool is_static() const { return phase == Phase::constant; }
};

struct FlatAtom {
  PredicateId predicate{};
  Pattern columns;  // as many terms as the predicate has columns
};

struct FlatLiteral {
  rules::Literal::Kind kind = rules::Literal::Kind::positive;
  FlatAtom atom;  // of a comparison the two terms
};

struct FlatClause {
  FlatAtom head;
  std::vector<FlatLiteral> body;
  std::uint32_t variables = 0;
  std::uint32_t clause = 0;  // of the description
};

// When a body is split (see `split_bodies.hpp`).
struct Splitting {
  double few_instances = 2'000;  // a rule that is estimated to have no more is left whole
  double least_gain = 4;         // by which splitting must lessen what is estimated
  static constexpr Splitting none() { return {1e300, 4}; }
};

class Schema {
 public:
  // Of the relations that play asks for, `also` those, and what they depend on.
  Schema(const rules::Description& description, const rules::Dependency& dependency,
         const std::vector<RelationId>& also, const Splitting& splitting);

  const std::vector<Predicate>& predicates() const { return predicates_; }
  const Predicate& predicate(PredicateId id) const { return predicates_[index_of(id)]; }
  const std::vector<FlatClause>& clauses() const { return clauses_; }

 private:
  void add_clause(const rules::Clause& clause, std::uint32_t number);
  bool specialise(const FlatClause& raw, std::vector<FlatClause>& result);
  FlatAtom flatten(const FlatAtom& raw);
  PredicateId predicate(RelationId relation, const PatternSymbol* name);
  PredicateId add_part(const FlatClause& clause);
  void split_bodies(const Splitting& splitting);

  const rules::Description& description_;
  const rules::Dependency& dependency_;
  rules::Domains domains_;
  std::vector<Predicate> predicates_;
  std::vector<FlatClause> clauses_;
  std::uint32_t parts_ = 0;
  absl::flat_hash_map<std::tuple<RelationId, SymbolId, std::uint32_t>, PredicateId> by_name_;
};

}  // namespace orchard::ground
