// Results in the forms that other programs read: pages, logs, reports. Any thread may call.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "orchard/cases.hpp"
#include "orchard/coverage.hpp"
#include "orchard/picture.hpp"
#include "orchard/review.hpp"

namespace orchard {

// The review as one page of HTML that needs nothing else (no script, no other file): verdicts,
// boards along each line of play, positions by depth, and the description with the rules marked
// that never took part.
std::string to_html(const Game& game, const Picture& picture, const Review& review);

// What cases show of the rules, as such a page: the description with a mark at each rule, and cases
// to write. A description that includes others is shown without them.
std::string to_html(const Game& game, const CaseCoverage& coverage);

// A SARIF 2.1.0 log with one run (OASIS standard, 2020): a rule for each code, a result for each
// diagnostic, notes as related locations. Columns count characters.
std::string to_sarif(const Diagnostics& diagnostics, std::string_view tool_version);

// The results as JUnit XML: one suite of that name, a test for each case with its place, the
// failures with what was expected and found, and the position.
std::string to_junit(const std::vector<CaseResult>& results, std::string_view name);

}  // namespace orchard
