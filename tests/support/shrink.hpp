// A smaller text for which something still goes wrong.
#pragma once

#include <functional>
#include <string>

namespace orchard::testing {

// Leaves out forms of the outermost level, and conditions of rules, one after the other, as long as
// `fails` says that it still fails; until nothing more can be left out.
std::string shrink(const std::string& rules, const std::function<bool(const std::string&)>& fails);

}  // namespace orchard::testing
