#include "solve/solved_graph.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "explore/sampling/goal_shares.hpp"
#include "game/core.hpp"
#include "solve/kept_solution.hpp"

namespace orchard {
SolvedGraph::SolvedGraph(const Game& game, const LaneGame& lanes, Position from)
    : game_(game), space_(lanes), from_(std::move(from)) {
  for (const Role& role : game_.roles()) {
    if (role.is_chance()) chance_ = role.index();
  }
}

std::optional<std::uint32_t> SolvedGraph::number(const Position& position) const {
  const LaneGame& lanes = space_.game();
  const auto bits = lanes.bits(GameAccess::state(position).fluents());
  return bits ? space_.find(lanes.row(*bits)) : std::nullopt;
}

// Nothing where interests are not opposed, or more than two choose at once.
std::optional<solve_inner::Play> SolvedGraph::play_at(std::uint32_t position) const {
  const std::size_t roles = space_.roles();
  solve_inner::Followers followers;
  for (std::size_t role = 0; role < roles; ++role) {
    followers.choices.push_back(space_.choices(position, role));
  }
  followers.chance = chance_;
  for (const std::uint32_t next : space_.steps(position)) {
    followers.plies.push_back(known_.plies[next]);
    followers.solved.push_back(known_.solved[next]);
    const auto from = known_.values.begin() + static_cast<std::ptrdiff_t>(next * roles);
    followers.values.insert(followers.values.end(), from,
                            from + static_cast<std::ptrdiff_t>(roles));
  }
  if (facts_.secures) return solve_inner::secured_play(followers);
  return solve_inner::best_play(followers, facts_.repeats);
}

// A position is solved once all that can follow is. False where roles choose at once in a way that
// has no value of its own.
bool SolvedGraph::hand_back() {
  const std::size_t count = space_.size();
  const std::size_t roles = space_.roles();
  known_.values.assign(count * roles, 0);
  known_.solved.assign(count, 0);
  known_.plies.assign(count, 0);
  facts_.mixes = false;
  const solve_inner::Backwards backwards(space_);
  std::vector<std::uint32_t> open(count, 0);  // what follows and is not solved, as often as it does
  const GoalShares shares(space_.game());
  std::vector<std::uint32_t> ready;
  for (std::uint32_t p = 0; p < count; ++p) {
    open[p] = static_cast<std::uint32_t>(space_.steps(p).size());
    if (over(p)) ready.push_back(p);
  }
  std::size_t done = 0;
  InterruptionPoint interruption(256);
  while (!ready.empty()) {
    interruption.pass();
    const std::uint32_t p = ready.back();
    ready.pop_back();
    if (over(p)) {
      for (std::size_t role = 0; role < roles; ++role) {
        const auto& goals = space_.outcomes()[space_.outcome(p)][role];
        known_.values[p * roles + role] =
            goals.size() == 1 ? shares.values(role)[goals[0]] : GoalShares::undecided;
      }
    } else {
      const auto play = play_at(p);
      if (!play) return false;
      facts_.mixes = facts_.mixes || play->mixes;
      known_.plies[p] = play->plies;
      std::ranges::copy(play->values,
                        known_.values.begin() + static_cast<std::ptrdiff_t>(p * roles));
    }
    known_.solved[p] = 1;
    ++done;
    for (std::uint64_t i = backwards.first[p]; i < backwards.first[p + 1]; ++i) {
      if (--open[backwards.before[i]] == 0) ready.push_back(backwards.before[i]);
    }
  }
  if (done == count) return true;
  facts_.repeats = true;
  const auto why_not = solve_inner::solve_repeating(space_, backwards, chance_, known_);
  if (solved(0)) return true;
  reason_ =
      why_not ? fmt::format(
                    "positions repeat: {} of {} have no value by handing back from the "
                    "ends, and {}",
                    count - done, count, *why_not)
              : "positions repeat, and best play goes on for ever: neither role can bring about an "
                "end that it would rather have";
  return true;
}

std::vector<GoodMove> SolvedGraph::best(const Position& position, std::size_t role) const {
  std::vector<GoodMove> result;
  const auto p = number(position);
  if (!p || !solved(*p) || over(*p)) return result;
  const auto play = play_at(*p);
  if (!play) return result;
  const std::vector<Move> legal = game_.legal(position, game_.roles()[role]);
  for (std::size_t i = 0; i < play->shares[role].size(); ++i) {
    if (play->shares[role][i] > 0) result.push_back({legal[i], play->shares[role][i]});
  }
  std::ranges::sort(
      result, [](const GoodMove& a, const GoodMove& b) { return a.move.term() < b.move.term(); });
  return result;
}

Diagnostics SolvedGraph::run(const Budget& budget, unsigned threads) {
  const LaneGame& lanes = space_.game();
  const auto bits = lanes.bits(GameAccess::state(from_).fluents());
  if (!bits) {
    Diagnostics faults;
    faults.add(plain_error("unforeseen-fluent",
                           "the position holds a fluent that no play from the start can lead to",
                           "begin at a position that can be reached"));
    return faults;
  }
  std::size_t players = 0;
  for (const Role& role : game_.roles()) players += role.is_chance() ? 0 : 1;
  facts_.selfish = players > 2;
  const auto ending = space_.explore(lanes.row(*bits), budget, threads);
  if (!ending) return ending.diagnostics();
  ending_ = *ending;
  line_ = {{from_}, {}};
  if (ending_ != Ending::complete) {
    reason_ =
        fmt::format("the budget ended ({}) after {} positions", name_of(ending_), space_.size());
    return {};
  }
  try {
    if (!hand_back()) {
      facts_.secures = true;
      (void)hand_back();
    }
  } catch (const Interrupted& interrupted) {
    known_ = {};
    ending_ = interrupted.ending;
    reason_ = fmt::format("the budget ended ({}) while the values of {} positions were worked out",
                          name_of(ending_), space_.size());
    return {};
  }
  if (solved(0)) line_ = best_line(game_, *this, from_);
  return {};
}

std::optional<double> SolvedGraph::value(const Position& position, std::size_t role) const {
  const auto p = number(position);
  if (!p || !solved(*p)) return std::nullopt;
  return 100 * known_.values[*p * space_.roles() + role];
}

std::optional<std::uint64_t> SolvedGraph::plies(const Position& position) const {
  const auto p = number(position);
  if (!p || !solved(*p)) return std::nullopt;
  return known_.plies[*p];
}

Diagnostics SolvedGraph::keep(const std::string& file) const {
  if (complete()) return KeptSolution::write(file, space_, known_, facts_);
  Diagnostics faults;
  faults.add(plain_error("nothing-to-keep", "the game is not solved: " + reason_,
                         "give it more --positions, --seconds or --memory"));
  return faults;
}

}  // namespace orchard
