// Variables that stand once in their rule, and whether the description marks them.
//
// Such a variable says "anything". Many authors say so by its name, ?_row; where all do but one, that
// one is likely to be a slip: a condition was lost, or another variable was meant.
#pragma once

#include "rules/finding_sink.hpp"

namespace orchard::rules {

// Finds, where nearly all are marked and there are several, those that are not, and marked ones that
// are used again. O(size of the description), as is the other one.
void find_unmarked_variables(const Description& description, FindingSink& sink);

// Hints at each of them where they are not marked.
void hint_at_single_variables(const Description& description, FindingSink& sink);

}  // namespace orchard::rules
