#include "solve/explored_positions.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <limits>
#include <map>
#include <new>

#include "base/interruption.hpp"
#include "explore/sampling/goal_shares.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "explore/space/row_index.hpp"
#include "game/core.hpp"
#include "game/position_evaluator.hpp"
#include "solve/kept_solution.hpp"

namespace orchard::solve_inner {
namespace {

using explore::Kind;
using explore::StateSpace;

class ByCircuit : public ExploredPositions {
 public:
  explicit ByCircuit(const LaneGame& lanes) : space_(lanes), shares_(lanes) {}

  Result<Ending> explore(const Position& from, const Budget& budget, unsigned threads) override {
    const LaneGame& lanes = space_.game();
    const auto bits = lanes.bits(GameAccess::state(from).fluents());
    if (bits) return space_.explore(lanes.row(*bits), budget, threads);
    return plain_error("unforeseen-fluent",
                       "the position holds a fluent that no play from the start can lead to",
                       "begin at a position that can be reached");
  }

  PositionGraph graph() const override {
    PositionGraph result{
        space_.roles(),       space_.size(),      space_.kinds(),        space_.all_choices(),
        space_.first_steps(), space_.all_steps(), space_.all_outcomes(), {}};
    for (const StateSpace::Outcome& outcome : space_.outcomes()) {
      std::vector<float>& shares = result.shares.emplace_back();
      for (std::size_t role = 0; role < space_.roles(); ++role) {
        shares.push_back(outcome[role].size() == 1 ? shares_.values(role)[outcome[role][0]]
                                                   : GoalShares::undecided);
      }
    }
    return result;
  }

  std::optional<std::uint32_t> number(const Position& position) const override {
    const LaneGame& lanes = space_.game();
    const auto bits = lanes.bits(GameAccess::state(position).fluents());
    return bits ? space_.find(lanes.row(*bits)) : std::nullopt;
  }

  Diagnostics keep(const std::string& file, const SolvedValues& known,
                   const SolutionSource::Facts& facts) const override {
    return KeptSolution::write(file, space_, known, facts);
  }

 private:
  StateSpace space_;
  GoalShares shares_;
};

// Positions are kept as their fluents, behind one another: an object for each would take longer to
// free than to find.
class ByEvaluator : public ExploredPositions {
 public:
  explicit ByEvaluator(const Game& game) : core_(*GameAccess::core(game)), game_(game) {}

  Result<Ending> explore(const Position& from, const Budget& budget, unsigned threads) override;
  PositionGraph graph() const override {
    return {core_.roles().size(), found(), kinds_,    choices_,
            first_steps_,         steps_,  outcomes_, shares_};
  }
  std::optional<std::uint32_t> number(const Position& position) const override {
    const auto fluents = GameAccess::state(position).fluents();
    return known(fluents, short_hash(fluents));
  }
  std::string remark() const override { return remark_; }
  Diagnostics keep(const std::string&, const SolvedValues&,
                   const SolutionSource::Facts&) const override {
    Diagnostics faults;
    faults.add(plain_error("nothing-to-keep",
                           "a kept solution names positions by the fluents of the circuit, and "
                           "these rules have no circuit",
                           "omit --keep"));
    return faults;
  }

 private:
  using TermId = rules::TermId;
  using Fluents = std::span<const TermId>;

  static std::uint32_t short_hash(Fluents fluents) {
    constexpr unsigned upper_half = 32;
    return static_cast<std::uint32_t>(std::uint64_t{hash_of(fluents)} >> upper_half);
  }
  std::size_t found() const { return first_fluents_.size() - 1; }
  Fluents fluents(std::size_t number) const {
    return Fluents(fluents_).subspan(first_fluents_[number],
                                     first_fluents_[number + 1] - first_fluents_[number]);
  }
  std::optional<std::uint32_t> known(Fluents sought, std::uint32_t hash) const {
    return numbers_.find(
        hash, [&](std::uint32_t number) { return std::ranges::equal(fluents(number), sought); });
  }
  std::uint32_t add(Fluents fluents);
  std::uint64_t bytes() const;
  void look_at(std::size_t number, PositionEvaluator& evaluator);
  std::uint16_t outcome(const std::vector<std::vector<TermId>>& goals);

  const GameCore& core_;
  const Game game_;  // keeps it alive
  std::vector<TermId> fluents_;
  std::vector<std::uint64_t> first_fluents_{0};
  explore::RowIndex numbers_;
  std::vector<Kind> kinds_;
  std::vector<std::uint16_t> choices_;
  std::vector<std::uint64_t> first_steps_{0};
  std::vector<std::uint32_t> steps_;
  std::vector<std::uint16_t> outcomes_;
  std::vector<std::vector<float>> shares_;
  std::map<std::vector<float>, std::uint16_t> outcome_numbers_;
  bool too_wide_ = false;  // more moves of a role, or more outcomes, than are counted
  std::string remark_;
  std::uint64_t depth_ = 0;  // of the position that is looked at
  std::size_t end_of_depth_ = 1;
};

std::uint32_t ByEvaluator::add(Fluents fluents) {
  const std::uint32_t hash = short_hash(fluents);
  if (const auto number = known(fluents, hash)) return *number;
  const auto number = static_cast<std::uint32_t>(found());
  fluents_.insert(fluents_.end(), fluents.begin(), fluents.end());
  first_fluents_.push_back(fluents_.size());
  numbers_.add(hash, number);
  return number;
}

std::uint64_t ByEvaluator::bytes() const {
  return fluents_.capacity() * sizeof(TermId) + steps_.capacity() * sizeof(steps_[0]) +
         (first_fluents_.capacity() + first_steps_.capacity()) * sizeof(std::uint64_t) +
         (choices_.capacity() + outcomes_.capacity()) * sizeof(std::uint16_t) + numbers_.bytes();
}

std::uint16_t ByEvaluator::outcome(const std::vector<std::vector<TermId>>& goals) {
  std::vector<float> shares;
  for (std::size_t role = 0; role < goals.size(); ++role) {
    std::vector<Term> values;
    for (const TermId goal : goals[role]) {
      values.push_back(core_.terms().term(goal));
      if (remark_.empty()) remark_ = remark_on_goal(core_.roles()[role], values.back());
    }
    shares.push_back(GoalShares::of(values));
  }
  const auto [known, is_new] =
      outcome_numbers_.try_emplace(shares, static_cast<std::uint16_t>(shares_.size()));
  if (is_new) shares_.push_back(std::move(shares));
  too_wide_ = too_wide_ || shares_.size() >= StateSpace::no_outcome;
  return known->second;
}

// Adds all of it, or nothing but positions that were found, if it is interrupted.
void ByEvaluator::look_at(std::size_t number, PositionEvaluator& evaluator) {
  const std::vector<TermId> here(fluents(number).begin(), fluents(number).end());
  evaluator.set_position(here);
  const bool is_end = evaluator.terminal();
  const auto legal =
      is_end ? std::vector<std::vector<TermId>>(core_.roles().size()) : evaluator.legal();
  const bool is_stuck = std::ranges::any_of(legal, &std::vector<TermId>::empty);
  const Kind kind = is_end ? Kind::terminal : is_stuck ? Kind::stuck : Kind::open;
  std::vector<std::uint32_t> steps;
  if (kind == Kind::open) {
    explore::each_joint_move(legal, [&](const std::vector<TermId>& joint) {
      end_if_interrupted();
      evaluator.set_joint_move(joint);
      steps.push_back(add(evaluator.next()));
    });
  }
  outcomes_.push_back(kind == Kind::open ? StateSpace::no_outcome : outcome(evaluator.goals()));
  for (const auto& moves : legal) {
    constexpr std::size_t most = std::numeric_limits<std::uint16_t>::max();
    too_wide_ = too_wide_ || moves.size() > most;
    choices_.push_back(kind == Kind::open ? static_cast<std::uint16_t>(moves.size()) : 0);
  }
  kinds_.push_back(kind);
  steps_.insert(steps_.end(), steps.begin(), steps.end());
  first_steps_.push_back(steps_.size());
}

Result<Ending> ByEvaluator::explore(const Position& from, const Budget& budget, unsigned) {
  if (budget.checkpoint) {
    return plain_error("nothing-to-save",
                       "these rules have no circuit, and what the evaluator finds cannot be saved "
                       "in a checkpoint",
                       "omit --checkpoint");
  }
  try {
    const Interruption interruption(budget);
    Stopwatch clock(budget);
    GameCore::Lease evaluator(core_);
    add(GameAccess::state(from).fluents());
    for (; kinds_.size() < found(); look_at(kinds_.size(), *evaluator)) {
      if (kinds_.size() == end_of_depth_) {
        ++depth_;
        end_of_depth_ = found();
      }
      if (const auto ending = clock.check(found(), depth_, bytes())) return *ending;
      if (too_wide_) return Ending::memory;
    }
    return Ending::complete;
  } catch (const Interrupted& interrupted) {
    return interrupted.ending;
  } catch (const logic::LimitExceeded& limit) {
    return core_.too_large(limit);
  } catch (const std::bad_alloc&) {
    return Ending::memory;
  }
}

}  // namespace

std::string remark_on_goal(const Role& role, const Term& goal) {
  const auto number = goal.number();
  if (number && *number >= 0 && *number <= 100) return {};
  return fmt::format("{} has a goal of {}: goals beyond 0 to 100 count as the nearest of these",
                     role.name(), goal.to_string());
}

std::unique_ptr<ExploredPositions> explored_by_circuit(const LaneGame& lanes) {
  return std::make_unique<ByCircuit>(lanes);
}

std::unique_ptr<ExploredPositions> explored_by_evaluator(const Game& game) {
  return std::make_unique<ByEvaluator>(game);
}

}  // namespace orchard::solve_inner
