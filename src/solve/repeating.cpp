#include "solve/repeating.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <queue>

#include "base/interruption.hpp"

namespace orchard::solve_inner {
namespace {

using explore::StateSpace;
constexpr std::uint32_t never = std::numeric_limits<std::uint32_t>::max();

class Retrograde {
 public:
  Retrograde(const StateSpace& space, const Backwards& backwards, SolvedValues& known)
      : space_(space), backwards_(backwards), known_(known) {}

  // The roles that choose; why not, if it is no such game.
  std::optional<std::string> look(std::optional<std::size_t> chance);
  void solve();

 private:
  double value(std::uint32_t position, std::size_t role) const {
    return known_.values[position * space_.roles() + role];
  }
  bool open(std::uint32_t position) const { return known_.solved[position] == 0; }
  std::vector<std::uint32_t> forced(std::size_t by, const std::vector<bool>& goal) const;

  const StateSpace& space_;
  const Backwards& backwards_;
  SolvedValues& known_;
  std::vector<std::uint8_t> chooser_;  // by position
  std::size_t first_ = 0;
  std::optional<std::size_t> second_;
  // What an end is worth to the first role → a solved position that is worth that.
  std::map<double, std::uint32_t> classes_;
};

std::optional<std::string> Retrograde::look(std::optional<std::size_t> chance) {
  std::vector<std::size_t> choosing;
  chooser_.assign(space_.size(), 0);
  for (std::uint32_t p = 0; p < space_.size(); ++p) {
    if (!open(p)) continue;
    std::size_t choosers = 0;
    for (std::size_t role = 0; role < space_.roles(); ++role) {
      if (space_.choices(p, role) < 2) continue;
      if (role == chance) return "chance decides in them";
      ++choosers;
      chooser_[p] = static_cast<std::uint8_t>(role);
      if (std::ranges::find(choosing, role) == choosing.end()) choosing.push_back(role);
    }
    if (choosers > 1) return "roles choose at once in them";
  }
  std::ranges::sort(choosing);
  if (choosing.size() > 2) return "more than two roles choose in them";
  std::vector<std::size_t> players;
  for (std::size_t role = 0; role < space_.roles(); ++role) {
    if (role != chance) players.push_back(role);
  }
  if (players.size() == 2) {
    choosing = players;
  } else if (choosing.empty()) {
    choosing.push_back(players.front());
  }
  first_ = choosing.front();
  if (choosing.size() == 2) second_ = choosing.back();
  for (std::uint32_t p = 0; p < space_.size(); ++p) {
    if (!open(p)) classes_.try_emplace(value(p, first_), p);
  }
  if (!second_) return std::nullopt;
  double last = std::numeric_limits<double>::infinity();
  for (const auto& [worth, example] : classes_) {
    if (value(example, *second_) >= last) return "the interests of the two roles are not opposed";
    last = value(example, *second_);
  }
  for (std::uint32_t p = 0; p < space_.size(); ++p) {
    if (!open(p) && value(p, *second_) != value(classes_.at(value(p, first_)), *second_)) {
      return "the interests of the two roles are not opposed";
    }
  }
  return std::nullopt;
}

// In how many plies a role can force a goal among the solved positions, whatever the others do.
std::vector<std::uint32_t> Retrograde::forced(std::size_t by, const std::vector<bool>& goal) const {
  std::vector<std::uint32_t> plies(space_.size(), never);
  std::vector<std::uint32_t> left(space_.size(), 0);        // steps that do not lead there yet
  using Reached = std::pair<std::uint32_t, std::uint32_t>;  // plies, position
  std::priority_queue<Reached, std::vector<Reached>, std::greater<>> reached;
  for (std::uint32_t p = 0; p < space_.size(); ++p) {
    if (open(p)) {
      left[p] = static_cast<std::uint32_t>(space_.steps(p).size());
    } else if (goal[p]) {
      reached.emplace(known_.plies[p], p);
    }
  }
  InterruptionPoint interruption;
  while (!reached.empty()) {
    interruption.pass();
    const auto [at, p] = reached.top();
    reached.pop();
    if (plies[p] != never) continue;
    plies[p] = at;
    for (std::uint64_t i = backwards_.first[p]; i < backwards_.first[p + 1]; ++i) {
      const std::uint32_t before = backwards_.before[i];
      if (!open(before) || plies[before] != never) continue;
      const bool all = --left[before] == 0;
      if (all || chooser_[before] == by) reached.emplace(at + 1, before);
    }
  }
  return plies;
}

void Retrograde::solve() {
  const std::size_t roles = space_.roles();
  std::vector<bool> goal(space_.size());
  const auto put_goal = [&](const auto& wanted) {
    for (std::uint32_t p = 0; p < space_.size(); ++p)
      goal[p] = !open(p) && wanted(value(p, first_));
  };
  struct Bound {
    double worth = 0;
    std::uint32_t plies = never;
  };
  std::vector<Bound> lower(space_.size());
  std::vector<Bound> upper(space_.size());
  const auto note = [&](std::vector<Bound>& bounds, const std::vector<std::uint32_t>& plies,
                        double worth) {
    for (std::uint32_t p = 0; p < space_.size(); ++p) {
      if (bounds[p].plies == never && plies[p] != never) bounds[p] = {worth, plies[p]};
    }
  };
  for (auto at = classes_.rbegin(); at != classes_.rend(); ++at) {
    put_goal([&](double worth) { return worth >= at->first; });
    note(lower, forced(first_, goal), at->first);
  }
  if (second_) {
    for (auto at = classes_.begin(); at != classes_.end(); ++at) {
      put_goal([&](double worth) { return worth <= at->first; });
      note(upper, forced(*second_, goal), at->first);
    }
  } else {
    upper = lower;
  }
  std::vector<std::uint32_t> solved;
  for (std::uint32_t p = 0; p < space_.size(); ++p) {
    const bool both = lower[p].plies != never && upper[p].plies != never;
    if (open(p) && both && lower[p].worth == upper[p].worth) solved.push_back(p);
  }
  for (const std::uint32_t p : solved) {
    const double worth = lower[p].worth;
    const std::uint32_t example = classes_.at(worth);
    for (std::size_t role = 0; role < roles; ++role) {
      known_.values[p * roles + role] = value(example, role);
    }
    // Whoever is winning hurries.
    known_.plies[p] = worth >= 0.5 ? lower[p].plies : upper[p].plies;
  }
  for (const std::uint32_t p : solved) known_.solved[p] = 1;
}

}  // namespace

Backwards::Backwards(const StateSpace& space) : first(space.size() + 1, 0) {
  for (std::uint32_t p = 0; p < space.size(); ++p) {
    for (const std::uint32_t next : space.steps(p)) ++first[next + 1];
  }
  for (std::size_t p = 0; p < space.size(); ++p) first[p + 1] += first[p];
  before.resize(first[space.size()]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (std::uint32_t p = 0; p < space.size(); ++p) {
    for (const std::uint32_t next : space.steps(p)) before[at[next]++] = p;
  }
}

std::optional<std::string> solve_repeating(const StateSpace& space, const Backwards& backwards,
                                           std::optional<std::size_t> chance, SolvedValues& known) {
  Retrograde retrograde(space, backwards, known);
  if (auto why_not = retrograde.look(chance)) return why_not;
  retrograde.solve();
  return std::nullopt;
}

}  // namespace orchard::solve_inner
