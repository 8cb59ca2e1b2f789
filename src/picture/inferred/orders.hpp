// In which order the names of a sort run: by a relation such as (above 3 2), as numbers, or as
// terms that count how often a function stands round a name: z, (s z), (s (s z)) ….
#pragma once

#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "game/core.hpp"
#include "rules/sorts.hpp"

namespace orchard {

class Orders {
 public:
  Orders(const GameCore& core, const rules::Sorts& sorts);

  // Whether the values have an order: all are numbers, or names that end with one (b1, b2 …), or
  // count by nesting, or a relation puts them in a row.
  bool orders(std::span<const TermId> values, std::optional<rules::Sorts::Sort> sort) const;
  bool are_numbers(std::span<const TermId> values) const;
  // The values from the first to the last, with those that belong between them: of the longest row
  // of their sort that holds them all, else of the numbers. A chain is read from its head.
  std::vector<TermId> in_order(std::vector<TermId> values,
                               std::optional<rules::Sorts::Sort> sort) const;
  // Whether a relation of that sort only says which value follows which.
  bool is_chain(rules::RelationId relation) const;

 private:
  struct Chain {
    rules::RelationId relation;
    rules::Sorts::Sort first_sort;  // of the relation's two arguments
    rules::Sorts::Sort second_sort;
    std::vector<TermId> order;

    bool is_of(rules::Sorts::Sort sort) const { return sort == first_sort || sort == second_sort; }
  };
  using Pair = std::pair<TermId, TermId>;
  std::vector<Pair> pairs_of(rules::RelationId id) const;
  std::optional<std::vector<TermId>> chain_of(const std::vector<Pair>& pairs) const;
  std::optional<std::int64_t> number(TermId id) const;
  std::vector<TermId> in_order_of_nesting(const std::vector<TermId>& values) const;
  bool are_numbered(std::span<const TermId> values) const;

  const GameCore& core_;
  std::vector<Chain> chains_;  // the longest first
};

}  // namespace orchard
