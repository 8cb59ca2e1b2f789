// Who is to move, as numbers: the roles with a legal move that is no waiting move; if there are
// none, all.
#pragma once

#include <vector>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

std::vector<std::size_t> movers(const Exploration& exploration, const LaneEvaluator& lanes,
                                std::size_t at);

}  // namespace orchard::review
