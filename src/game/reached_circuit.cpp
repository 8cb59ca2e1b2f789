// A circuit for rules that have none because their terms grow without end, made of what play
// reaches.
#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

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
      for (; looked_at_ < found_.size(); ++looked_at_) {
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
  std::shared_ptr<const ReachedTerms> terms() const {
    const rules::TermTable& terms = GameAccess::core(game_)->terms();
    auto result = std::make_shared<ReachedTerms>();
    for (const TermId fluent : fluents_) result->fluents.push_back(terms.term(fluent));
    for (const auto& [role, move] : moves_) {
      result->moves.emplace_back(terms.term(role), terms.term(move));
    }
    return result;
  }

 private:
  void add(const Position& position) {
    if (!known_.insert(position).second) return;
    found_.push_back(position);
    for (const TermId fluent : GameAccess::state(position).fluents()) fluents_.insert(fluent);
  }

  std::optional<Diagnostics> look_at(const Position position) {
    std::vector<std::vector<Move>> legal;
    bool goes_on = !game_.terminal(position);
    for (const Role& role : game_.roles()) {
      legal.push_back(game_.legal(position, role));
      goes_on = goes_on && !legal.back().empty();
      for (const Move& move : legal.back()) {
        moves_.insert({roles_[role.index()], GameAccess::id(move)});
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
  absl::flat_hash_set<TermId> fluents_;
  absl::flat_hash_set<std::pair<TermId, TermId>> moves_;  // role and move
};

}  // namespace

bool has_circuit(const Game& game) {
  return GameAccess::core(game)->lanes() != nullptr;
}

Result<Game> with_reached_circuit(const Game& game, const Budget& budget,
                                  const std::vector<Position>& also_from) {
  const std::shared_ptr<const GameCore>& core = GameAccess::core(game);
  if (has_circuit(game)) return game;
  std::vector<Position> from{game.initial()};
  from.insert(from.end(), also_from.begin(), also_from.end());
  Reached reached(game, budget);
  const auto all = reached.explore(from);
  if (!all) return all.diagnostics();
  if (!*all) {
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
  GameLimits limits = core->limits();
  limits.reached = reached.terms();
  auto bounded = game_of(core->program().shared_description(), limits, core->findings());
  if (!bounded) return bounded;
  if (GameAccess::core(*bounded)->lanes() == nullptr) {
    return GameAccess::core(*bounded)->lanes_fault();
  }
  return bounded;
}

}  // namespace orchard
