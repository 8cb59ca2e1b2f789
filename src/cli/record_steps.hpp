// A recorded match at the terminal, step by step.
#pragma once

#include "cli/call.hpp"
#include "orchard/record.hpp"

namespace orchard::cli {

// Shows a position, asks for the next one, until it is enough.
void step_through(const Call& call, const Game& game, const Picture& picture, const Line& line,
                  const MatchRecord& record);

}  // namespace orchard::cli
