// Values by backward induction on the graph of positions.
#include "orchard/solve.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "explore/random_games.hpp"
#include "explore/state_space.hpp"
#include "game/core.hpp"
#include "solve/matrix_game.hpp"
#include "solve/searched_game.hpp"

namespace orchard {

using explore::StateSpace;
using solve_inner::MixedPlay;

namespace {

constexpr double no_single_goal = 0.5;  // what an end counts that gives a role no value, or several

}  // namespace

class SolvedGraph {
 public:
  SolvedGraph(const Game& game, const LaneGame& lanes, Position from)
      : game_(game), space_(lanes), from_(std::move(from)) {}

  Diagnostics run(const Budget& budget, unsigned threads);

  // Of a position: the shares of each role's moves under best play.
  struct Play {
    std::vector<std::vector<double>> shares;  // by role, by legal move
    std::vector<double> values;               // by role, 0 to 1
    std::uint32_t plies = 1;                  // to the end, where one role alone chooses
  };
  std::optional<std::uint32_t> number(const Position& position) const {
    const LaneGame& lanes = space_.game();
    const auto bits = lanes.bits(GameAccess::state(position).fluents());
    return bits ? space_.find(lanes.row(*bits)) : std::nullopt;
  }
  bool solved(std::uint32_t position) const { return solved_[position] != 0; }
  std::vector<GoodMove> best(const Position& position, std::size_t role) const;

  Game game_;
  StateSpace space_;
  Position from_;
  std::vector<double> values_;  // position × role
  std::vector<std::uint8_t> solved_;
  std::vector<std::uint32_t> plies_;  // to the end under best play, wins soon and losses late
  Ending ending_ = Ending::complete;
  std::string reason_;
  bool selfish_ = false;
  bool mixes_ = false;
  Line line_;

 private:
  std::optional<Play> best_play(std::uint32_t position);
  double value(std::uint32_t position, std::size_t role) const {
    return values_[position * space_.roles() + role];
  }
  bool is_chance(std::size_t role) const { return game_.roles()[role].is_chance(); }
  bool over(std::uint32_t position) const {
    return space_.kind(position) != StateSpace::Kind::open;
  }
  void hand_back();
  void follow_line();
  std::pair<JointMove, Position> soonest(const Position& position, const JointMove& joint,
                                         const Position& next, const Role& role) const;
  // Best play as it was worked out; for reading only.
  std::optional<Play> play_at(std::uint32_t position) const {
    return const_cast<SolvedGraph*>(this)->best_play(position);
  }
};

// Nothing where interests are not opposed, or more than two choose at once.
std::optional<SolvedGraph::Play> SolvedGraph::best_play(std::uint32_t position) {
  const std::size_t roles = space_.roles();
  const auto next = space_.steps(position);
  Play play;
  play.shares.resize(roles);
  play.values.assign(roles, 0);
  std::vector<std::size_t> choosers;
  std::vector<std::size_t> stride(roles);
  std::size_t chance = roles;
  std::size_t all = 1;
  for (std::size_t role = 0; role < roles; ++role) {
    const std::size_t choices = space_.choices(position, role);
    stride[role] = all;
    all *= choices;
    play.shares[role].assign(choices, 1.0 / static_cast<double>(choices));
    if (choices < 2) continue;
    if (is_chance(role)) {
      chance = role;
    } else {
      choosers.push_back(role);
    }
  }
  const std::size_t chances = chance == roles ? 1 : space_.choices(position, chance);
  const std::size_t chance_stride = chance == roles ? 0 : stride[chance];
  // What a role gets where the choosers have chosen, chance averaged over.
  const auto expected = [&](std::size_t base, std::size_t role) {
    double sum = 0;
    for (std::size_t c = 0; c < chances; ++c) sum += value(next[base + c * chance_stride], role);
    return sum / static_cast<double>(chances);
  };
  constexpr double same = 1e-9;
  if (choosers.size() > 2) {
    reason_ = "more than two roles choose at once";
    return std::nullopt;
  }
  if (choosers.size() < 2) {
    const std::size_t own = choosers.empty() ? 0 : choosers.front();
    const std::size_t choices = choosers.empty() ? 1 : space_.choices(position, own);
    std::size_t best = 0;
    const auto better = [&](std::size_t a, std::size_t b) {
      const double of_a = expected(a * stride[own], own);
      const double of_b = expected(b * stride[own], own);
      if (of_a > of_b + same) return true;
      if (of_a < of_b - same || chances > 1) return false;
      const std::uint32_t plies_a = plies_[next[a * stride[own]]];
      const std::uint32_t plies_b = plies_[next[b * stride[own]]];
      return of_a > 0.5 ? plies_a < plies_b : plies_a > plies_b;
    };
    for (std::size_t i = 1; i < choices; ++i) {
      if (better(i, best)) best = i;
    }
    play.plies = 1 + plies_[next[best * stride[own]]];
    for (std::size_t role = 0; role < roles; ++role) {
      play.values[role] = expected(best * stride[own], role);
    }
    if (!choosers.empty()) {
      double equals = 0;
      for (std::size_t i = 0; i < choices; ++i) {
        const bool good = expected(i * stride[own], own) >= play.values[own] - same;
        play.shares[own][i] = good ? 1 : 0;
        equals += good ? 1 : 0;
      }
      for (double& share : play.shares[own]) share /= equals;
    }
    return play;
  }
  const std::size_t first = choosers[0];
  const std::size_t second = choosers[1];
  std::vector<std::vector<double>> gains(space_.choices(position, first));
  std::optional<double> sum;
  for (std::size_t i = 0; i < gains.size(); ++i) {
    for (std::size_t j = 0; j < space_.choices(position, second); ++j) {
      const std::size_t base = i * stride[first] + j * stride[second];
      gains[i].push_back(expected(base, first));
      const double both = gains[i].back() + expected(base, second);
      if (!sum) sum = both;
      if (std::abs(*sum - both) > 1e-6) {
        reason_ = "two roles choose at once whose interests are not opposed";
        return std::nullopt;
      }
    }
  }
  const MixedPlay mixed = solve_inner::solve_matrix(gains);
  play.shares[first] = mixed.rows;
  play.shares[second] = mixed.columns;
  for (std::size_t i = 0; i < mixed.rows.size(); ++i) {
    for (std::size_t j = 0; j < mixed.columns.size(); ++j) {
      const double share = mixed.rows[i] * mixed.columns[j];
      if (share == 0) continue;
      for (std::size_t role = 0; role < roles; ++role) {
        play.values[role] += share * expected(i * stride[first] + j * stride[second], role);
      }
    }
  }
  const auto is_pure = [](const std::vector<double>& shares) {
    return std::ranges::any_of(shares, [](double share) { return share > 1 - 1e-9; });
  };
  mixes_ = mixes_ || !is_pure(mixed.rows) || !is_pure(mixed.columns);
  return play;
}

// A position is solved once all that can follow is; what is never solved can repeat.
void SolvedGraph::hand_back() {
  const std::size_t count = space_.size();
  const std::size_t roles = space_.roles();
  values_.assign(count * roles, 0);
  solved_.assign(count, 0);
  plies_.assign(count, 0);
  std::vector<std::uint64_t> first(count + 1, 0);
  std::vector<std::uint32_t> open(count, 0);  // what follows and is not solved, as often as it does
  for (std::uint32_t p = 0; p < count; ++p) {
    for (const std::uint32_t next : space_.steps(p)) ++first[next + 1];
    open[p] = static_cast<std::uint32_t>(space_.steps(p).size());
  }
  for (std::size_t p = 0; p < count; ++p) first[p + 1] += first[p];
  std::vector<std::uint32_t> before(first[count]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (std::uint32_t p = 0; p < count; ++p) {
    for (const std::uint32_t next : space_.steps(p)) before[at[next]++] = p;
  }
  const auto goal_shares = orchard::goal_shares(space_.game());
  std::vector<std::uint32_t> ready;
  for (std::uint32_t p = 0; p < count; ++p) {
    if (over(p)) ready.push_back(p);
  }
  std::size_t done = 0;
  while (!ready.empty()) {
    const std::uint32_t p = ready.back();
    ready.pop_back();
    if (over(p)) {
      for (std::size_t role = 0; role < roles; ++role) {
        const auto& goals = space_.outcomes()[space_.outcome(p)][role];
        values_[p * roles + role] =
            goals.size() == 1 ? static_cast<double>(goal_shares[role][goals[0]]) : no_single_goal;
      }
    } else {
      const auto play = best_play(p);
      if (!play) return;
      plies_[p] = play->plies;
      std::ranges::copy(play->values, values_.begin() + static_cast<std::ptrdiff_t>(p * roles));
    }
    solved_[p] = 1;
    ++done;
    for (std::uint64_t i = first[p]; i < first[p + 1]; ++i) {
      if (--open[before[i]] == 0) ready.push_back(before[i]);
    }
  }
  if (done < count && !solved_[0]) {
    reason_ = fmt::format("positions repeat: {} of {} have no value by handing back from the ends",
                          count - done, count);
  }
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

// Of equally good moves the one that wins soonest, or loses latest.
std::pair<JointMove, Position> SolvedGraph::soonest(const Position& position,
                                                    const JointMove& joint, const Position& next,
                                                    const Role& role) const {
  std::pair<JointMove, Position> result{joint, next};
  const auto plies = [&](const Position& of) {
    const auto p = number(of);
    return p ? plies_[*p] : 0;
  };
  const bool winning = value(*number(position), role.index()) > 0.5;
  for (const GoodMove& other : best(position, role.index())) {
    std::vector<Move> moves(joint.begin(), joint.end());
    moves[role.index()] = other.move;
    const JointMove with(moves);
    const auto then = game_.next(position, with);
    if (!then) continue;
    const bool better =
        winning ? plies(*then) < plies(result.second) : plies(*then) > plies(result.second);
    if (better) result = {with, *then};
  }
  return result;
}

void SolvedGraph::follow_line() {
  constexpr std::size_t longest = 10'000;
  line_ = {{from_}, {}};
  while (line_.joints.size() < longest) {
    const Position& position = line_.last();
    if (game_.terminal(position)) return;
    JointMove joint;
    std::optional<Role> chooser;  // of equally good moves
    for (const Role& role : game_.roles()) {
      const auto moves = best(position, role.index());
      if (moves.empty()) return;
      joint.add(std::ranges::max_element(moves, {}, &GoodMove::share)->move);
      if (moves.size() > 1 && !role.is_chance()) chooser = role;
    }
    auto next = game_.next(position, joint);
    if (!next) return;
    if (chooser) {
      auto [better, then] = soonest(position, joint, *next, *chooser);
      joint = std::move(better);
      next = Result<Position>(then);
    }
    line_.joints.push_back(std::move(joint));
    line_.positions.push_back(*next);
  }
}

Diagnostics SolvedGraph::run(const Budget& budget, unsigned threads) {
  const LaneGame& lanes = space_.game();
  const auto bits = lanes.bits(GameAccess::state(from_).fluents());
  if (!bits) {
    Diagnostics faults;
    faults.add(plain_error("unforeseen-fluent",
                           "the position holds a fluent that no play from the start could foresee",
                           "begin at a position that can be reached"));
    return faults;
  }
  std::size_t players = 0;
  for (const Role& role : game_.roles()) players += role.is_chance() ? 0 : 1;
  selfish_ = players > 2;
  const auto ending = space_.explore(lanes.row(*bits), budget, threads);
  if (!ending) return ending.diagnostics();
  ending_ = *ending;
  line_ = {{from_}, {}};
  if (ending_ != Ending::complete) {
    reason_ =
        fmt::format("the budget ended ({}) after {} positions", name_of(ending_), space_.size());
    solved_.assign(std::max<std::size_t>(space_.size(), 1), 0);
    values_.assign(solved_.size() * space_.roles(), 0);
    return {};
  }
  hand_back();
  if (solved_[0]) follow_line();
  return {};
}

bool Solution::complete() const {
  return searched_ ? searched_->complete : graph_->solved(0);
}
const std::string& Solution::reason() const {
  return searched_ ? searched_->reason : graph_->reason_;
}
Ending Solution::ending() const {
  return searched_ ? searched_->ending : graph_->ending_;
}
std::uint64_t Solution::positions() const {
  return searched_ ? searched_->positions : graph_->space_.size();
}
bool Solution::assumes_selfish() const {
  return graph_ && graph_->selfish_;
}
bool Solution::mixes() const {
  return graph_ && graph_->mixes_;
}
const Line& Solution::line() const {
  return searched_ ? searched_->line : graph_->line_;
}

std::optional<double> Solution::value(const Position& position, const Role& role) const {
  if (searched_) {
    const auto* const known = searched_->known(position);
    return known == nullptr ? std::nullopt : std::optional(known->values[role.index()]);
  }
  const auto p = graph_->number(position);
  if (!p || *p >= graph_->solved_.size() || !graph_->solved(*p)) return std::nullopt;
  return 100 * graph_->values_[*p * graph_->space_.roles() + role.index()];
}

std::optional<std::uint64_t> Solution::plies(const Position& position) const {
  if (searched_) return std::nullopt;
  const auto p = graph_->number(position);
  if (!p || *p >= graph_->solved_.size() || !graph_->solved(*p)) return std::nullopt;
  return graph_->plies_[*p];
}

std::vector<GoodMove> Solution::best(const Position& position, const Role& role) const {
  if (searched_) {
    const auto* const known = searched_->known(position);
    return known == nullptr ? std::vector<GoodMove>{} : known->best[role.index()];
  }
  const auto p = graph_->number(position);
  if (!p || *p >= graph_->solved_.size()) return {};
  return graph_->best(position, role.index());
}

Result<Solution> solve(const Game& game, const SolveOptions& options) {
  using Way = SolveOptions::Way;
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr) return core.lanes_fault();
  const Position from = options.from ? *options.from : game.initial();
  constexpr std::uint64_t usual_positions = 5'000'000;
  Budget budget = options.budget;
  if (!budget.positions) budget.positions = usual_positions;
  std::optional<Solution> result;
  if (options.way != Way::search) {
    const auto graph = std::make_shared<SolvedGraph>(game, *lanes, from);
    if (Diagnostics faults = graph->run(budget, options.threads); !faults.empty()) return faults;
    result = Solution(graph);
    const bool too_many = graph->ending_ == Ending::positions || graph->ending_ == Ending::memory;
    if (options.way == Way::all || !too_many) return *result;
  }
  constexpr std::uint64_t looked_at_each = 20;
  budget.positions = *budget.positions * looked_at_each;
  std::string why_not;
  const auto searched = SearchedGame::make(game, *lanes, from, budget, why_not);
  if (searched) return Solution(searched);
  if (result) return *result;
  Diagnostics faults;
  faults.add(plain_error("not-searchable", "this game cannot be searched: " + why_not,
                         "leave the way of solving open"));
  return faults;
}

}  // namespace orchard
