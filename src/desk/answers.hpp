// What is asked of a position: why, why not, what holds; and of a description, its cases.
#pragma once

#include "desk/request.hpp"

namespace orchard::desk {

// As docs/FORMATS.md says of the verbs of these names.
Json why(const Asked& here, const Json& request);
// Why no move of a role can be made at the places that were clicked: of those that the rules
// foresee there the one that comes nearest.
Json refusal(const Asked& here, const Json& request);
// What holds of a relation now.
Json relation(const Asked& here, const Json& request);
Json cases(const Asked& here, const Json& request);
// What a move would change: {"gone", "new"}.
Json effect(const Asked& here, const Json& request);
// The position as a form of its own, with the board drawn, and as a formula that holds there alone.
Json position_text(const Asked& here, const Json& request);

}  // namespace orchard::desk
