// A circuit for rules that have none because their terms grow without end, made of what play
// reaches.
#include "game/reached_circuit.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include <algorithm>
#include <deque>

#include "base/counted.hpp"
#include "game/core.hpp"
#include "orchard/circuit.hpp"

namespace orchard {
namespace {

struct HashOfPosition {
  std::size_t operator()(const Position& position) const { return position.hash(); }
};

// Every position from some on, breadth first, with what holds and is legal in them.
class Reached {
 public:
  Reached(const Game& game, const Budget& budget)
      : game_(game),
        roles_(GameAccess::core(game)->program().description().roles()),
        budget_(budget) {}

  // Whether all were looked at within the budget.
  Result<bool> explore(const std::vector<Position>& from) {
    try {
      const Interruption interruption(budget_);
      for (const Position& position : from) add(position);
      std::size_t end_of_depth = found_.size();
      for (; looked_at_ < found_.size(); ++looked_at_) {
        if (looked_at_ == end_of_depth) {
          whole_plies_ = depth_++;
          end_of_depth = found_.size();
        }
        if (auto fault = look_at(found_[looked_at_])) return std::move(*fault);
        if (budget_.positions && found_.size() > *budget_.positions) return false;
      }
      return true;
    } catch (const Interrupted& interrupted) {
      if (interrupted.ending == Ending::stopped || Interruption::asked()) throw;
      return false;
    }
  }

  std::size_t looked_at() const { return looked_at_; }
  // The last of these plies up to which a circuit is soon made.
  std::optional<std::uint64_t> worth_a_circuit() const {
    constexpr std::size_t most = 4'000;  // fluents and moves
    if (!whole_plies_) return std::nullopt;
    std::vector<std::size_t> new_terms(*whole_plies_ + 1, 0);
    for (const auto& [fluent, depth] : fluents_) {
      if (depth <= *whole_plies_) ++new_terms[depth];
    }
    for (const auto& [move, depth] : moves_) {
      if (depth <= *whole_plies_) ++new_terms[depth];
    }
    std::size_t terms = 0;
    std::uint64_t plies = 0;
    for (; plies <= *whole_plies_; ++plies) {
      terms += new_terms[plies];
      if (terms > most) break;
    }
    return plies == 0 ? std::nullopt : std::optional(plies - 1);
  }
  // Of positions up to so many plies, or of all.
  std::shared_ptr<ReachedTerms> terms(std::optional<std::uint64_t> plies) const {
    const rules::TermTable& terms = GameAccess::core(game_)->terms();
    auto result = std::make_shared<ReachedTerms>();
    result->plies = plies;
    for (const auto& [fluent, depth] : fluents_) {
      if (!plies || depth <= *plies) result->fluents.push_back(terms.term(fluent));
    }
    for (const auto& [move, depth] : moves_) {
      if (plies && depth > *plies) continue;
      result->moves.emplace_back(terms.term(move.first), terms.term(move.second));
    }
    return result;
  }

 private:
  void add(const Position& position) {
    if (!known_.insert(position).second) return;
    found_.push_back(position);
    const std::uint64_t here = found_.size() == 1 ? 0 : depth_ + 1;
    for (const TermId fluent : GameAccess::state(position).fluents()) {
      fluents_.try_emplace(fluent, here);
    }
  }

  std::optional<Diagnostics> look_at(const Position position) {
    std::vector<std::vector<Move>> legal;
    bool goes_on = !game_.terminal(position);
    for (const Role& role : game_.roles()) {
      legal.push_back(game_.legal(position, role));
      goes_on = goes_on && !legal.back().empty();
      for (const Move& move : legal.back()) {
        moves_.try_emplace({roles_[role.index()], GameAccess::id(move)}, depth_);
      }
    }
    if (!goes_on) return std::nullopt;
    std::vector<std::size_t> chosen(legal.size(), 0);
    while (true) {
      end_if_interrupted();
      std::vector<Move> moves;
      for (std::size_t role = 0; role < legal.size(); ++role) {
        moves.push_back(legal[role][chosen[role]]);
      }
      const auto next = game_.next(position, JointMove(std::move(moves)));
      if (!next) return next.diagnostics();
      add(*next);
      std::size_t role = 0;
      while (role < legal.size() && ++chosen[role] == legal[role].size()) chosen[role++] = 0;
      if (role == legal.size()) return std::nullopt;
    }
  }

  const Game& game_;
  const std::vector<TermId>& roles_;
  const Budget& budget_;
  absl::flat_hash_set<Position, HashOfPosition> known_;
  std::deque<Position> found_;
  std::size_t looked_at_ = 0;
  std::uint64_t depth_ = 0;  // of the position that is looked at
  std::optional<std::uint64_t> whole_plies_;
  // With the depth at which they were first met.
  absl::flat_hash_map<TermId, std::uint64_t> fluents_;
  absl::flat_hash_map<std::pair<TermId, TermId>, std::uint64_t> moves_;  // role and move
};

}  // namespace

Budget budget_of_reaching(const Budget& budget) {
  constexpr double longest = 10;           // seconds
  constexpr double share = 0.4;            // of those that there are
  constexpr std::uint64_t most = 200'000;  // positions
  Budget result;
  result.stop = budget.stop;
  result.positions = most;
  result.seconds = std::min(longest, share * budget.seconds.value_or(longest / share));
  return result;
}

bool has_circuit(const Game& game) {
  return GameAccess::core(game)->lanes() != nullptr;
}

std::optional<std::uint64_t> circuit_plies(const Game& game) {
  return GameAccess::core(game)->exact_plies();
}

Result<Game> with_reached_circuit(const Game& game, const Budget& budget,
                                  const std::vector<Position>& also_from, CircuitReach reach) {
  const std::shared_ptr<const GameCore>& core = GameAccess::core(game);
  if (has_circuit(game) || circuit_plies(game)) return game;
  std::vector<Position> from{game.initial()};
  from.insert(from.end(), also_from.begin(), also_from.end());
  Reached reached(game, budget);
  const auto all = reached.explore(from);
  if (!all) return all.diagnostics();
  // Of what follows the last ones looked at it is not known what is legal there.
  std::optional<std::uint64_t> plies;
  if (!*all && reach == CircuitReach::first_plies) plies = reached.worth_a_circuit();
  if (!*all && plies.value_or(0) == 0) {
    Diagnostic fault =
        plain_error("too-many-positions",
                    fmt::format("{} were looked at one by one, and there are more",
                                counted(reached.looked_at(), "position", "positions")),
                    "make the game shorter, or give it more time");
    fault.is_limit = true;
    Diagnostics faults = core->lanes_fault();
    faults.add(std::move(fault));
    return faults;
  }
  const std::shared_ptr<ReachedTerms> terms = reached.terms(plies);
  if (plies) terms->why_none = core->lanes_fault();
  GameLimits limits = core->limits();
  limits.reached = terms;
  auto bounded = game_of(core->program().shared_description(), limits, core->findings());
  if (!bounded) return bounded;
  const GameCore& made = *GameAccess::core(*bounded);
  if (made.lanes_near_start() == nullptr) return made.lanes_fault();
  return bounded;
}

}  // namespace orchard
