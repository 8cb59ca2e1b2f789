// What two games are like, side by side, as `compare --summary` prints it.
#pragma once

#include <string>

#include "orchard/summary.hpp"

namespace orchard::cli {

// Figures of both, moves that are new or gone, answers that are others.
std::string summary_text(const GameSummary& first, const GameSummary& second,
                         const std::string& first_name, const std::string& second_name);

}  // namespace orchard::cli
