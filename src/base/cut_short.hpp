// What is said of work that its budget, the caller or the system cut short: one wording for all.
#pragma once

#include <string_view>

#include "orchard/budget.hpp"
#include "orchard/diagnostic.hpp"

namespace orchard {

// "the time was used up", "memory ran out", "it was interrupted".
std::string_view why_cut_short(Ending ending);

// A fault that is a limit (`out-of-time`, `out-of-memory`, `interrupted`) with the remedy:
// "`what`: the time was used up".
Diagnostic cut_short(Ending ending, std::string_view what);

}  // namespace orchard
