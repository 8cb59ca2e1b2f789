// Runs a command again whenever a file that it may read changes: `cases --watch`, `check --watch`.
#pragma once

#include <functional>
#include <map>
#include <string>

#include "cli/call.hpp"

namespace orchard::cli {

// What a run answered, by what was asked: "corners win" → "passes".
using RunAnswers = std::map<std::string, std::string>;

// Runs at once, and again after each change of a description, of cases, claims or drawing rules in
// the folder of the description or of the cases; then says which answers are others than before.
// Ends with an interrupt; the status is that of the last run.
Status watch_files(const Call& call, const std::function<Status(RunAnswers& answers)>& run);

}  // namespace orchard::cli
