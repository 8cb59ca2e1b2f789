// Demo games, and random lines of play in them.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::testing {

// A demo game by its name, in the sizes that are given.
inline Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(game_path(name), options).value();
}

// The positions of one random game of a seed, the last one its end.
inline std::vector<Position> positions_of(const Game& game, std::uint64_t number,
                                          std::uint64_t seed) {
  std::vector<Position> positions;
  WalkOptions options;
  options.game = number;
  options.seed = seed;
  (void)random_walk(game, options, [&](const WalkStep& step) {
    positions.push_back(step.position);
    return true;
  });
  return positions;
}

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
