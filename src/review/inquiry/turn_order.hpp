// Who is to move, as numbers of roles.
#pragma once

#include <vector>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

// The roles with a legal move that is no waiting move.
std::vector<std::size_t> doing(const Exploration& exploration, const LaneEvaluator& lanes,
                               std::size_t at);
// The same; all roles where nobody can do anything but wait.
std::vector<std::size_t> movers(const Exploration& exploration, const LaneEvaluator& lanes,
                                std::size_t at);

}  // namespace orchard::review
