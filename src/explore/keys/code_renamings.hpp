// What renamings of fluents do to the keys of a code.
#pragma once

#include "explore/keys/position_code.hpp"
#include "explore/symmetry/renamings.hpp"

namespace orchard::explore {

// Whether what a code can write is renamed to what it can write.
bool keeps_code(const PositionCode& code, const Renamings& renamings);

// Those that differ in what they do to the fluents of a code that they keep.
Renamings renamings_within(const Renamings& renamings, const PositionCode& code);

}  // namespace orchard::explore
