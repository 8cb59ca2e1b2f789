#include "opponents/tree_search.hpp"

#include <absl/container/flat_hash_map.h>

#include <algorithm>
#include <chrono>

#include "base/interruption.hpp"
#include "threads/crew.hpp"

namespace orchard::opponents {
namespace {

constexpr std::size_t first_round = 32;  // leaves gathered at once, growing with the tree
constexpr std::size_t largest_round = circuit::lanes;

SearchTree::Shape shape_of(const LeafWorker& worker, std::size_t most_bytes) {
  SearchTree::Shape shape{worker.roles(), worker.words()};
  shape.most_bytes = most_bytes;
  for (std::size_t role = 0; role < worker.roles(); ++role) {
    if (worker.is_chance(role)) shape.chance = role;
  }
  return shape;
}

}  // namespace

struct TreeSearch::Round {
  Leaves leaves;
  std::vector<std::uint32_t> places;                          // by leaf
  absl::flat_hash_map<std::uint32_t, std::uint32_t> leaf_of;  // a place
  std::vector<std::uint32_t> leaf;                            // by path
  std::vector<SearchTree::Path> paths;                        // as many as `leaf`, or more
};

TreeSearch::TreeSearch(const LaneGame& game, std::shared_ptr<const Preferences> worth,
                       std::size_t most_bytes)
    : game_(game), worth_(std::move(worth)), tree_({}) {
  workers_.push_back(std::make_unique<LeafWorker>(game, worth_));
  tree_ = SearchTree(shape_of(*workers_.front(), most_bytes));
}

// A path that ends in what is proven is done at once.
void TreeSearch::gather(Round& round, std::size_t size, Random& random) {
  round.leaves.clear();
  round.places.clear();
  round.leaf_of.clear();
  round.leaf.clear();
  if (round.paths.size() < size) round.paths.resize(size);
  for (std::size_t i = 0; i < size && !tree_.proven(); ++i) {
    SearchTree::Path& path = round.paths[round.leaf.size()];
    tree_.descend(path, random);
    if (path.known) continue;
    auto leaf = static_cast<std::uint32_t>(round.places.size());
    bool fresh = true;
    if (path.leaf != SearchTree::none) {
      const auto [entry, added] = round.leaf_of.try_emplace(path.leaf, leaf);
      leaf = entry->second;
      fresh = added;
    }
    if (fresh) {
      round.places.push_back(path.leaf);
      round.leaves.games.push_back(0);
      tree_.ask(path, round.leaves);
    }
    round.leaves.games[leaf] += limit_.games_a_leaf;
    round.leaf.push_back(leaf);
  }
}

void TreeSearch::learn(Round& round) {
  const std::size_t roles = workers_.front()->roles();
  tree_.open(round.leaves, round.places);
  for (std::size_t i = 0; i < round.leaf.size(); ++i) {
    tree_.learn(round.paths[i],
                std::span(round.leaves.shares).subspan(round.leaf[i] * roles, roles));
    tree_.hand_back(round.paths[i]);
  }
  for (const std::uint32_t games : round.leaves.games) played_ += games;
}

// How many paths to go down next; 0 at the end.
std::size_t TreeSearch::take_share() {
  std::size_t size = std::clamp<std::size_t>(begun_ / 4, first_round, largest_round);
  if (limit_.seconds == 0) {
    const std::uint64_t all = std::max<std::uint64_t>(1, limit_.playouts / limit_.games_a_leaf);
    size = std::min<std::size_t>(size, all - std::min(all, begun_));
  }
  begun_ += size;
  return size;
}

void TreeSearch::work(LeafWorker& worker, Random random) {
  const auto start = std::chrono::steady_clock::now();
  Round round;
  std::unique_lock lock(mutex_);
  while (!tree_.proven()) {
    const std::chrono::duration<double> spent = std::chrono::steady_clock::now() - start;
    end_if_interrupted();
    if (limit_.seconds > 0 && begun_ > 0 && spent.count() >= limit_.seconds) break;
    // A round takes a quarter of the time before it, or less.
    constexpr double with_round = 1.25;
    if (limit_.most_seconds > 0 && begun_ > 0 && spent.count() * with_round >= limit_.most_seconds)
      break;
    const std::size_t size = take_share();
    if (size == 0) break;
    gather(round, size, random);
    lock.unlock();
    worker.work(round.leaves, random);
    lock.lock();
    learn(round);
  }
}

std::vector<TreeSearch::Judged> TreeSearch::run(const Row& root, std::size_t role,
                                                const SearchLimit& limit, Random& random) {
  while (workers_.size() < std::max(1U, limit.threads)) {
    workers_.push_back(std::make_unique<LeafWorker>(game_, worth_));
  }
  if (!tree_.go_on_from(root)) {
    Leaves leaves;
    workers_.front()->look_at(root, leaves);
    tree_.begin(leaves);
  }
  for (const auto& worker : workers_) worker->count_length(limit.count_length);
  limit_ = limit;
  begun_ = played_ = 0;
  std::vector<std::uint64_t> seeds(std::max(1U, limit.threads));
  for (std::uint64_t& seed : seeds) seed = random.below(~0ULL);
  Crew(limit.threads).all([&](std::size_t i) { work(*workers_[i], Random(seeds[i])); });
  return tree_.judged(role);
}

}  // namespace orchard::opponents
