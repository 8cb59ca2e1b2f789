#include "solve/forcing.hpp"

#include <algorithm>
#include <functional>

namespace orchard::solving {

using Number = StateSpace::Number;

namespace {

// Adds positions that `joins` until nothing changes; those that play does not go on from, or that
// were not looked at, first.
Found closure(const StateSpace& space, std::span<const Number> order, Found found,
              const std::function<bool(Number, const Found&)>& joins) {
  std::uint32_t next = 1;
  for (const std::uint32_t known : found) next = std::max(next, known + 1);
  const auto is_open = [&](Number p) {
    return p < space.expanded() && space.kind(p) == StateSpace::Kind::open;
  };
  bool changed = true;
  while (changed) {
    changed = false;
    for (const Number p : order) {
      if (found[p] != 0 || !is_open(p) || !joins(p, found)) continue;
      found[p] = next++;
      changed = true;
    }
  }
  return found;
}

// What holds where nothing leaves.
Found at_ends(const StateSpace& space, const Condition& goal, bool beyond) {
  Found found(space.size(), 0);
  for (Number p = 0; p < space.size(); ++p) {
    const bool unknown = p >= space.expanded();
    const bool ended = !unknown && space.kind(p) != StateSpace::Kind::open;
    if ((ended || unknown) && goal.holds(p)) found[p] = 1;
    if (unknown && beyond) found[p] = 1;
  }
  return found;
}

}  // namespace

Found must_reach(const StateSpace& space, const Condition& goal, const Condition* path,
                 std::span<const Number> order, bool beyond) {
  return closure(space, order, at_ends(space, goal, beyond), [&](Number p, const Found& found) {
    const auto steps = space.steps(p);
    for (std::size_t s = 0; s < steps.size(); ++s) {
      if (goal.holds(space, p, s)) continue;
      if (path != nullptr && !path->holds(space, p, s)) return false;
      if (found[steps[s]] == 0) return false;
    }
    return true;
  });
}

std::vector<std::size_t> coalition_choices(const StateSpace& space, Number position,
                                           const Forcing& forcing) {
  std::vector<std::size_t> result(space.steps(position).size());
  for (std::size_t s = 0; s < result.size(); ++s) {
    std::size_t left = s;
    std::size_t stride = 1;
    for (std::size_t role = 0; role < space.roles(); ++role) {
      const std::size_t count = space.choices(position, role);
      if (forcing.coalition[role]) {
        result[s] += stride * (left % count);
        stride *= count;
      }
      left /= count;
    }
  }
  return result;
}

namespace {

// The same for everybody but fair chance: what the coalition and its rivals have chosen.
std::vector<std::size_t> chosen_without_chance(const StateSpace& space, Number position,
                                               const Forcing& forcing) {
  Forcing all{std::vector<bool>(space.roles(), true), {}};
  for (std::size_t role = 0; role < space.roles(); ++role) {
    if (forcing.fair[role]) all.coalition[role] = false;
  }
  return coalition_choices(space, position, all);
}

}  // namespace

Found can_force(const StateSpace& space, const Condition& goal, const Forcing& forcing,
                std::span<const Number> order, bool beyond) {
  const bool fair = std::ranges::find(forcing.fair, true) != forcing.fair.end();
  const Found ends = at_ends(space, goal, beyond);
  // What the roles' choices make of the steps, for one class of positions after the other.
  Number of_class = ~Number{0};
  std::vector<std::size_t> choice;
  std::vector<std::size_t> without;
  std::vector<bool> bad;
  std::vector<bool> nearer;
  const auto turn_to = [&](Number p) {
    if (space.class_of(p) == of_class) return;
    of_class = space.class_of(p);
    choice = coalition_choices(space, p, forcing);
    if (fair) without = chosen_without_chance(space, p, forcing);
  };
  // A choice is good if every step of it is; with fair chance every step stays within `within`,
  // and of those that differ by chance alone some step comes nearer.
  const auto joins = [&](const Found* within) {
    return [&, within](Number p, const Found& found) {
      const auto steps = space.steps(p);
      turn_to(p);
      bad.assign(*std::ranges::max_element(choice) + 1, false);
      if (fair) nearer.assign(*std::ranges::max_element(without) + 1, false);
      for (std::size_t s = 0; s < choice.size(); ++s) {
        const bool reached = goal.holds(space, p, s) || found[steps[s]] != 0;
        if (!fair) {
          if (!reached) bad[choice[s]] = true;
          continue;
        }
        if (reached) nearer[without[s]] = true;
        if (!goal.holds(space, p, s) && (*within)[steps[s]] == 0) bad[choice[s]] = true;
      }
      for (std::size_t s = 0; fair && s < choice.size(); ++s) {
        if (!nearer[without[s]]) bad[choice[s]] = true;
      }
      return std::ranges::find(bad, false) != bad.end();
    };
  };
  if (!fair) return closure(space, order, ends, joins(nullptr));
  Found within(space.size(), 1);
  while (true) {
    const Found found = closure(space, order, ends, joins(&within));
    bool same = true;
    for (Number p = 0; p < space.size(); ++p) {
      same = same && (found[p] != 0) == (within[p] != 0);
    }
    if (same) return found;
    within = found;
  }
}

}  // namespace orchard::solving
