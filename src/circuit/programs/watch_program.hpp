// A lane program whose outputs are any signals of a game's network: what somebody wants to watch in
// every position, or in every step.
#pragma once

#include "circuit/lanes/lane_program.hpp"
#include "circuit/programs/game_network.hpp"

namespace orchard::circuit {

// Inputs: the fluents, then the moves role by role. Reports: the signals, in their order.
LaneProgram make_watch_program(const Network& network, std::vector<Signal> signals);

}  // namespace orchard::circuit
