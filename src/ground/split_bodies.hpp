// Long rule bodies in parts, so that fewer instances are made.
//
// Conditions that share a variable which nothing else of the rule asks for move to a relation of
// their own, a *part*, over the variables they have in common with the rest: variables are
// eliminated one by one (Dechter, Bucket elimination, 1999), the one whose part has the fewest
// instances first. A part may be split again; equal parts are one. The estimate of instances is the
// product of what variables can be by the domains; a rule is left whole where parts would not save
// much. What a rule derives stays the same.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <functional>
#include <map>
#include <vector>

#include "ground/schema.hpp"

namespace orchard::ground {

class BodySplitter {
 public:
  // A new predicate for what a part derives.
  using MakePart = std::function<PredicateId(const FlatClause& part)>;

  BodySplitter(const rules::Description& description, const rules::Domains& domains,
               const std::vector<Predicate>& predicates, const Splitting& splitting,
               MakePart make_part)
      : description_(description),
        domains_(domains),
        predicates_(predicates),
        splitting_(splitting),
        make_part_(std::move(make_part)) {}

  // The clause without its parts, and behind it those of the parts that are new; O(variables² ×
  // length of the body).
  std::vector<FlatClause> split(FlatClause clause);

 private:
  using Variables = std::vector<bool>;
  struct Part {
    std::vector<bool> takes;  // by literal
    Variables shared;         // with the rest: the columns of the part
    bool is_static = false;
    double rest = 0;   // instances that the rest is estimated to have
    double whole = 0;  // … together with those of the part
  };

  void estimate(const FlatClause& clause);
  double instances(const Variables& variables) const;
  bool find_part(const FlatClause& clause, Part& best) const;
  bool part_of(const FlatClause& clause, std::uint32_t variable, Part& part) const;
  bool is_static(const FlatLiteral& literal) const;
  FlatClause take_out(FlatClause& clause, const Part& part, bool& is_new);

  const rules::Description& description_;
  const rules::Domains& domains_;
  const std::vector<Predicate>& predicates_;
  const Splitting splitting_;
  MakePart make_part_;
  std::vector<double> sizes_;  // of the clause being split: by variable, what it can be
  std::map<std::vector<std::uint32_t>, PredicateId> known_;  // parts by their bodies
};

}  // namespace orchard::ground
