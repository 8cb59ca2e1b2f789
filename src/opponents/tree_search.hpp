// Tree search with playouts: which moves come out best in many games from here.
//
// Leaves of the tree are gathered, hundreds at a time, worked out and played to their ends together
// on the circuit. With several threads each gathers leaves of its own from the one tree, and works
// them out beside the others. The tree may be kept for the next move: what follows from there goes
// on being used.
#pragma once

#include <memory>
#include <mutex>
#include <optional>

#include "explore/sampling/game_tree.hpp"
#include "opponents/search_tree.hpp"

namespace orchard::opponents {

using explore::Row;

struct SearchLimit {
  std::uint64_t playouts = 10'000;
  double seconds = 0;       // instead, if not 0
  double most_seconds = 0;  // whichever of these holds, it ends then, if not 0
  unsigned threads = 1;
  std::uint32_t games_a_leaf = 1;
  bool count_length = false;  // as of LeafWorker
};

class TreeSearch {
 public:
  // `worth`: judges leaves in place of random games, if there is one.
  explicit TreeSearch(const LaneGame& game, std::shared_ptr<const Preferences> worth = nullptr,
                      std::size_t most_bytes = SearchTree::usual_bytes);

  using Judged = SearchTree::Judged;
  // For each legal move of the role how often it was tried, and with what result. Goes on with the
  // tree of the last call if the position is in it. The same for the same state of `random`, with
  // one thread and a number of playouts.
  std::vector<Judged> run(const Row& root, std::size_t role, const SearchLimit& limit,
                          Random& random);
  // Whether moves are to be drawn by their `mix`: several roles choose at once there.
  bool mixes() const { return tree_.mixes(); }
  // Random games that the last call played.
  std::uint64_t playouts() const { return played_; }

 private:
  struct Round;  // the leaves that a thread has gathered
  void work(LeafWorker& worker, Random random);
  std::size_t take_share();
  void gather(Round& round, std::size_t size, Random& random);
  void learn(Round& round);

  const LaneGame& game_;
  const std::shared_ptr<const Preferences> worth_;
  std::vector<std::unique_ptr<LeafWorker>> workers_;  // one a thread
  SearchTree tree_;
  std::mutex mutex_;  // of what follows, and of the tree, while threads work
  SearchLimit limit_;
  std::uint64_t begun_ = 0;  // paths
  std::uint64_t played_ = 0;
};

}  // namespace orchard::opponents
