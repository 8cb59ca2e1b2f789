// Many positions played to their ends at random, side by side.
//
// Every role chooses uniformly, by the program of random play: 512 games at once, chosen, moved and
// judged bit by bit. Lanes whose games are over take positions that wait as soon as there are
// enough of both. Positions must be such as play from the start can foresee. One thread at a time;
// the game must outlive it.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "circuit/lanes/random_planes.hpp"
#include "explore/sampling/goal_shares.hpp"
#include "orchard/random.hpp"

namespace orchard {

class RandomGames {
 public:
  explicit RandomGames(const LaneGame& game);

  // `count` positions in rows behind one another. For each of them the share of every role, 0 to 1,
  // roles side by side: count × roles. A game that is broken off, after `most_plies`, is undecided.
  // The same for the same state of `random`.
  std::vector<float> play(std::span<const std::uint64_t> rows, std::size_t count, Random& random,
                          std::uint64_t most_plies = 1000);

  // Of all games of the last call, and of each of them.
  std::uint64_t plies() const { return plies_; }
  const std::vector<std::uint32_t>& lengths() const { return lengths_; }

 private:
  struct Playing;  // a call of `play`
  bool try_to_play(Playing& playing, std::uint64_t seed, std::uint64_t most_plies);
  void take_waiting(Playing& playing);
  void judge_ended(Playing& playing);
  void use(const LaneGame::Ready& ready);

  const LaneGame& game_;
  std::size_t words_;
  GoalShares shares_;
  std::uint64_t plies_ = 0;
  std::vector<std::uint32_t> lengths_;
  const LaneGame::Ready* ready_ = nullptr;
  std::unique_ptr<LaneGame::Ready> separate_;  // once shared choices did not hold
  circuit::RandomPlanes planes_{0, 0};
  std::vector<circuit::LaneBlock> state_;  // the fluents, and whether the lane plays
  std::vector<circuit::LaneBlock> next_;
  std::vector<circuit::LaneBlock> fresh_;  // positions on their way into lanes
  std::vector<circuit::LaneBlock> reports_;
  std::vector<circuit::LaneBlock> scratch_;
};

}  // namespace orchard
