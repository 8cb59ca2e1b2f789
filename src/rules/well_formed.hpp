// The published restrictions on descriptions, and slips that show without playing.
//
// Errors: no-role, unsafe-variable, unstratified-negation, unbounded-recursion,
// depends-on-position, depends-on-move, relation-arity.
// Suspicious: undefined-relation, no-init, no-legal, no-terminal, no-goal, no-next.
#pragma once

#include "rules/dependency.hpp"
#include "rules/description.hpp"

namespace orchard::rules {

void check_well_formed(const Description& description, const Dependency& dependency,
                       Diagnostics& diagnostics);

}  // namespace orchard::rules
