// Whether what a pass made computes the same, on random inputs: the watch over every pass in debug
// builds, and in tests.
#pragma once

#include "circuit/lanes/lane_program.hpp"
#include "circuit/network/network.hpp"

namespace orchard::circuit {

// The outputs of both for the same 64 random assignments of the inputs, `rounds` times over.
bool same_on_random_inputs(const Network& a, std::span<const Signal> outputs_of_a, const Network& b,
                           std::span<const Signal> outputs_of_b, int rounds = 4);
bool same_on_random_inputs(const Network& a, std::span<const Signal> outputs_of_a,
                           const LaneProgram& b, int rounds = 4);
bool same_on_random_inputs(const LaneProgram& a, const LaneProgram& b, int rounds = 4);

}  // namespace orchard::circuit
