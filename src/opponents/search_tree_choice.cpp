// The way down: which move is tried next.
#include "opponents/search_tree.hpp"

#include <algorithm>
#include <cmath>

namespace orchard::opponents {

namespace {

constexpr double exploration = 0.5;

}  // namespace

std::uint32_t SearchTree::choose_alone(const Place& place, Random& random) {
  const auto wide =
      static_cast<float>(exploration * std::sqrt(std::log(static_cast<double>(place.visits) + 1)));
  std::uint32_t best = 0;
  float best_bound = -1;
  std::uint64_t ties = 0;
  const Bound* const bounds = bounds_.data() + place.first;
  for (std::uint32_t i = 0; i < place.count; ++i) {
    const float bound = bounds[i].score + bounds[i].width * wide;
    if (bound < best_bound) continue;
    ties = bound > best_bound ? 1 : ties + 1;
    if (ties > 1 && random.below(ties) != 0) continue;
    best_bound = bound;
    best = i;
  }
  ++arms_[place.first + best].visits;
  bound_again(place.first + best);
  return best;
}

void SearchTree::mixture(const Place& place, std::size_t role, std::vector<double>& shares) const {
  const auto first = options_of(place);
  const std::size_t count = first[role + 1] - first[role];
  shares.assign(count, 1.0 / static_cast<double>(count));
  if (role == shape_.chance) return;
  double all = 0;
  for (std::size_t i = 0; i < count; ++i) {
    all += std::max(0.0, static_cast<double>(options_[first[role] + i].regret));
  }
  if (all <= 0) return;
  for (std::size_t i = 0; i < count; ++i) {
    shares[i] = std::max(0.0, static_cast<double>(options_[first[role] + i].regret)) / all;
  }
}

std::uint64_t SearchTree::choose_joint(Place& place, Random& random) {
  const auto first = options_of(place);
  // Every move is tried now and then, less and less often.
  const double tries = std::min(0.4, 1.0 / std::sqrt(0.1 * place.visits + 1.0));
  constexpr std::uint64_t fine = std::uint64_t{1} << 40;
  std::uint64_t choice = 0;
  for (std::size_t role = shape_.roles; role-- > 0;) {
    const std::uint64_t count = first[role + 1] - first[role];
    std::uint64_t chosen = 0;
    if (count > 1) {
      mixture(place, role, mixture_);
      Option* const options = options_.data() + first[role];
      for (std::size_t i = 0; i < count; ++i) options[i].mixed += mixture_[i];
      if (role == shape_.chance || random.below(fine) < tries * static_cast<double>(fine)) {
        chosen = random.below(count);
      } else {
        double draw = static_cast<double>(random.below(fine)) / static_cast<double>(fine);
        for (; chosen + 1 < count && draw >= mixture_[chosen]; ++chosen) draw -= mixture_[chosen];
      }
      ++options[chosen].visits;
    }
    choice = choice * count + chosen;
  }
  return choice;
}

void SearchTree::descend(Path& path, Random& random) {
  path.steps.clear();
  path.known = false;
  const bool no_room = full();
  std::uint32_t at = 0;
  while (true) {
    path.leaf = at;
    if (places_[at].proven) {
      path.known = true;
      const auto shares = shares_of(at);
      learn(path, shares);
      hand_back(path);
      return;
    }
    if (places_[at].kind == Kind::fresh) return;
    ++places_[at].visits;
    std::uint32_t* child = nullptr;
    if (places_[at].kind == Kind::alone) {
      const std::uint32_t choice = choose_alone(places_[at], random);
      path.steps.push_back({at, choice});
      child = &arms_[places_[at].first + choice].child;
    } else {
      const std::uint64_t choice = choose_joint(places_[at], random);
      path.steps.push_back({at, choice});
      child = &joints_[joint_number(at, choice)].child;
    }
    if (*child == none && no_room) {
      path.leaf = none;
      return;
    }
    if (*child == none) *child = add_place();
    at = *child;
  }
}

}  // namespace orchard::opponents
