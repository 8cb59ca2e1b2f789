// Which signals ever hold, in some position with some joint move.
#pragma once

#include <vector>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

// At random first, then, for those not met and if every position was explored, in every step. Those
// that are `always` count as met.
std::vector<bool> which_are_met(Exploration& exploration, const circuit::Network& network,
                                const std::vector<Signal>& signals);

}  // namespace orchard::review
