// Demo games, and random lines of play in them.
#pragma once

#include <gtest/gtest.h>

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "orchard/playouts.hpp"
#include "orchard/view.hpp"
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

// Plays random games, with a view for each role: visits each view in each position.
template <class Visit>
void walk_with_views(const Game& game, std::uint64_t games, std::uint64_t seed,
                     const std::vector<View>& fresh, Visit&& visit) {
  for (std::uint64_t number = 0; number < games; ++number) {
    std::vector<View> views = fresh;
    WalkOptions options;
    options.game = number;
    options.seed = seed;
    options.plies = 40;
    const auto walked = random_walk(game, options, [&](const WalkStep& step) {
      for (View& view : views) {
        visit(std::as_const(view), step.position);
        if (step.joint) {
          EXPECT_TRUE(view.advance(step.position, *step.joint).empty());
        }
      }
      return !::testing::Test::HasFailure();
    });
    EXPECT_TRUE(walked.ok());
  }
}

// The fluents of a hand.
inline std::vector<Term> hand_of(const Role& role, const std::vector<Term>& fluents) {
  std::vector<Term> hand;
  for (const Term& fluent : fluents) {
    if (fluent.to_string().starts_with("(holds " + role.name() + " ")) hand.push_back(fluent);
  }
  return hand;
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
