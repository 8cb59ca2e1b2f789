// A person at a seat of a match that is hosted somewhere else: `orchard play --join ADDRESS`.
//
// The terminal belongs to the thread that runs it; messages of the host come by threads of the
// server and wait until the person has chosen. What the role may not see is not there: it is not
// told by the host.
#pragma once

#include "cli/call.hpp"

namespace orchard::cli {

// Plays matches until the person quits or the input ends.
Status play_joined(const Call& call, const std::string& address);

}  // namespace orchard::cli
