// The published restrictions on descriptions, and parts that are missing.
#pragma once

#include "rules/dependency.hpp"
#include "rules/description.hpp"

namespace orchard::rules {

// Errors: relation-arity, unsafe-variable, unstratified-negation, unbounded-recursion,
// depends-on-position, depends-on-move.
void check_restrictions(const Description& description, const Dependency& dependency,
                        Diagnostics& diagnostics);

// Error: not-a-description. Whether the text is cases, claims or drawing rules, opened by mistake;
// what else there is to say of it says nothing then.
bool is_other_text(const Description& description, Diagnostics& diagnostics);

// Error: no-role. Suspicious: no-init, no-legal, no-next, no-terminal, no-goal.
void find_missing(const Description& description, Diagnostics& diagnostics);

}  // namespace orchard::rules
