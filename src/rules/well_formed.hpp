// The published restrictions on descriptions, and parts that are missing.
#pragma once

#include "rules/dependency.hpp"
#include "rules/description.hpp"

namespace orchard::rules {

// Errors: relation-arity, unsafe-variable, unstratified-negation, unbounded-recursion,
// depends-on-position, depends-on-move.
void check_restrictions(const Description& description, const Dependency& dependency,
                        Diagnostics& diagnostics);

// Error: no-role. Suspicious: no-init, no-legal, no-next, no-terminal, no-goal.
void find_missing(const Description& description, Diagnostics& diagnostics);

}  // namespace orchard::rules
