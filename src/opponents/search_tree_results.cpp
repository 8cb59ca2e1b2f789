// The way up: what tries came to, and what is proven by it.
#include "opponents/search_tree.hpp"

#include <algorithm>
#include <cmath>

namespace orchard::opponents {

namespace {

constexpr float everything = 1.0F;

}  // namespace

// What is known exactly needs no more tries: whoever chooses can have it whatever else is found.
void SearchTree::bound_again(std::size_t arm) {
  constexpr float never = -2;
  const Arm& of = arms_[arm];
  Bound& bound = bounds_[arm];
  if (of.known >= 0) {
    bound = {never, 0};
  } else if (of.visits > 0) {
    bound = {static_cast<float>(of.sum / of.visits), 1 / std::sqrt(static_cast<float>(of.visits))};
  }
}

void SearchTree::prove(std::uint32_t at, std::span<const float> shares) {
  places_[at].proven = true;
  std::ranges::copy(shares, shares_.begin() + static_cast<std::ptrdiff_t>(at * shape_.roles));
}

// The move that led to what is proven is known now.
void SearchTree::tell_parent(const Step& step) {
  Place& place = places_[step.place];
  if (place.kind != Kind::alone) return;
  Arm& arm = arms_[place.first + step.choice];
  if (!places_[arm.child].proven) return;
  arm.known = shares_of(arm.child)[place.role];
  bound_again(place.first + step.choice);
  if (place.known == none || arm.known > shares_of(place.known)[place.role]) {
    place.known = arm.child;
  }
}

bool SearchTree::try_to_prove(std::uint32_t at) {
  if (places_[at].proven) return true;
  return places_[at].kind == Kind::alone   ? try_to_prove_alone(at)
         : places_[at].kind == Kind::joint ? try_to_prove_chance(at)
                                           : false;
}

bool SearchTree::try_to_prove_alone(std::uint32_t at) {
  const Place& place = places_[at];
  if (place.known == none) return false;
  const auto arms = std::span(arms_).subspan(place.first, place.count);
  const bool all = std::ranges::all_of(arms, [](const Arm& arm) { return arm.known >= 0; });
  if (!all && shares_of(place.known)[place.role] < everything) return false;
  prove(at, shares_of(place.known));
  return true;
}

// Where nothing but chance is open, and everything it can do is known.
bool SearchTree::try_to_prove_chance(std::uint32_t at) {
  const auto first = options_of(places_[at]);
  for (std::size_t role = 0; role < shape_.roles; ++role) {
    if (role != shape_.chance && first[role + 1] - first[role] > 1) return false;
  }
  const std::uint64_t count = first[shape_.chance + 1] - first[shape_.chance];
  std::vector<float> sums(shape_.roles, 0);
  for (std::uint64_t choice = 0; choice < count; ++choice) {
    const auto found = joint_numbers_.find({at, choice});
    if (found == joint_numbers_.end()) return false;
    const std::uint32_t child = joints_[found->second].child;
    if (child == none || !places_[child].proven) return false;
    for (std::size_t role = 0; role < shape_.roles; ++role) sums[role] += shares_of(child)[role];
  }
  for (float& sum : sums) sum /= static_cast<float>(count);
  prove(at, sums);
  return true;
}

void SearchTree::hand_back(const Path& path) {
  if (path.leaf == none || !places_[path.leaf].proven) return;
  for (std::size_t i = path.steps.size(); i-- > 0;) {
    tell_parent(path.steps[i]);
    if (!try_to_prove(path.steps[i].place)) return;
  }
}

void SearchTree::learn_joint(const Step& step, std::span<const float> shares) {
  const auto first = options_of(places_[step.place]);
  const std::uint32_t number = joint_numbers_.at({step.place, step.choice});
  ++joints_[number].learned;
  std::uint64_t stride = 1;
  for (std::size_t role = 0; role < shape_.roles; ++role) {
    joint_sums_[number * shape_.roles + role] += static_cast<double>(shares[role]);
    const std::uint64_t count = first[role + 1] - first[role];
    if (count > 1 && role != shape_.chance) {
      const std::uint64_t own = step.choice / stride % count;
      for (std::uint64_t other = 0; other < count; ++other) {
        if (other == own) continue;
        const std::uint64_t choice = step.choice - own * stride + other * stride;
        const auto found = joint_numbers_.find({step.place, choice});
        if (found == joint_numbers_.end() || joints_[found->second].learned == 0) continue;
        const double mean =
            joint_sums_[found->second * shape_.roles + role] / joints_[found->second].learned;
        options_[first[role] + other].regret +=
            static_cast<float>(mean - static_cast<double>(shares[role]));
      }
    }
    stride *= count;
  }
}

// Whoever chooses need not put up with less than it knows a move to bring.
void SearchTree::learn(const Path& path, std::span<const float> shares) {
  for (std::size_t i = path.steps.size(); i-- > 0;) {
    const Step& step = path.steps[i];
    const Place& place = places_[step.place];
    if (place.kind != Kind::alone) {
      learn_joint(step, shares);
      continue;
    }
    Arm& arm = arms_[place.first + step.choice];
    arm.sum += static_cast<double>(shares[place.role]);
    bound_again(place.first + step.choice);
    if (place.known == none) continue;
    const auto known = shares_of(place.known);
    if (known[place.role] > shares[place.role]) shares = known;
  }
}

std::vector<SearchTree::Judged> SearchTree::judged(std::size_t role) const {
  std::vector<Judged> result;
  const Place& root = places_.front();
  if (root.kind == Kind::alone && root.role == role) {
    for (std::uint32_t i = 0; i < root.count; ++i) {
      const Arm& arm = arms_[root.first + i];
      const double mean = arm.visits == 0 ? 0 : arm.sum / arm.visits;
      const bool known = arm.known >= 0;
      result.push_back({arm.visits, known ? static_cast<double>(arm.known) : mean, known, 0});
    }
  } else if (root.kind == Kind::joint) {
    const auto first = options_of(root);
    double all = 0;
    for (std::uint32_t i = first[role]; i < first[role + 1]; ++i) all += options_[i].mixed;
    const double even = 1.0 / (first[role + 1] - first[role]);
    for (std::uint32_t i = first[role]; i < first[role + 1]; ++i) {
      const double mix = all > 0 ? options_[i].mixed / all : even;
      result.push_back({options_[i].visits, 0, false, mix});
    }
  } else {
    result.resize(1);
  }
  return result;
}

}  // namespace orchard::opponents
