// What stands behind the public handles of a game.
//
// What answers a question is decided in `position_evaluator.hpp`. Constant after construction, but
// for the pool of evaluators (guarded by its mutex), the lanes and the waiting moves (made once
// each).
#pragma once

#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include <atomic>
#include <memory>
#include <mutex>
#include <vector>

#include "base/interruption.hpp"
#include "game/position_evaluator.hpp"
#include "game/position_state.hpp"
#include "logic/evaluator.hpp"
#include "orchard/game.hpp"

namespace orchard {

class KnownTerms;

using rules::TermId;

class LaneGame;  // lane_game.hpp

// What holds or is legal in some position that can be reached; as terms, since a game with further
// rules has numbers of its own.
struct ReachedTerms {
  std::vector<Term> fluents;
  std::vector<std::pair<Term, Term>> moves;  // role and move
  // If not all that can be reached was looked at: only up to so many plies from the start is the
  // circuit made of this exact; and why the rules have none.
  std::optional<std::uint64_t> plies{};
  Diagnostics why_none{};
};

// What rules may cost, for whoever answers.
struct GameLimits {
  logic::Limits reference;
  std::uint64_t circuit_bytes = 1ull << 30;
  std::uint32_t circuit_term_depth = 64;
  double circuit_seconds = 60;
  // All that play can reach, if it was found out: the circuit is made of that.
  std::shared_ptr<const ReachedTerms> reached;
  std::stop_token stop{};
};

Diagnostic too_slow(std::string_view what, double seconds);

// What `make` gives, a Result; a fault that says what was cut short if the stop token asks for it
// or the seconds are over. Interruptions of the scopes around it go on to these.
template <class Make>
auto under_stop_token(const std::stop_token& stop, std::string_view what, const Make& make,
                      std::optional<double> seconds = {}) -> decltype(make()) {
  try {
    Budget budget;
    budget.stop = stop;
    budget.seconds = seconds;
    const Interruption interruption(budget);
    return make();
  } catch (const Interrupted& interrupted) {
    if (Interruption::asked()) throw;
    if (interrupted.ending == Ending::time) return too_slow(what, *seconds);
  }
  Diagnostic fault =
      plain_error("interrupted", fmt::format("{} was interrupted", what), "let it go on");
  fault.is_limit = true;
  return fault;
}

// The value of a role, if exactly one integer is derived.
std::optional<std::int64_t> only_number(const std::vector<Term>& values);

std::size_t hash_of(std::span<const TermId> fluents);

class GameCore : public std::enable_shared_from_this<GameCore> {
 public:
  // `also`: relations that somebody will ask the circuit for, beside what play asks.
  GameCore(std::shared_ptr<const logic::Program> program, const GameLimits& limits,
           Diagnostics findings, std::vector<rules::RelationId> also = {});

  const logic::Program& program() const { return *program_; }
  const std::shared_ptr<const logic::Program>& shared_program() const { return program_; }
  rules::TermTable& terms() const { return program_->terms(); }
  const std::vector<Role>& roles() const { return roles_; }
  std::string digest() const;  // as of Game
  const GameLimits& limits() const { return limits_; }
  const Diagnostics& findings() const { return findings_; }
  const std::vector<rules::RelationId>& also_asked() const { return also_; }

  // An evaluator of the pool, for the time of one call; given back on destruction. One that was
  // broken off by a limit is fit for use again once a position is set.
  class Lease {
   public:
    explicit Lease(const GameCore& core, bool reference_only = false);
    ~Lease();
    Lease(const Lease&) = delete;
    PositionEvaluator* operator->() const { return evaluator_.get(); }
    PositionEvaluator& operator*() const { return *evaluator_; }

   private:
    const GameCore& core_;
    std::unique_ptr<PositionEvaluator> evaluator_;
  };

  // Works out a position; `fluents` ascending without repetition.
  Result<std::shared_ptr<const PositionState>> work_out(const std::vector<TermId>& fluents) const;

  // Whether a role's move counts as waiting; the first call samples play.
  bool is_waiting(std::size_t role, TermId move) const;

  // The game as lanes, made at the first call; null if it cannot be, or only guided, or only near
  // the start.
  const LaneGame* lanes() const;
  // The same, or lanes that are exact up to so many plies only (`ReachedTerms::plies`): for who
  // keeps to these.
  const LaneGame* lanes_near_start() const;
  std::optional<std::uint64_t> exact_plies() const;
  // The same, or a guided one: for who looks at what is not declared.
  const LaneGame* lanes_or_guided() const;
  // The latter, but null for the first positions asked for while it is not made, and while another
  // thread makes it. Counts them.
  const LaneGame* lanes_if_worth_it() const;
  // The same as `lanes`, but null while another thread makes it: for who cannot wait.
  const LaneGame* lanes_unless_being_made() const;
  // Why `lanes` gave null; never empty then.
  const Diagnostics& lanes_fault() const;

  Diagnostic too_large(const logic::LimitExceeded& limit) const;
  // Why a term can be no fluent of the game, if so: a variable in it, or a name that no rule
  // makes fluents of.
  std::optional<Diagnostic> fault_in_fluent(const Term& fluent) const;
  // What the rules can ever make of terms; worked out at the first call.
  const KnownTerms& known_terms() const;

 private:
  friend class Lease;
  friend class GameAccess;
  void sample_waiting_moves() const;
  const LaneGame* made_lanes() const;

  std::shared_ptr<const logic::Program> program_;
  GameLimits limits_;
  Diagnostics findings_;
  std::vector<rules::RelationId> also_;
  std::vector<Role> roles_;
  absl::flat_hash_set<std::pair<rules::SymbolId, std::uint32_t>> fluent_names_;
  bool any_fluent_ = false;  // a rule makes fluents by a variable, so any name may be one

  mutable std::mutex pool_mutex_;
  mutable std::vector<std::unique_ptr<PositionEvaluator>> pool_;

  mutable std::atomic<int> positions_before_lanes_ = 0;
  mutable std::atomic<bool> lanes_made_ = false;
  mutable std::atomic<bool> lanes_being_made_ = false;
  mutable std::once_flag lanes_once_;
  mutable std::shared_ptr<const LaneGame> lanes_;
  mutable Diagnostics lanes_fault_;

  mutable std::once_flag known_terms_once_;
  mutable std::shared_ptr<const KnownTerms> known_terms_;

  mutable std::once_flag waiting_once_;
  mutable std::vector<absl::flat_hash_set<TermId>> waiting_;  // by role
};

// The game of a description that has been found right.
Result<Game> game_of(std::shared_ptr<const rules::Description> description,
                     const GameLimits& limits, Diagnostics findings,
                     std::vector<rules::RelationId> also = {});

// A game with further rules behind its own, which may use what it says; their relations are those
// that the circuit is asked for too. Fails with what is wrong in the further rules; what looks like
// a slip there are the findings of the new game. Terms have the numbers that they have in `game`.
Result<Game> game_with(const Game& game, const std::vector<syntax::Source>& further);

// The door for the project's own rooms from public handles to what stands behind them.
class GameAccess {
 public:
  static const std::shared_ptr<const GameCore>& core(const Game& game) { return game.core_; }
  static const PositionState& state(const Position& position) { return *position.state_; }
  static Position position(std::shared_ptr<const PositionState> state) {
    return Position(std::move(state));
  }
  static TermId id(const Move& move) { return TermId{move.id_}; }
  static const GameCore* owner(const Move& move) { return move.core_.get(); }
  static Role role(std::size_t index, std::string name) { return Role(index, std::move(name)); }
  static Move move(const Game& game, TermId id) {
    return Move(game.core_, static_cast<std::uint32_t>(id));
  }
  static Game game(std::shared_ptr<const GameCore> core, Position initial) {
    return Game(std::move(core), std::move(initial));
  }
};

}  // namespace orchard
