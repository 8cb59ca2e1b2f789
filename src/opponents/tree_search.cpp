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
  Place place{std::move(row), std::move(node), {}, 0, {}, false, {}};
  if (place.node.over) {
    place.proven = true;
    place.shares = place.node.shares;
  }
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
      const bool alone = chooser(place) == role;
      double best_bound = -1;
      std::uint64_t ties = 0;
      for (std::size_t arm = 0; arm < arms.size(); ++arm) {
        const double visits = arms[arm].visits;
        double bound = visits == 0 ? 1e9
                                   : static_cast<double>(arms[arm].sum) / visits +
                                         exploration * std::sqrt(log_visits / visits);
        // What is known exactly needs no more tries than it is worth.
        const Place* const child = alone ? known_child(place, role, arm) : nullptr;
        if (child != nullptr) bound = static_cast<double>(child->shares[role]);
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

// The one role with a choice where nothing else is open, not even chance; `none` if there is no
// such.
std::size_t TreeSearch::chooser(const Place& place) const {
  std::size_t result = none;
  for (std::size_t role = 0; role < place.arms.size(); ++role) {
    if (place.arms[role].size() < 2) continue;
    if (result != none || tree_.is_chance(role)) return none;
    result = role;
  }
  return result;
}

// The proven position after a move of the only chooser; null if it is not there or not proven.
const TreeSearch::Place* TreeSearch::known_child(const Place& place, std::size_t role,
                                                 std::size_t arm) const {
  std::vector<std::uint32_t> choices(place.arms.size(), 0);
  choices[role] = static_cast<std::uint32_t>(arm);
  const auto child = place.children.find(key_of(place, choices));
  if (child == place.children.end() || !places_[child->second].proven) return nullptr;
  return &places_[child->second];
}

bool TreeSearch::try_to_prove(Place& place) const {
  if (place.proven) return true;
  std::size_t role = chooser(place);
  if (role == none) {
    for (const auto& arms : place.arms) {
      if (arms.size() > 1) return false;  // several choose, or chance does
    }
    role = 0;  // nobody has a choice
  }
  const Place* best = nullptr;
  bool all = true;
  for (std::size_t arm = 0; arm < place.arms[role].size(); ++arm) {
    const Place* const child = known_child(place, role, arm);
    if (child == nullptr) {
      all = false;
    } else if (best == nullptr || child->shares[role] > best->shares[role]) {
      best = child;
    }
  }
  constexpr float everything = 1.0F;
  if (best == nullptr || (!all && best->shares[role] < everything)) return false;
  place.proven = true;
  place.shares = best->shares;
  return true;
}

// From the last position of a path towards the root, as long as something is proven by it.
void TreeSearch::hand_back(const Path& path) {
  for (std::size_t i = path.size(); i-- > 0;) {
    if (!try_to_prove(places_[path[i].place])) return;
  }
}

// Keeps what follows from a position of the tree that is few plies from its root.
bool TreeSearch::go_on_from(const Row& root) {
  if (places_.empty()) return false;
  constexpr std::size_t few = 4;
  std::vector<std::uint32_t> layer{0};
  std::uint32_t found = none;
  for (std::size_t ply = 0; ply <= few && found == none; ++ply) {
    std::vector<std::uint32_t> next;
    for (const std::uint32_t at : layer) {
      if (places_[at].row == root) found = at;
      for (const auto& [key, child] : places_[at].children) next.push_back(child);
    }
    layer = std::move(next);
  }
  if (found == none) return false;
  std::vector<Place> kept;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> pending{{found, none}};  // and its parent
  std::vector<std::uint64_t> key_of_pending{0};
  for (std::size_t i = 0; i < pending.size(); ++i) {
    const auto number = static_cast<std::uint32_t>(kept.size());
    kept.push_back(std::move(places_[pending[i].first]));
    if (pending[i].second != none) kept[pending[i].second].children[key_of_pending[i]] = number;
    for (const auto& [key, child] : kept.back().children) {
      pending.emplace_back(child, number);
      key_of_pending.push_back(key);
    }
  }
  places_ = std::move(kept);
  return true;
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
      if (place.proven) {
        learn(path, place.shares);
        hand_back(path);
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
    if (places_[child].proven) hand_back(leaves[i].path);
  }
}

std::vector<TreeSearch::Judged> TreeSearch::run(const Row& root, std::size_t role,
                                                const SearchLimit& limit, Random& random) {
  if (!go_on_from(root)) {
    places_.clear();
    add(root, tree_.node(root));
  }
  const auto start = std::chrono::steady_clock::now();
  std::uint64_t done = 0;
  while (!places_.front().proven) {
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
  const Place& place = places_.front();
  for (std::size_t i = 0; i < place.arms[role].size(); ++i) {
    const Arm& arm = place.arms[role][i];
    const Place* const known = chooser(place) == role ? known_child(place, role, i) : nullptr;
    if (known != nullptr) {
      result.push_back({arm.visits, static_cast<double>(known->shares[role]), true});
    } else {
      const double mean = arm.visits == 0 ? 0 : static_cast<double>(arm.sum) / arm.visits;
      result.push_back({arm.visits, mean, false});
    }
  }
  return result;
}

}  // namespace orchard::opponents
