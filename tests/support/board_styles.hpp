// The same game with its board told in another way. Used by `rewritings`.
//
// The board is the fluent that tells one content for each of several places, always: found in
// random games, so that whoever rewrites verifies.
#pragma once

#include <string>

namespace orchard::testing {

// All of them give nothing where there is nothing to rewrite.

// The commonest content at the start is not told: a place of which nothing is told has it.
std::string bare_not_told(const std::string& rules);
// A place of two arguments becomes one number.
std::string places_as_index(const std::string& rules);
// Each content is a fluent of its own, if contents are names.
std::string contents_as_fluents(const std::string& rules);
// Whose turn it is follows from the number of plies that were made, if two roles take turns and all
// lines to a position are of one length.
std::string turn_by_plies(const std::string& rules);

}  // namespace orchard::testing
