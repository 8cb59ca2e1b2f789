// From a network to lane operations of three inputs: pairs of And gates, then a cover of them by
// functions of three signals with as few functions as can be found, then an order in which values
// are needed soon after they are made.
//
// Sources: cuts and area recovery as in Mishchenko, Chatterjee and Brayton, "DAG-aware AIG
// rewriting" (2006) and "Improvements to technology mapping for LUT-based FPGAs" (2007).
#pragma once

#include "circuit/lanes/lane_program.hpp"
#include "circuit/network/network.hpp"

namespace orchard::circuit {

// Every gate as a tree of gates with two inputs, shallow signals paired first; only what the
// outputs depend on. Inputs keep their numbers. `outputs` are changed to signals of the result.
Network in_pairs(const Network& network, std::vector<Signal>& outputs);

// A program with an input for each of the network's and a value for each output. `network` has
// gates of two inputs only.
LaneProgram map_to_lanes(const Network& network, std::span<const Signal> outputs);

}  // namespace orchard::circuit
