// Runs the built command on a terminal of its own, as somebody who types.
#pragma once

#include <string>
#include <vector>

namespace orchard::testing {

// Each line is typed once `prompt` has appeared anew; then the end of input. Everything that was
// shown comes back, escapes included.
std::string run_on_terminal(const std::vector<std::string>& arguments, const std::string& prompt,
                            const std::vector<std::string>& lines);

}  // namespace orchard::testing
