// Slips of the pen: what is legal and almost surely not meant.
//
// Suspicious: undefined-relation, impossible-condition (a name that never stands there),
// disjoint-places (a variable for which no value fits), unread-fluent, duplicate-rule,
// similar-variables, role-without-moves, role-without-goal, undeclared-fluent, undeclared-move,
// unmade-fluent and unmade-move (declared, but nothing makes them).
//
// A comment in the file, `; orchard: allow CODE …`, silences the codes it names.
#pragma once

#include <set>
#include <string>

#include "rules/description.hpp"

namespace orchard::rules {

void find_slips(const Description& description, Diagnostics& diagnostics);

// The codes that comments of a text silence.
std::set<std::string> allowed_codes(std::string_view text);

}  // namespace orchard::rules
