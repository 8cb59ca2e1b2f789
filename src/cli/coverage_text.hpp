// What cases show of the rules, as `cases --coverage` prints it.
#pragma once

#include <string>

#include "orchard/coverage.hpp"

namespace orchard::cli {

// Counts, and everything that no case shows; with `text`, that of the description, every line of it
// with a mark.
std::string coverage_text(const CaseCoverage& coverage, const std::string& file,
                          const std::string& text);

}  // namespace orchard::cli
