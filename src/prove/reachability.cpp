#include "prove/reachability.hpp"

#include <algorithm>
#include <cstdlib>
#include <queue>
#include <utility>

#include "prove/values.hpp"

namespace orchard::prove {

Reachability::Reachability(const circuit::GameNetwork& game, const circuit::Network& network,
                           std::vector<bool> start, const ReachabilityLimits& limits)
    : game_(game),
      network_(network),
      start_(std::move(start)),
      limits_(limits),
      unrolled_(solver_, game, network) {
  unrolled_.add_ply();
  for (std::size_t f = 0; f < game_.fluents.size(); ++f) {
    const std::uint32_t node = game_.fluents[f].node();
    if (node >= fluent_of_node_.size()) {
      fluent_of_node_.resize(node + 1, static_cast<std::uint32_t>(game_.fluents.size()));
    }
    fluent_of_node_[node] = static_cast<std::uint32_t>(f);
  }
  // Level 0 is the start alone.
  switches_.push_back(solver_.new_variable());
  excluded_.emplace_back();
  for (std::size_t f = 0; f < start_.size(); ++f) {
    const int fluent = literal(0, static_cast<int>(f) + 1);
    solver_.add({-switches_[0], start_[f] ? fluent : -fluent});
  }
}

void Reachability::know_never(Signal signal) {
  for (const std::size_t ply : {0, 1}) solver_.add({-unrolled_.literal(ply, signal)});
}

int Reachability::literal(std::size_t ply, int fluent) {
  const Signal signal = game_.fluents[static_cast<std::size_t>(std::abs(fluent)) - 1];
  return unrolled_.literal(ply, fluent > 0 ? signal : !signal);
}

// What makes the clauses of a level and of all behind it count.
std::vector<int> Reachability::of_level(std::size_t level) {
  return {switches_.begin() + static_cast<std::ptrdiff_t>(level), switches_.end()};
}

bool Reachability::holds_at_start(const Cube& cube) const {
  return std::ranges::all_of(cube, [&](int fluent) {
    return start_[static_cast<std::size_t>(std::abs(fluent)) - 1] == (fluent > 0);
  });
}

// A cube that lost what tells it from the start gets it back.
void Reachability::keep_off_start(Cube& cube, const Cube& from) const {
  if (!holds_at_start(cube)) return;
  const auto apart = std::ranges::find_if(from, [&](int fluent) {
    return start_[static_cast<std::size_t>(std::abs(fluent)) - 1] != (fluent > 0);
  });
  cube.push_back(*apart);
  std::ranges::sort(cube, {}, [](int fluent) { return std::abs(fluent); });
}

// Every call is worth some of the work, however easy it is.
Solver::Answer Reachability::solve(const std::vector<int>& assumed) {
  constexpr std::uint64_t least = 20'000;
  spent_ += least + network_.size() / 4;
  if (spent_ > limits_.work) return Solver::Answer::unknown;
  return solver_.solve(assumed, limits_.conflicts_a_question);
}

// Whether a position of a level leads to one of a cube; from outside of the cube only, if asked.
Solver::Answer Reachability::follows(const Cube& cube, std::size_t level, bool with_contrary,
                                     Cube* core) {
  if (contrary_ != 0) solver_.add({-contrary_});  // that of the last call has served
  contrary_ = 0;
  std::vector<int> assumed = of_level(level);
  if (with_contrary) {
    contrary_ = solver_.new_variable();
    std::vector<int> clause{-contrary_};
    for (const int fluent : cube) clause.push_back(-literal(0, fluent));
    solver_.add(clause);
    assumed.push_back(contrary_);
  }
  std::vector<int> after;
  for (const int fluent : cube) after.push_back(literal(1, fluent));
  assumed.insert(assumed.end(), after.begin(), after.end());
  const Solver::Answer answer = solve(assumed);
  if (answer == Solver::Answer::impossible && core != nullptr) {
    core->clear();
    for (std::size_t i = 0; i < cube.size(); ++i) {
      if (solver_.was_needed(after[i])) core->push_back(cube[i]);
    }
  }
  return answer;
}

// Few fluents that make the roots hold, which do hold, whatever the others are: of a gate that does
// not hold the operand that costs least is enough.
Reachability::Cube Reachability::reason(const std::vector<Signal>& roots,
                                        const std::vector<bool>& position, const Joint* joint) {
  spent_ += network_.size();
  const std::vector<bool> values = values_in(game_, network_, position, joint);
  constexpr std::uint32_t dear = 1u << 20;
  std::vector<std::uint32_t> cost(network_.size(), 0);
  for (const Signal fluent : game_.fluents) cost[fluent.node()] = 1;
  const auto fails = [&](Signal operand) { return !holds(values, operand); };
  const auto cheapest = [&](std::uint32_t node) {
    const Signal* best = nullptr;
    for (const Signal& operand : network_.of(node)) {
      if (!fails(operand)) continue;
      if (best == nullptr || cost[operand.node()] < cost[best->node()]) best = &operand;
    }
    return best->node();
  };
  for (std::uint32_t node = 0; node < network_.size(); ++node) {
    if (!network_.is_gate(node)) continue;
    if (!values[node]) {
      cost[node] = cost[cheapest(node)];
      continue;
    }
    for (const Signal operand : network_.of(node)) {
      cost[node] = std::min(cost[node] + cost[operand.node()], dear);
    }
  }
  std::vector<bool> seen(network_.size(), false);
  std::vector<std::uint32_t> open;
  const auto visit = [&](std::uint32_t node) {
    if (seen[node]) return;
    seen[node] = true;
    open.push_back(node);
  };
  for (const Signal root : roots) visit(root.node());
  Cube result;
  while (!open.empty()) {
    const std::uint32_t node = open.back();
    open.pop_back();
    if (network_.is_gate(node)) {
      if (!values[node]) {
        visit(cheapest(node));
      } else {
        for (const Signal operand : network_.of(node)) visit(operand.node());
      }
      continue;
    }
    if (node >= fluent_of_node_.size()) continue;
    const std::uint32_t fluent = fluent_of_node_[node];
    if (fluent == game_.fluents.size()) continue;
    const int number = static_cast<int>(fluent) + 1;
    result.push_back(values[node] ? number : -number);
  }
  std::ranges::sort(result, {}, [](int fluent) { return std::abs(fluent); });
  return result;
}

// Positions in which the joint move that was found can be made and leads into the cube.
Reachability::Cube Reachability::predecessor(const Cube& cube, const Joint& joint) {
  std::vector<Signal> roots{!game_.terminal};
  for (std::size_t role = 0; role < joint.size(); ++role) {
    roots.push_back(game_.legal[role][joint[role]]);
  }
  for (const int fluent : cube) {
    const Signal next = game_.next[static_cast<std::size_t>(std::abs(fluent)) - 1];
    roots.push_back(fluent > 0 ? next : !next);
  }
  return reason(roots, unrolled_.found_position(0), &joint);
}

// Leaves out of a cube that no position of the level leads to what is not needed for that.
void Reachability::generalize(Cube& cube, std::size_t level) {
  constexpr std::size_t most_kept = 12;  // then it is left as it is
  std::size_t kept = 0;
  for (std::size_t i = 0; i < cube.size() && cube.size() > 1 && kept < most_kept;) {
    Cube fewer = cube;
    fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(i));
    Cube core;
    if (holds_at_start(fewer) || follows(fewer, level, true, &core) != Solver::Answer::impossible) {
      ++i;
      ++kept;
      continue;
    }
    keep_off_start(core, fewer);
    // What stands before i was tried already.
    const std::size_t before = static_cast<std::size_t>(std::ranges::count_if(core, [&](int f) {
      return std::find(cube.begin(), cube.begin() + static_cast<std::ptrdiff_t>(i), f) !=
             cube.begin() + static_cast<std::ptrdiff_t>(i);
    }));
    cube = std::move(core);
    i = before;
  }
}

void Reachability::exclude(const Cube& cube, std::size_t level) {
  while (switches_.size() <= level) {
    switches_.push_back(solver_.new_variable());
    excluded_.emplace_back();
  }
  std::vector<int> clause{-switches_[level]};
  for (const int fluent : cube) clause.push_back(-literal(0, fluent));
  solver_.add(clause);
  excluded_[level].push_back(cube);
}

std::optional<Reachability::Answer> Reachability::block(Cube cube, std::size_t level) {
  obligations_.clear();
  obligations_.push_back({std::move(cube), level});
  // The lowest level first, and there the one that came last.
  using Order = std::pair<std::size_t, std::size_t>;
  const auto later = [](const Order& a, const Order& b) {
    return a.first != b.first ? a.first > b.first : a.second < b.second;
  };
  std::priority_queue<Order, std::vector<Order>, decltype(later)> open(later);
  open.emplace(level, 0);
  while (!open.empty()) {
    const std::size_t number = open.top().second;
    const Cube target = obligations_[number].cube;
    const std::size_t at = obligations_[number].level;
    Cube core;
    switch (follows(target, at - 1, true, &core)) {
      case Solver::Answer::unknown:
        return Answer::unknown;
      case Solver::Answer::possible: {
        const Joint joint = unrolled_.found_joint(0);
        Obligation before{predecessor(target, joint), at - 1, number, joint};
        if (holds_at_start(before.cube)) {
          line_.clear();
          for (const Obligation* step = &before; step->after; step = &obligations_[*step->after]) {
            line_.push_back(step->joint);
          }
          return Answer::reached;
        }
        obligations_.push_back(std::move(before));
        open.emplace(at - 1, obligations_.size() - 1);
        continue;
      }
      case Solver::Answer::impossible:
        break;
    }
    open.pop();
    keep_off_start(core, target);
    generalize(core, at - 1);
    std::size_t reaches = at;
    while (reaches < top_ && follows(core, reaches, true, nullptr) == Solver::Answer::impossible) {
      ++reaches;
    }
    exclude(core, reaches);
    if (reaches < top_) {
      obligations_[number].level = reaches + 1;
      open.emplace(reaches + 1, number);
    }
  }
  return std::nullopt;
}

// Clauses go up as far as they hold; whether a level has become like the next.
bool Reachability::propagate() {
  for (std::size_t level = 1; level < top_; ++level) {
    std::vector<Cube> stay;
    const std::vector<Cube> here = std::exchange(excluded_[level], {});
    for (const Cube& cube : here) {
      if (follows(cube, level, false, nullptr) == Solver::Answer::impossible) {
        exclude(cube, level + 1);
      } else {
        stay.push_back(cube);
      }
    }
    excluded_[level] = std::move(stay);
    if (!excluded_[level].empty()) continue;
    for (std::size_t behind = level + 1; behind < excluded_.size(); ++behind) {
      invariants_.insert(invariants_.end(), excluded_[behind].begin(), excluded_[behind].end());
    }
    return true;
  }
  return false;
}

Reachability::Answer Reachability::ask(Signal signal) {
  if (signal == circuit::never) return Answer::never;
  line_.clear();
  invariants_.clear();
  if (holds(values_in(game_, network_, start_), signal)) return Answer::reached;
  spent_ = 0;
  solver_.limit(limits_.work / network_.size());
  const int shows = unrolled_.literal(1, signal);
  for (top_ = 1; top_ <= limits_.most_levels; ++top_) {
    while (switches_.size() <= top_) {
      switches_.push_back(solver_.new_variable());
      excluded_.emplace_back();
    }
    while (true) {
      std::vector<int> assumed = of_level(top_ - 1);
      assumed.push_back(shows);
      const Solver::Answer answer = solve(assumed);
      if (answer == Solver::Answer::unknown) return Answer::unknown;
      if (answer == Solver::Answer::impossible) break;
      Cube cube = reason({signal}, unrolled_.found_position(1), nullptr);
      if (const auto ended = block(std::move(cube), top_)) return *ended;
    }
    if (propagate()) return Answer::never;
    if (solver_.exhausted() || spent_ > limits_.work) return Answer::unknown;
  }
  return Answer::unknown;
}

}  // namespace orchard::prove
