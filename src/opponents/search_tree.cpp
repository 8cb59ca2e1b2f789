// Places and what stands in them.
#include "opponents/search_tree.hpp"

#include <algorithm>

#include "explore/sampling/joint_moves.hpp"

namespace orchard::opponents {

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

std::uint32_t SearchTree::joint_number(std::uint32_t place, std::uint64_t choice) {
  const auto [entry, fresh] =
      joint_numbers_.try_emplace({place, choice}, static_cast<std::uint32_t>(joints_.size()));
  if (fresh) {
    joints_.emplace_back();
    joint_sums_.resize(joint_sums_.size() + shape_.roles);
  }
  return entry->second;
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

}  // namespace orchard::opponents
