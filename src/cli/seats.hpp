// Options of the form ROLE=VALUE: who sits where, and what they are called.
#pragma once

#include <map>
#include <string>

#include "cli/call.hpp"

namespace orchard::cli {

// Puts what the call gives over what `values` has, by role. Fails if a role is none of the game's.
Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values);

}  // namespace orchard::cli
