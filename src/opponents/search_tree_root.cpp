// A new root: what follows from it is kept, all else forgotten.
#include "opponents/search_tree.hpp"

#include <algorithm>

namespace orchard::opponents {

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
