// Charts into the files of --svg and --png.
#pragma once

#include <string>

#include "cli/call.hpp"

namespace orchard::cli {

Diagnostics write_charts(const Call& call, const std::string& svg);

}  // namespace orchard::cli
