// The names that a fluent or move is made of, and where in it they stand.
//
// Rules may write the place of a piece as (stands dog 2 3) or as (stands dog (at 2 3)): a board is
// recognised in both, because coordinates are looked for among the parts and not among the
// arguments.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "rules/sorts.hpp"
#include "rules/term_table.hpp"

namespace orchard {

using rules::TermId;

// Argument of argument of …, from the outside; empty for the term itself.
using Path = std::vector<std::uint32_t>;

struct Part {
  Path path;
  std::optional<rules::Sorts::Sort> sort;  // of what stands there
};

// What stands in a term at a path; no_term if the term has another shape.
TermId part_at(const rules::TermTable& terms, TermId term, const Path& path);

// How often a function of one argument stands round the same name, by value: 0 for the name itself.
// None if the values are not all made so, by one function and of one name.
std::optional<std::vector<std::size_t>> nesting(const rules::TermTable& terms,
                                                std::span<const TermId> values);

// Levels of a term that may be parts.
inline constexpr std::size_t deepest_part = 3;

// The parts of terms that have one name and number of arguments, from the left: as deep as all of
// them have the same functions, three levels at most or fewer if asked; what counts by nesting is
// one part. Linear in the number of terms and parts.
std::vector<Part> common_parts(const rules::TermTable& terms, const rules::Sorts& sorts,
                               rules::Sorts::Owner owner, std::span<const TermId> of,
                               std::size_t deepest = deepest_part);

}  // namespace orchard
