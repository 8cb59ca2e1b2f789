// Probable mistakes: what the language allows and the designer almost surely did not mean.
//
// Suspicious: undefined-relation, impossible-condition (a name that never stands there),
// idle-condition (the same, negated), disjoint-places (a variable for which no value fits),
// mixed-sorts (a variable that takes one sort of things for another), odd-constant, broken-order,
// function-arity, arithmetic-term, unread-fluent, unused-relation, duplicate-rule, subsumed-rule,
// repeated-condition, contradictory-conditions, similar-variables, lone-variable, role-without-moves,
// role-without-goal, not-a-role, undeclared-fluent, undeclared-move, unmade-fluent and unmade-move
// (declared, but nothing makes them).
// Hints: variable-used-once, name-in-two-uses, chance-without-percepts.
//
// A comment in the file, `; orchard: allow CODE …`, silences the codes it names.
#pragma once

#include <set>
#include <string>

#include "rules/description.hpp"

namespace orchard::rules {

void find_slips(const Description& description, Diagnostics& diagnostics);
void find_hints(const Description& description, Diagnostics& diagnostics);

// The codes that comments of a text silence.
std::set<std::string> allowed_codes(std::string_view text);

}  // namespace orchard::rules
