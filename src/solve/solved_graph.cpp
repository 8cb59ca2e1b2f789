#include "solve/solved_graph.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard {

SolvedGraph::SolvedGraph(const Game& game, Position from,
                         std::unique_ptr<solve_inner::ExploredPositions> explored)
    : game_(game), explored_(std::move(explored)), from_(std::move(from)) {
  for (const Role& role : game_.roles()) {
    if (role.is_chance()) chance_ = role.index();
  }
}

// Nothing where interests are not opposed, or more than two choose at once.
std::optional<solve_inner::Play> SolvedGraph::play_at(std::uint32_t position) const {
  const std::size_t roles = graph_.roles;
  solve_inner::Followers followers;
  for (std::size_t role = 0; role < roles; ++role) {
    followers.choices.push_back(graph_.choices(position, role));
  }
  followers.chance = chance_;
  for (const std::uint32_t next : graph_.steps(position)) {
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
  const std::size_t count = graph_.size();
  const std::size_t roles = graph_.roles;
  known_.values.assign(count * roles, 0);
  known_.solved.assign(count, 0);
  known_.plies.assign(count, 0);
  facts_.mixes = false;
  const solve_inner::Backwards backwards(graph_);
  std::vector<std::uint32_t> open(count, 0);  // what follows and is not solved, as often as it does
  std::vector<std::uint32_t> ready;
  for (std::uint32_t p = 0; p < count; ++p) {
    open[p] = static_cast<std::uint32_t>(graph_.steps(p).size());
    if (graph_.is_over(p)) ready.push_back(p);
  }
  std::size_t done = 0;
  InterruptionPoint interruption(256);
  while (!ready.empty()) {
    interruption.pass();
    const std::uint32_t p = ready.back();
    ready.pop_back();
    if (graph_.is_over(p)) {
      std::ranges::copy(graph_.worth(p),
                        known_.values.begin() + static_cast<std::ptrdiff_t>(p * roles));
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
  const auto why_not = solve_inner::solve_repeating(graph_, backwards, chance_, known_);
  if (solved(0) || ending_ != Ending::complete) return true;
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
  const auto p = explored_->number(position);
  if (!p || !solved(*p) || graph_.is_over(*p)) return result;
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

Diagnostics SolvedGraph::explore(const Budget& budget, unsigned threads) {
  // What was found is worth little if there is no time to hand values back.
  constexpr double share_of_exploring = 0.75;
  Budget of_exploring = budget;
  if (budget.seconds) of_exploring.seconds = *budget.seconds * share_of_exploring;
  const auto ending = explored_->explore(from_, of_exploring, threads);
  if (!ending) return ending.diagnostics();
  ending_ = *ending;
  graph_ = explored_->graph();
  line_ = {{from_}, {}};
  return {};
}

void SolvedGraph::work_out() {
  std::size_t players = 0;
  for (const Role& role : game_.roles()) players += role.is_chance() ? 0 : 1;
  facts_ = {};
  facts_.selfish = players > 2;
  reason_.clear();
  remark_ = explored_->remark();
  const bool all = ending_ == Ending::complete;
  if (!all) {
    reason_ =
        fmt::format("the budget ended ({}) after {} positions", name_of(ending_), graph_.size());
  }
  // There is no room for the way back.
  if (ending_ == Ending::memory) return;
  try {
    if (!hand_back()) {
      facts_.secures = true;
      (void)hand_back();
    }
  } catch (const Interrupted& interrupted) {
    known_ = {};
    if (!all) return;
    ending_ = interrupted.ending;
    reason_ = fmt::format("the budget ended ({}) while the values of {} positions were worked out",
                          name_of(ending_), graph_.size());
    return;
  }
  if (!solved(0)) return;
  if (!all) {
    const std::string_view unless =
        players == 2 ? ", as long as one role's gain is the other's loss there, too" : "";
    remark_ += fmt::format(
        "{}{} positions were looked at, and there are more; the value holds whatever follows "
        "there{}",
        remark_.empty() ? "" : "; ", graph_.looked_at(), unless);
  }
  line_ = best_line(game_, *this, from_);
}

std::optional<double> SolvedGraph::value(const Position& position, std::size_t role) const {
  const auto p = explored_->number(position);
  if (!p || !solved(*p)) return std::nullopt;
  return 100 * known_.values[*p * graph_.roles + role];
}

std::optional<std::uint64_t> SolvedGraph::plies(const Position& position) const {
  const auto p = explored_->number(position);
  if (!p || !solved(*p)) return std::nullopt;
  return known_.plies[*p];
}

Diagnostics SolvedGraph::keep(const std::string& file) const {
  if (complete()) return explored_->keep(file, known_, facts_);
  Diagnostics faults;
  faults.add(plain_error("nothing-to-keep", "the game is not solved: " + reason_,
                         "give it more --positions, --seconds or --memory"));
  return faults;
}

}  // namespace orchard
