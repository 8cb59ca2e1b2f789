// What of a position lasts, beside whose turn it is and how late.
#pragma once

#include <cstdint>
#include <vector>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

// A bit for every fluent that is more than turn or clock. A turn is a single value that says who is
// to move, and no more than that; a clock is one that changes with every ply, whatever is played: a
// token that is pushed along changes with every ply, too, but where to depends on the move. Seen in
// random games: O(their positions × true fluents).
std::vector<std::uint64_t> lasting_fluents(Exploration& exploration);

}  // namespace orchard::review
