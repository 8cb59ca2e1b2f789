// Diagnostics in the open format for results of static analysis.
#pragma once

#include <string>
#include <string_view>

#include "orchard/diagnostic.hpp"

namespace orchard {

// A SARIF 2.1.0 log with one run (OASIS standard, 2020): a rule for each code, a result for each
// diagnostic, notes as related locations. Columns count characters.
std::string to_sarif(const Diagnostics& diagnostics, std::string_view tool_version);

}  // namespace orchard
