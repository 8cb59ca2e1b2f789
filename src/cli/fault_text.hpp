// Who noticed faults on purpose, as `cases --faults` prints it.
#pragma once

#include <string>

#include "orchard/faults.hpp"

namespace orchard::cli {

// The scores, and what nobody notices with a case that would; every fault if `in_full`.
std::string fault_text(const FaultTrial& trial, const std::string& file, bool in_full);

}  // namespace orchard::cli
