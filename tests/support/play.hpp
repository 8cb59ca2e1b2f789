// Random lines of play for tests.
#pragma once

#include "orchard/playouts.hpp"

namespace orchard::testing {

// Visits every position of the first random game of a seed.
template <class Visit>
void walk(const Game& game, std::uint64_t seed, std::uint64_t plies, Visit&& visit) {
  WalkOptions options;
  options.seed = seed;
  options.plies = plies;
  (void)random_walk(game, options, [&](const WalkStep& step) {
    visit(step);
    return true;
  });
}

}  // namespace orchard::testing
