// Who noticed faults on purpose, and repairs, as `cases --faults` and `cases --mend` print them.
#pragma once

#include <string>

#include "orchard/faults.hpp"
#include "orchard/mend.hpp"

namespace orchard::cli {

// The scores, and what nobody notices with a case that would; every fault if `in_full`.
std::string fault_text(const FaultTrial& trial, const std::string& file, bool in_full);

// Proposed repairs as differences of the file, with what each changes in play.
std::string mend_text(const Mending& mending, const std::string& file);

}  // namespace orchard::cli
