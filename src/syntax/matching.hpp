// Terms with variables held against terms without.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <string>

#include "orchard/term.hpp"

namespace orchard::syntax {

// What variables stand for, by their names with the question mark.
using Bindings = absl::flat_hash_map<std::string, Term>;

// Whether a ground term has the form of a pattern: a variable fits anything, twice the same. What
// is bound already counts; of a pattern that does not fit some of its variables may be bound.
// Linear in the pattern.
bool matches(const Term& pattern, const Term& term, Bindings& bindings);

// The pattern with what its variables stand for; those that stand for nothing stay.
Term filled_in(const Term& pattern, const Bindings& bindings);

}  // namespace orchard::syntax
