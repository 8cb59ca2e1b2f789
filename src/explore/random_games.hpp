// Many positions played to their ends at random, side by side.
//
// Every role chooses uniformly. Lanes that have ended take the next position that waits, so that
// the cost is that of the plies played. One thread at a time; the game must outlive it.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "game/lane_evaluator.hpp"
#include "orchard/random.hpp"

namespace orchard {

// The goal values of a game as shares of 100, by role and number of the value.
std::vector<std::vector<float>> goal_shares(const LaneGame& game);

class RandomGames {
 public:
  static constexpr float unfinished = 0.5F;  // what a game counts that is broken off

  explicit RandomGames(const LaneGame& game);

  // `count` positions in rows behind one another. For each of them the share of every role, 0 to 1,
  // roles side by side: count × roles. A game is broken off after `most_plies`.
  std::vector<float> play(std::span<const std::uint64_t> rows, std::size_t count, Random& random,
                          std::uint64_t most_plies = 1000);

 private:
  const LaneGame& game_;
  LaneEvaluator lanes_;
  std::vector<std::vector<float>> shares_;
};

}  // namespace orchard
