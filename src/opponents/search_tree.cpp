#include "opponents/search_tree.hpp"

#include <algorithm>
#include <cmath>

#include "explore/sampling/joint_moves.hpp"

namespace orchard::opponents {
namespace {

constexpr double exploration = 0.5;
constexpr float everything = 1.0F;

}  // namespace

bool SearchTree::full() const {
  const std::size_t place = sizeof(Place) + shape_.words * 8 + shape_.roles * 4;
  return places_.size() * place + arms_.size() * (sizeof(Arm) + sizeof(Bound)) +
             options_.size() * sizeof(Option) +
             joints_.size() * (sizeof(Joint) + 32 + shape_.roles * 8) + numbers_.size() * 4 >
         shape_.most_bytes;
}

void SearchTree::begin(const Leaves& leaves) {
  *this = SearchTree(shape_);
  const std::uint32_t root = add_place();
  open_place(root, leaves, 0);
  put_ends(leaves, {&root, 1});
  try_to_prove(root);
}

std::uint32_t SearchTree::add_place() {
  const auto number = static_cast<std::uint32_t>(places_.size());
  places_.emplace_back();
  rows_.resize(rows_.size() + shape_.words);
  shares_.resize(shares_.size() + shape_.roles);
  return number;
}

void SearchTree::prove(std::uint32_t at, std::span<const float> shares) {
  places_[at].proven = true;
  std::ranges::copy(shares, shares_.begin() + static_cast<std::ptrdiff_t>(at * shape_.roles));
}

void SearchTree::open(Leaves& leaves, std::span<const std::uint32_t> places) {
  for (std::size_t leaf = 0; leaf < places.size(); ++leaf) {
    if (places[leaf] != none) open_place(places[leaf], leaves, leaf);
  }
  if (!full()) put_ends(leaves, places);
  for (std::size_t leaf = 0; leaf < places.size(); ++leaf) {
    if (places[leaf] == none || !try_to_prove(places[leaf])) continue;
    std::ranges::copy(shares_of(places[leaf]),
                      leaves.shares.begin() + static_cast<std::ptrdiff_t>(leaf * shape_.roles));
  }
}

void SearchTree::open_place(std::uint32_t at, const Leaves& leaves, std::size_t leaf) {
  if (places_[at].kind != Kind::fresh) return;
  Place& place = places_[at];
  std::ranges::copy(std::span(leaves.rows).subspan(leaf * shape_.words, shape_.words),
                    rows_.begin() + static_cast<std::ptrdiff_t>(at * shape_.words));
  if (leaves.over[leaf] != 0) {
    place.kind = Kind::end;
    prove(at, std::span(leaves.shares).subspan(leaf * shape_.roles, shape_.roles));
    return;
  }
  const auto first = std::span(leaves.first_move).subspan(leaf * shape_.roles, shape_.roles + 1);
  place.moves = static_cast<std::uint32_t>(numbers_.size());
  if (leaves.chooser[leaf] != Leaves::several) {
    place.role = leaves.chooser[leaf];
    place.kind = Kind::alone;
    place.first = static_cast<std::uint32_t>(arms_.size());
    place.count = first[place.role + 1] - first[place.role];
    for (std::size_t role = 0; role < shape_.roles; ++role) {
      numbers_.push_back(leaves.moves[first[role]]);
    }
    for (std::uint32_t i = first[place.role]; i < first[place.role + 1]; ++i) {
      arms_.emplace_back().move = leaves.moves[i];
    }
    bounds_.resize(arms_.size());
    return;
  }
  place.kind = Kind::joint;
  for (std::size_t role = 0; role < shape_.roles; ++role) {
    numbers_.push_back(static_cast<std::uint32_t>(options_.size()));
    for (std::uint32_t i = first[role]; i < first[role + 1]; ++i) {
      options_.emplace_back().move = leaves.moves[i];
    }
  }
  numbers_.push_back(static_cast<std::uint32_t>(options_.size()));
}

void SearchTree::put_ends(const Leaves& leaves, std::span<const std::uint32_t> places) {
  for (std::size_t i = 0; i < leaves.ends.size(); ++i) {
    const auto& end = leaves.ends[i];
    const std::uint32_t at = places[end.leaf];
    if (at == none || places_[at].kind != Kind::alone) continue;
    Arm& arm = arms_[places_[at].first + end.choice];
    if (arm.child != none) continue;
    const std::uint32_t child = add_place();
    places_[child].kind = Kind::end;
    prove(child, std::span(leaves.end_shares).subspan(i * shape_.roles, shape_.roles));
    arm.child = child;
    tell_parent({at, end.choice});
  }
}

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

std::uint32_t SearchTree::joint_number(std::uint32_t place, std::uint64_t choice) {
  const auto [entry, fresh] =
      joint_numbers_.try_emplace({place, choice}, static_cast<std::uint32_t>(joints_.size()));
  if (fresh) {
    joints_.emplace_back();
    joint_sums_.resize(joint_sums_.size() + shape_.roles);
  }
  return entry->second;
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

void SearchTree::ask(const Path& path, Leaves& leaves) const {
  const auto [at, choice] = path.steps.back();
  const Place& place = places_[at];
  const auto row = std::span(rows_).subspan(at * shape_.words, shape_.words);
  leaves.from.insert(leaves.from.end(), row.begin(), row.end());
  if (place.kind == Kind::alone) {
    for (std::size_t role = 0; role < shape_.roles; ++role) {
      leaves.joints.push_back(role == place.role ? arms_[place.first + choice].move
                                                 : numbers_[place.moves + role]);
    }
    return;
  }
  const auto first = options_of(place);
  const auto choices = explore::choices_of_joint_move(
      choice, shape_.roles, [&](std::size_t role) { return first[role + 1] - first[role]; });
  for (std::size_t role = 0; role < shape_.roles; ++role) {
    leaves.joints.push_back(options_[first[role] + choices[role]].move);
  }
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

// The place itself and its moves, without what follows.
std::uint32_t SearchTree::copy_place(const SearchTree& from, std::uint32_t at) {
  const auto number = add_place();
  const Place& old = from.places_[at];
  Place& place = places_[number] = old;
  std::ranges::copy(std::span(from.rows_).subspan(at * shape_.words, shape_.words),
                    rows_.begin() + static_cast<std::ptrdiff_t>(number * shape_.words));
  std::ranges::copy(from.shares_of(at),
                    shares_.begin() + static_cast<std::ptrdiff_t>(number * shape_.roles));
  place.moves = static_cast<std::uint32_t>(numbers_.size());
  if (old.kind == Kind::alone) {
    place.first = static_cast<std::uint32_t>(arms_.size());
    const auto moves = std::span(from.numbers_).subspan(old.moves, shape_.roles);
    numbers_.insert(numbers_.end(), moves.begin(), moves.end());
    const auto arms = std::span(from.arms_).subspan(old.first, old.count);
    arms_.insert(arms_.end(), arms.begin(), arms.end());
    const auto bounds = std::span(from.bounds_).subspan(old.first, old.count);
    bounds_.insert(bounds_.end(), bounds.begin(), bounds.end());
  } else if (old.kind == Kind::joint) {
    const auto first = from.options_of(old);
    const auto shift = static_cast<std::uint32_t>(options_.size()) - first.front();
    for (const std::uint32_t option : first) numbers_.push_back(option + shift);
    options_.insert(options_.end(), from.options_.begin() + first.front(),
                    from.options_.begin() + first.back());
  }
  return number;
}

SearchTree::JointChildren SearchTree::joint_children() const {
  JointChildren children(places_.size());
  for (const auto& [key, number] : joint_numbers_) {
    children[key.first].emplace_back(key.second, number);
  }
  return children;
}

std::uint32_t SearchTree::find_near_root(std::span<const std::uint64_t> row,
                                         const JointChildren& joint_children) const {
  const auto add_children = [&](std::uint32_t at, std::vector<std::uint32_t>& children) {
    const Place& place = places_[at];
    if (place.kind == Kind::alone) {
      for (std::uint32_t i = 0; i < place.count; ++i) {
        if (arms_[place.first + i].child != none) children.push_back(arms_[place.first + i].child);
      }
    } else if (place.kind == Kind::joint) {
      for (const auto& [choice, number] : joint_children[at]) {
        if (joints_[number].child != none) children.push_back(joints_[number].child);
      }
    }
  };
  constexpr std::size_t few = 4;
  std::vector<std::uint32_t> layer{0};
  std::uint32_t found = none;
  for (std::size_t ply = 0; ply <= few && found == none; ++ply) {
    std::vector<std::uint32_t> next;
    for (const std::uint32_t at : layer) {
      const bool open = places_[at].kind == Kind::alone || places_[at].kind == Kind::joint;
      const auto here = std::span(rows_).subspan(at * shape_.words, shape_.words);
      if (open && std::ranges::equal(here, row)) found = at;
      add_children(at, next);
    }
    layer = std::move(next);
  }
  return found;
}

SearchTree SearchTree::below(std::uint32_t root, const JointChildren& joint_children) const {
  SearchTree kept(shape_);
  struct Pending {
    std::uint32_t old = 0;
    std::uint32_t parent = none;  // new
    std::uint64_t choice = 0;
  };
  std::vector<Pending> pending{{root, none, 0}};
  for (std::size_t i = 0; i < pending.size(); ++i) {
    const Pending now = pending[i];
    const std::uint32_t number = kept.copy_place(*this, now.old);
    kept.places_[number].known = none;
    if (now.parent != none) {
      const Place& parent = kept.places_[now.parent];
      if (parent.kind == Kind::alone) {
        kept.arms_[parent.first + now.choice].child = number;
        kept.tell_parent({now.parent, now.choice});
      } else {
        kept.joints_[kept.joint_number(now.parent, now.choice)].child = number;
      }
    }
    const Place& old = places_[now.old];
    if (old.kind == Kind::alone) {
      for (std::uint32_t a = 0; a < old.count; ++a) {
        const std::uint32_t child = arms_[old.first + a].child;
        if (child != none) pending.push_back({child, number, a});
      }
    } else if (old.kind == Kind::joint) {
      for (const auto& [choice, joint] : joint_children[now.old]) {
        const std::uint32_t copied = kept.joint_number(number, choice);
        kept.joints_[copied].learned = joints_[joint].learned;
        std::ranges::copy(
            std::span(joint_sums_).subspan(joint * shape_.roles, shape_.roles),
            kept.joint_sums_.begin() + static_cast<std::ptrdiff_t>(copied * shape_.roles));
        if (joints_[joint].child != none) pending.push_back({joints_[joint].child, number, choice});
      }
    }
  }
  return kept;
}

bool SearchTree::go_on_from(std::span<const std::uint64_t> row) {
  if (places_.empty()) return false;
  const JointChildren children = joint_children();
  const std::uint32_t found = find_near_root(row, children);
  if (found == none) return false;
  *this = below(found, children);
  return true;
}

}  // namespace orchard::opponents
