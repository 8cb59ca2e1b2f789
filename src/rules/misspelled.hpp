// Heads that look like a keyword with a slip of the pen in it: (nxt …), termnal.
//
// Only relations that no rule asks for, with as many arguments as the keyword: whoever means a
// relation of that name uses it. O(size of the rules).
#pragma once

#include <vector>

#include "rules/description.hpp"

namespace orchard::rules {

struct MisspelledHead {
  RelationId relation{};
  Keyword meant = Keyword::none;
};

std::vector<MisspelledHead> misspelled_heads(const Description& description);

}  // namespace orchard::rules
