// Parts of rules that never matter: rules, alternatives within them, and conditions.
#pragma once

#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

// Rules none of whose clauses ever takes part, and of other rules the alternatives of an `or` that
// no clause that takes part has.
std::vector<Note> unused_rules(Findings& findings);

// Conditions of clauses that take part which hold whenever the others of their clause do, in every
// position and joint move that was looked at; only of those that are negated or have no variables,
// that change during play, that ask for no move, and that are not said for the reader's sake (values
// of ends told apart, whose turn it is). None unless every position was explored.
std::vector<Note> idle_conditions(Findings& findings);

}  // namespace orchard::review
