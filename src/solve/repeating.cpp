#include "solve/repeating.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <queue>
#include <set>

#include "base/interruption.hpp"

namespace orchard::solve_inner {
namespace {

constexpr std::uint32_t never = std::numeric_limits<std::uint32_t>::max();

class Retrograde {
 public:
  Retrograde(const PositionGraph& graph, const Backwards& backwards, SolvedValues& known)
      : graph_(graph), backwards_(backwards), known_(known) {}

  // The roles that choose; why not, if it is no such game.
  std::optional<std::string> look(std::optional<std::size_t> chance);
  void solve();

 private:
  double value(std::uint32_t position, std::size_t role) const {
    return known_.values[position * graph_.roles + role];
  }
  bool open(std::uint32_t position) const { return known_.solved[position] == 0; }
  std::vector<std::uint32_t> forced(std::size_t by, const std::vector<bool>& goal) const;

  const PositionGraph& graph_;
  const Backwards& backwards_;
  SolvedValues& known_;
  std::vector<std::uint8_t> chooser_;  // by position
  std::size_t first_ = 0;
  std::optional<std::size_t> second_;
  bool all_known_ = true;  // every position was looked at
  // What an end is worth to the first role → a solved position that is worth that.
  std::map<double, std::uint32_t> classes_;
};

std::optional<std::string> Retrograde::look(std::optional<std::size_t> chance) {
  std::vector<std::size_t> choosing;
  chooser_.assign(graph_.size(), 0);
  for (std::uint32_t p = 0; p < graph_.size(); ++p) {
    if (!open(p)) continue;
    if (graph_.is_unknown(p)) {
      all_known_ = false;
      continue;
    }
    std::size_t choosers = 0;
    for (std::size_t role = 0; role < graph_.roles; ++role) {
      if (graph_.choices(p, role) < 2) continue;
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
  for (std::size_t role = 0; role < graph_.roles; ++role) {
    if (role != chance) players.push_back(role);
  }
  if (players.size() == 2) {
    choosing = players;
  } else if (choosing.empty()) {
    choosing.push_back(players.front());
  }
  first_ = choosing.front();
  if (choosing.size() == 2) second_ = choosing.back();
  for (std::uint32_t p = 0; p < graph_.size(); ++p) {
    if (!open(p)) classes_.try_emplace(value(p, first_), p);
  }
  if (!second_) return std::nullopt;
  double last = std::numeric_limits<double>::infinity();
  for (const auto& [worth, example] : classes_) {
    if (value(example, *second_) >= last) return "the interests of the two roles are not opposed";
    last = value(example, *second_);
  }
  for (std::uint32_t p = 0; p < graph_.size(); ++p) {
    if (!open(p) && value(p, *second_) != value(classes_.at(value(p, first_)), *second_)) {
      return "the interests of the two roles are not opposed";
    }
  }
  return std::nullopt;
}

// In how many plies a role can force a goal among the solved positions, whatever the others do.
std::vector<std::uint32_t> Retrograde::forced(std::size_t by, const std::vector<bool>& goal) const {
  std::vector<std::uint32_t> plies(graph_.size(), never);
  std::vector<std::uint32_t> left(graph_.size(), 0);        // steps that do not lead there yet
  using Reached = std::pair<std::uint32_t, std::uint32_t>;  // plies, position
  std::priority_queue<Reached, std::vector<Reached>, std::greater<>> reached;
  for (std::uint32_t p = 0; p < graph_.size(); ++p) {
    if (open(p)) {
      left[p] = static_cast<std::uint32_t>(graph_.steps(p).size());
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
  const std::size_t roles = graph_.roles;
  std::vector<bool> goal(graph_.size());
  const auto put_goal = [&](const auto& wanted) {
    for (std::uint32_t p = 0; p < graph_.size(); ++p)
      goal[p] = !open(p) && wanted(value(p, first_));
  };
  struct Bound {
    double worth = 0;
    std::uint32_t plies = never;
  };
  std::vector<Bound> lower(graph_.size());
  std::vector<Bound> upper(graph_.size());
  const auto note = [&](std::vector<Bound>& bounds, const std::vector<std::uint32_t>& plies,
                        double worth) {
    for (std::uint32_t p = 0; p < graph_.size(); ++p) {
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
  }
  // Who can force the best there is for it needs nobody's consent. What was not looked at may be
  // better, but for the most that there can be.
  const auto is_best = [&](std::size_t role, std::uint32_t example) {
    const double worth = value(example, role);
    if (!all_known_) return worth == 1;
    return worth >= 0.5 && std::ranges::all_of(classes_, [&](const auto& of_class) {
             return value(of_class.second, role) <= worth;
           });
  };
  std::set<double> best_of_first;
  std::set<double> best_of_second;
  for (const auto& [worth, example] : classes_) {
    if (is_best(first_, example)) best_of_first.insert(worth);
    if (second_ && is_best(*second_, example)) best_of_second.insert(worth);
  }
  struct Found {
    std::uint32_t position;
    Bound bound;
  };
  std::vector<Found> solved;
  for (std::uint32_t p = 0; p < graph_.size(); ++p) {
    if (!open(p)) continue;
    const bool first_forces = lower[p].plies != never;
    const bool second_forces = second_ && upper[p].plies != never;
    if (first_forces && best_of_first.contains(lower[p].worth)) {
      solved.push_back({p, lower[p]});
    } else if (second_forces && best_of_second.contains(upper[p].worth)) {
      solved.push_back({p, upper[p]});
    } else if (first_forces && second_forces && lower[p].worth == upper[p].worth) {
      // Whoever is winning hurries.
      solved.push_back({p, lower[p].worth >= 0.5 ? lower[p] : upper[p]});
    } else if (first_forces && !second_ && all_known_) {
      solved.push_back({p, lower[p]});
    }
  }
  for (const auto& [p, bound] : solved) {
    const std::uint32_t example = classes_.at(bound.worth);
    for (std::size_t role = 0; role < roles; ++role) {
      known_.values[p * roles + role] = value(example, role);
    }
    known_.plies[p] = bound.plies;
    known_.solved[p] = 1;
  }
}

}  // namespace

Backwards::Backwards(const PositionGraph& graph) : first(graph.size() + 1, 0) {
  for (std::uint32_t p = 0; p < graph.size(); ++p) {
    for (const std::uint32_t next : graph.steps(p)) ++first[next + 1];
  }
  for (std::size_t p = 0; p < graph.size(); ++p) first[p + 1] += first[p];
  before.resize(first[graph.size()]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (std::uint32_t p = 0; p < graph.size(); ++p) {
    for (const std::uint32_t next : graph.steps(p)) before[at[next]++] = p;
  }
}

std::optional<std::string> solve_repeating(const PositionGraph& graph, const Backwards& backwards,
                                           std::optional<std::size_t> chance, SolvedValues& known) {
  Retrograde retrograde(graph, backwards, known);
  if (auto why_not = retrograde.look(chance)) return why_not;
  retrograde.solve();
  return std::nullopt;
}

}  // namespace orchard::solve_inner
