#include "opponents/tree_search.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>

namespace orchard::opponents {
namespace {

constexpr double exploration = 0.7;
constexpr std::size_t most_places = 400'000;
constexpr std::size_t first_round = 32;  // leaves gathered at once, growing with the tree
constexpr std::size_t largest_round = 512;

}  // namespace

std::uint32_t TreeSearch::add(Row row, Node node) {
  Place place{std::move(row), std::move(node), {}, 0, {}};
  for (const auto& moves : place.node.legal) place.arms.emplace_back(moves.size());
  places_.push_back(std::move(place));
  return static_cast<std::uint32_t>(places_.size() - 1);
}

std::uint64_t TreeSearch::key_of(const Place& place, const std::vector<std::uint32_t>& choices) {
  std::uint64_t key = 0;
  for (std::size_t role = choices.size(); role-- > 0;) {
    key = key * place.arms[role].size() + choices[role];
  }
  return key;
}

// Counts the visit at once, so that the next leaf of the same round goes elsewhere.
std::vector<std::uint32_t> TreeSearch::choose(Place& place, Random& random) const {
  std::vector<std::uint32_t> choices;
  ++place.visits;
  const double log_visits = std::log(static_cast<double>(place.visits) + 1);
  for (std::size_t role = 0; role < place.arms.size(); ++role) {
    std::vector<Arm>& arms = place.arms[role];
    std::size_t best = 0;
    if (tree_.is_chance(role)) {
      best = random.below(arms.size());
    } else if (arms.size() > 1) {
      double best_bound = -1;
      std::uint64_t ties = 0;
      for (std::size_t arm = 0; arm < arms.size(); ++arm) {
        const double visits = arms[arm].visits;
        const double bound = visits == 0 ? 1e9
                                         : static_cast<double>(arms[arm].sum) / visits +
                                               exploration * std::sqrt(log_visits / visits);
        if (bound < best_bound) continue;
        ties = bound > best_bound ? 1 : ties + 1;
        if (ties > 1 && random.below(ties) != 0) continue;
        best_bound = bound;
        best = arm;
      }
    }
    ++arms[best].visits;
    choices.push_back(static_cast<std::uint32_t>(best));
  }
  return choices;
}

void TreeSearch::learn(const Path& path, std::span<const float> shares) {
  for (const Step& step : path) {
    for (std::size_t role = 0; role < step.choices.size(); ++role) {
      places_[step.place].arms[role][step.choices[role]].sum += shares[role];
    }
  }
}

void TreeSearch::round(std::size_t size, Random& random) {
  struct Leaf {
    Path path;
    std::uint64_t key = 0;
  };
  std::vector<Leaf> leaves;
  std::vector<Row> from;
  std::vector<std::vector<std::uint32_t>> joints;
  for (std::size_t i = 0; i < size; ++i) {
    Path path;
    std::uint32_t at = 0;
    while (true) {
      Place& place = places_[at];
      if (place.node.over) {
        learn(path, place.node.shares);
        break;
      }
      path.push_back({at, choose(place, random)});
      const std::uint64_t key = key_of(place, path.back().choices);
      const auto child = place.children.find(key);
      if (child != place.children.end()) {
        at = child->second;
        continue;
      }
      std::vector<std::uint32_t>& joint = joints.emplace_back();
      for (std::size_t role = 0; role < place.arms.size(); ++role) {
        joint.push_back(place.node.legal[role][path.back().choices[role]]);
      }
      from.push_back(place.row);
      leaves.push_back({std::move(path), key});
      break;
    }
  }
  std::vector<Row> rows = tree_.next(from, joints);
  std::vector<Node> nodes = tree_.nodes(rows);
  const std::vector<float> shares = tree_.play(rows, random);
  for (std::size_t i = 0; i < leaves.size(); ++i) {
    learn(leaves[i].path, std::span(shares).subspan(i * tree_.roles(), tree_.roles()));
    if (places_.size() >= most_places) continue;
    const std::uint32_t parent = leaves[i].path.back().place;
    if (places_[parent].children.contains(leaves[i].key)) continue;  // met twice in this round
    const std::uint32_t child = add(std::move(rows[i]), std::move(nodes[i]));
    places_[parent].children.emplace(leaves[i].key, child);
  }
}

std::vector<TreeSearch::Judged> TreeSearch::run(const Row& root, std::size_t role,
                                                const SearchLimit& limit, Random& random) {
  places_.clear();
  add(root, tree_.node(root));
  const auto start = std::chrono::steady_clock::now();
  std::uint64_t done = 0;
  while (true) {
    std::size_t size = std::clamp<std::size_t>(done / 4, first_round, largest_round);
    if (limit.seconds > 0) {
      const std::chrono::duration<double> spent = std::chrono::steady_clock::now() - start;
      if (done > 0 && spent.count() >= limit.seconds) break;
    } else {
      if (done >= limit.playouts) break;
      size = std::min<std::size_t>(size, limit.playouts - done);
    }
    round(size, random);
    done += size;
  }
  std::vector<Judged> result;
  for (const Arm& arm : places_.front().arms[role]) {
    result.push_back({arm.visits, arm.visits == 0 ? 0 : static_cast<double>(arm.sum) / arm.visits});
  }
  return result;
}

}  // namespace orchard::opponents
