// What `check` and `find` print of answers and the lines of play that show them.
#pragma once

#include <string>

#include "cli/json.hpp"
#include "orchard/picture.hpp"
#include "orchard/review.hpp"

namespace orchard::cli {

// A table of verdicts with their evidence, then every failure with its line drawn; verbose: what
// holds by a line, too.
std::string review_page(const Game& game, const Picture& picture, const Review& review,
                        const TextStyle& style, bool quiet, bool verbose);

// "questions", "claims", "depths", "complete", "positions", … of the document of `check`.
void add_review(Json& document, const Game& game, const Review& review);

}  // namespace orchard::cli
