#include "orchard/solve.hpp"

#include <fmt/core.h>

#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <numeric>

#include "base/interruption.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "game/core.hpp"
#include "solve/kept_solution.hpp"
#include "solve/searched_game.hpp"
#include "solve/solved_graph.hpp"

namespace orchard {
namespace {

// Of equally good moves the one that wins soonest, or loses latest.
std::pair<JointMove, Position> soonest(const Game& game, const SolutionSource& source,
                                       const Position& position, const JointMove& joint,
                                       const Position& next, const Role& role) {
  std::pair<JointMove, Position> result{joint, next};
  const auto plies = [&](const Position& of) { return source.plies(of).value_or(0); };
  const bool winning = source.value(position, role.index()).value_or(0) > 50;
  for (const GoodMove& other : source.best(position, role.index())) {
    std::vector<Move> moves(joint.begin(), joint.end());
    moves[role.index()] = other.move;
    const JointMove with(moves);
    const auto then = game.next(position, with);
    if (!then) continue;
    const bool better =
        winning ? plies(*then) < plies(result.second) : plies(*then) > plies(result.second);
    if (better) result = {with, *then};
  }
  return result;
}

}  // namespace

Line best_line(const Game& game, const SolutionSource& source, const Position& from) {
  constexpr std::size_t longest = 10'000;
  Line line{{from}, {}};
  while (line.joints.size() < longest) {
    const Position& position = line.last();
    if (game.terminal(position)) return line;
    JointMove joint;
    std::optional<Role> chooser;  // of equally good moves
    for (const Role& role : game.roles()) {
      const auto moves = source.best(position, role.index());
      if (moves.empty()) return line;
      joint.add(std::ranges::max_element(moves, {}, &GoodMove::share)->move);
      if (moves.size() > 1 && !role.is_chance()) chooser = role;
    }
    auto next = game.next(position, joint);
    if (!next) return line;
    if (chooser) {
      auto [better, then] = soonest(game, source, position, joint, *next, *chooser);
      joint = std::move(better);
      next = Result<Position>(then);
    }
    line.joints.push_back(std::move(joint));
    line.positions.push_back(*next);
  }
  return line;
}

bool Solution::complete() const {
  return source_->complete();
}
const std::string& Solution::reason() const {
  return source_->reason();
}
Ending Solution::ending() const {
  return source_->ending();
}
std::uint64_t Solution::positions() const {
  return source_->positions();
}
bool Solution::searched() const {
  return source_->searched();
}
bool Solution::assumes_selfish() const {
  return source_->facts().selfish;
}
bool Solution::secures() const {
  return source_->facts().secures;
}
bool Solution::mixes() const {
  return source_->facts().mixes;
}
const Line& Solution::line() const {
  return source_->line();
}
std::optional<double> Solution::value(const Position& position, const Role& role) const {
  return source_->value(position, role.index());
}
std::optional<std::uint64_t> Solution::plies(const Position& position) const {
  return source_->plies(position);
}
std::vector<GoodMove> Solution::best(const Position& position, const Role& role) const {
  return source_->best(position, role.index());
}
Diagnostics Solution::keep(const std::string& file) const {
  return source_->keep(file);
}

Result<Solution> Solution::kept(const std::string& file, const Game& game) {
  auto source = KeptSolution::read(file, game);
  if (!source) return source.diagnostics();
  return Solution(*source);
}

namespace {

// Of a search or a graph that was cut short before anything was known.
class NothingSolved : public SolutionSource {
 public:
  NothingSolved(const Position& from, Ending ending) {
    ending_ = ending;
    reason_ = fmt::format("the budget ended ({}) while the rules were prepared", name_of(ending));
    line_ = {{from}, {}};
  }
  bool complete() const override { return false; }
  std::uint64_t positions() const override { return 0; }
  std::optional<double> value(const Position&, std::size_t) const override { return std::nullopt; }
  std::optional<std::uint64_t> plies(const Position&) const override { return std::nullopt; }
  std::vector<GoodMove> best(const Position&, std::size_t) const override { return {}; }
  Diagnostics keep(const std::string&) const override {
    Diagnostics faults;
    faults.add(plain_error("nothing-to-keep", "the game is not solved: " + reason_,
                           "give it more --seconds"));
    return faults;
  }
};

// Of goals that the language does not know.
std::string remark_on_goals(const Game& game) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr) return {};
  for (const Role& role : game.roles()) {
    for (const auto& goal : lanes->ground().goals()[role.index()]) {
      std::string remark =
          solve_inner::remark_on_goal(role, lanes->ground().terms().term(goal.term));
      if (!remark.empty()) return remark;
    }
  }
  return {};
}

using Source = std::shared_ptr<const SolutionSource>;

// By the circuit: all positions if they are not too many, else by a search.
Result<Source> solved_by_circuit(const Game& game, const LaneGame& lanes, const Position& from,
                                 const SolveOptions& options) {
  using Way = SolveOptions::Way;
  constexpr std::uint64_t usual_positions = 5'000'000;
  Budget budget = options.budget;
  if (!budget.positions) budget.positions = usual_positions;
  std::shared_ptr<SolvedGraph> graph;
  if (options.way != Way::search) {
    graph = std::make_shared<SolvedGraph>(game, from, solve_inner::explored_by_circuit(lanes));
    if (Diagnostics faults = graph->explore(budget, options.threads); !faults.empty())
      return faults;
    const bool too_many = graph->ending() == Ending::positions || graph->ending() == Ending::memory;
    if (options.way == Way::all || !too_many) {
      graph->work_out();
      return Source(graph);
    }
  }
  constexpr std::uint64_t looked_at_each = 20;
  budget.positions = *budget.positions * looked_at_each;
  auto searched = SearchedGame::make(game, lanes, from, budget);
  if (searched) return Source(*searched);
  if (!graph) return searched.diagnostics();
  graph->work_out();
  return Source(graph);
}

// Breadth first, and every now and then it is asked whether that is enough: what is forced within
// some plies is known long before all positions are.
Result<Source> solved_by_evaluator(const Game& game, const Position& from,
                                   const SolveOptions& options) {
  if (options.way == SolveOptions::Way::search) {
    return plain_error("not-searchable", "a search needs a circuit, and these rules have none",
                       "omit --search: positions are looked at one by one then");
  }
  constexpr std::uint64_t usual_positions = 500'000;
  constexpr std::uint64_t first_positions = 500;
  constexpr std::uint64_t times_as_many = 4;
  const std::uint64_t most = options.budget.positions.value_or(usual_positions);
  const Stopwatch clock(options.budget);
  auto graph = std::make_shared<SolvedGraph>(game, from, solve_inner::explored_by_evaluator(game));
  for (std::uint64_t positions = first_positions;; positions *= times_as_many) {
    Budget budget = options.budget;
    budget.positions = std::min(positions, most);
    if (budget.seconds) budget.seconds = std::max(*budget.seconds - clock.seconds(), 0.0);
    if (Diagnostics faults = graph->explore(budget, 1); !faults.empty()) return faults;
    graph->work_out();
    const bool goes_on = graph->ending() == Ending::positions && positions < most;
    if (graph->complete() || !goes_on) return Source(graph);
  }
}

Result<Source> solved(const Game& game, const SolveOptions& options) {
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes();
  const auto was_stopped = [](const Diagnostic& fault) { return fault.code == "interrupted"; };
  if (lanes == nullptr && std::ranges::any_of(core.lanes_fault(), was_stopped)) {
    return core.lanes_fault();
  }
  const Position from = options.from ? *options.from : game.initial();
  return lanes != nullptr ? solved_by_circuit(game, *lanes, from, options)
                          : solved_by_evaluator(game, from, options);
}

}  // namespace

Ending Solution::each_choice(const Game& game, const std::function<void(const Choice&)>& visit,
                             const Budget& budget) const {
  if (searched() || !complete()) return Ending::complete;
  const Interruption interruption(budget);
  std::vector<Position> open{line().positions.front()};
  absl::flat_hash_set<std::string> seen{open.front().key()};
  try {
    for (std::size_t at = 0; at < open.size(); ++at) {
      end_if_interrupted();
      const Position position = open[at];
      if (game.terminal(position)) continue;
      std::vector<std::vector<Move>> legal;
      std::vector<std::vector<std::size_t>> numbers;
      for (const Role& role : game.roles()) {
        legal.push_back(game.legal(position, role));
        numbers.emplace_back(legal.back().size());
        std::iota(numbers.back().begin(), numbers.back().end(), std::size_t{0});
        const auto worth = value(position, role);
        if (role.is_chance() || legal.back().size() < 2 || !worth) continue;
        visit({position, role, *worth, best(position, role)});
      }
      explore::each_joint_move(numbers, [&](const std::vector<std::size_t>& chosen) {
        JointMove joint;
        for (std::size_t r = 0; r < chosen.size(); ++r) joint.add(legal[r][chosen[r]]);
        const auto next = game.next(position, joint);
        if (next && seen.insert(next->key()).second) open.push_back(*next);
      });
    }
  } catch (const Interrupted& interrupted) {
    return interrupted.ending;  // in here, or in what the visitor does
  }
  return Ending::complete;
}

Result<Solution> solve(const Game& game, const SolveOptions& options) {
  const Interruption interruption(options.budget);
  try {
    const auto source = solved(game, options);
    if (!source) return source.diagnostics();
    std::string remark = remark_on_goals(game);
    if (const std::string& more = (*source)->remark(); !more.empty()) {
      remark += (remark.empty() ? "" : "; ") + more;
    }
    return Solution(*source, remark);
  } catch (const Interrupted& interrupted) {
    const Position from = options.from ? *options.from : game.initial();
    return Solution(std::make_shared<const NothingSolved>(from, interrupted.ending));
  }
}

}  // namespace orchard
