#include "orchard/view.hpp"

#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>
#include <variant>

#include "base/interruption.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/sight/possible_pasts.hpp"
#include "explore/sight/told_position.hpp"
#include "game/core.hpp"
#include "game/lane_evaluator.hpp"
#include "game/row_bits.hpp"
#include "game/step_batch.hpp"
#include "orchard/random.hpp"

namespace orchard {
namespace {

using Ids = std::vector<std::uint32_t>;

Ids ids_of(const std::vector<TermId>& terms) {
  Ids ids;
  ids.reserve(terms.size());
  for (const TermId term : terms) ids.push_back(static_cast<std::uint32_t>(term));
  return ids;
}

std::vector<TermId> terms_of(const Ids& ids) {
  std::vector<TermId> terms;
  terms.reserve(ids.size());
  for (const std::uint32_t id : ids) terms.push_back(TermId{id});
  return terms;
}

Ids ids_of_row(const LaneGame& game, std::span<const std::uint64_t> row) {
  const auto& fluents = game.ground().fluents();
  std::vector<std::uint32_t> numbers;
  set_bits(row.data(), 0, fluents.size(), numbers);
  Ids ids;
  for (const std::uint32_t number : numbers) {
    ids.push_back(static_cast<std::uint32_t>(fluents[number].term));
  }
  std::ranges::sort(ids);
  return ids;
}

// Calls visit(joint) for every joint move in which one role's move is given.
template <class Move, class Visit>
bool for_each_joint(const std::vector<std::vector<Move>>& legal, std::size_t role, Move own,
                    Visit&& visit) {
  std::vector<Move> joint(legal.size());
  std::vector<std::size_t> choice(legal.size(), 0);
  for (std::size_t r = 0; r < legal.size(); ++r) {
    if (legal[r].empty()) return true;
    joint[r] = r == role ? own : legal[r].front();
  }
  while (true) {
    if (!visit(joint)) return false;
    std::size_t r = 0;
    for (; r < legal.size(); ++r) {
      if (r == role) continue;
      choice[r] = choice[r] + 1 == legal[r].size() ? 0 : choice[r] + 1;
      joint[r] = legal[r][choice[r]];
      if (choice[r] != 0) break;
    }
    if (r == legal.size()) return true;
  }
}

// Of what a role sees, by number, ascending; none if something was not foreseen.
std::optional<std::vector<std::uint32_t>> percept_numbers(const LaneGame& game, std::size_t role,
                                                          const std::vector<Term>& seen) {
  std::vector<std::uint32_t> numbers;
  const auto& percepts = game.ground().percepts()[role];
  for (const Term& one : seen) {
    const TermId id = game.core().terms().add(one);
    const auto at = std::ranges::find(percepts, id, &ground::GroundProgram::Value::term);
    if (at == percepts.end()) return std::nullopt;
    numbers.push_back(static_cast<std::uint32_t>(at - percepts.begin()));
  }
  std::ranges::sort(numbers);
  return numbers;
}

}  // namespace

View::View(const Game& game, Role role, std::optional<Position> start, std::size_t most_positions)
    : game_(game), role_(std::move(role)), most_positions_(most_positions) {
  start_ = ids_of(GameAccess::state(start ? *start : game.initial()).fluents());
  now_ = start_;
  positions_.push_back(start_);
}

Diagnostics View::advance(const Position& position, const JointMove& joint) {
  const auto next = game_.next(position, joint);
  if (!next) return next.diagnostics();
  auto percepts = game_.percepts(position, joint, role_);
  if (!percepts) return percepts.diagnostics();
  Step step{joint[role_].term(), std::move(percepts).value(), {}, game_.to_move(*next)};
  for (const Move& move : game_.legal(*next, role_)) step.legal.push_back(move.term());
  steps_.push_back(std::move(step));
  if (!game_.has_hidden_information()) now_ = ids_of(GameAccess::state(*next).fluents());
  return {};
}

Diagnostics View::hear(const Term& own_move, std::vector<Term> percepts,
                       std::optional<double> most_seconds) {
  steps_.push_back({own_move, std::move(percepts), {}, {}});
  constexpr std::size_t enough = 200;  // positions
  std::vector<Position> fitting;
  try {
    Budget budget;
    budget.seconds = most_seconds;
    const Interruption interruption(budget);
    fitting = some(enough, 1);
  } catch (const Interrupted&) {
    exact_ = false;
    positions_.clear();
    pasts_.reset();
    deduced_steps_ = steps_.size();
  }
  end_if_interrupted();  // by others
  if (fitting.empty()) {
    unheard_.insert(steps_.size() - 1);
    Step& step = steps_.back();
    if (const explore::ToldPosition* const told = listen()) {
      const GameCore& core = *GameAccess::core(game_);
      const auto& moves = core.lanes()->ground().moves()[role_.index()];
      for (const std::uint32_t number : told->legal_moves()) {
        step.legal.push_back(core.terms().term(moves[number].term));
      }
      std::ranges::sort(step.legal);
      step.to_move = game_.roles();
    }
    if (!step.legal.empty()) return {};
    Diagnostics faults;
    faults.add(plain_error("not-possible",
                           fmt::format("nothing that the rules allow fits what {} perceived at ply "
                                       "{}",
                                       role_.name(), steps_.size()),
                           "the percepts must be those of the same rules"));
    return faults;
  }
  Step& step = steps_.back();
  // A role should have the same legal moves wherever it may be. Where rules are otherwise, those
  // are taken that are legal in the most positions.
  std::map<Move, std::size_t> legal_in;
  std::size_t most = 0;
  std::set<Role> may_move;
  for (const Position& position : fitting) {
    for (const Role& role : game_.to_move(position)) may_move.insert(role);
    for (const Move& move : game_.legal(position, role_)) {
      most = std::max(most, ++legal_in[move]);
    }
  }
  for (const auto& [move, positions] : legal_in) {
    if (positions == most) step.legal.push_back(move.term());
  }
  const bool all = fitting.size() < enough && exact_;
  for (const Role& role : game_.roles()) {
    if (may_move.contains(role) || (!all && !may_move.empty())) step.to_move.push_back(role);
  }
  return {};
}

// What is told, up to the last step; null without hidden information, or without a circuit.
const explore::ToldPosition* View::listen() const {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game =
      game_.has_hidden_information() ? core.lanes_unless_being_made() : nullptr;
  const auto bits = game == nullptr ? std::nullopt : game->bits(terms_of(start_));
  if (!bits) return nullptr;
  const std::size_t role = role_.index();
  if (told_ && told_steps_ == steps_.size()) return told_.get();
  auto told = told_ ? std::make_shared<explore::ToldPosition>(*told_)
                    : std::make_shared<explore::ToldPosition>(*game, role, *bits, exclusive_);
  for (; told_steps_ < steps_.size(); ++told_steps_) {
    const Step& step = steps_[told_steps_];
    const auto own = game->move_number(role, core.terms().add(step.own_move));
    const auto sees = percept_numbers(*game, role, step.percepts);
    std::vector<std::uint32_t> legal;
    for (const Term& move : step.legal) {
      const auto number = game->move_number(role, core.terms().add(move));
      if (number) legal.push_back(*number);
    }
    if (!own || !sees || legal.size() != step.legal.size()) return nullptr;
    std::ranges::sort(legal);
    const bool over = step.to_move.empty();
    std::vector<bool> to_move(game_.roles().size(), over);  // at an end that says nothing
    for (const Role& one : step.to_move) to_move[one.index()] = true;
    told->advance({*own, *sees, legal, to_move, over, !unheard_.contains(told_steps_)});
  }
  told_ = std::move(told);
  return told_.get();
}

void View::exclude(const std::vector<std::vector<Term>>& groups) {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game =
      game_.has_hidden_information() ? core.lanes_unless_being_made() : nullptr;
  if (game == nullptr) return;
  for (const std::vector<Term>& group : groups) {
    Ids& numbers = exclusive_.emplace_back();
    for (const Term& fluent : group) {
      const auto number = game->fluent_number(core.terms().add(fluent));
      if (number) numbers.push_back(*number);
    }
  }
}

bool View::tells() const {
  return !game_.has_hidden_information() || listen() != nullptr;
}

template <class Wanted>
std::vector<Term> View::fluents_where(Wanted&& wanted) const {
  std::vector<Term> result;
  const explore::ToldPosition* const told = listen();
  if (told == nullptr) return result;
  const GameCore& core = *GameAccess::core(game_);
  const auto& fluents = core.lanes()->ground().fluents();
  for (std::size_t number = 0; number < fluents.size(); ++number) {
    if (wanted(*told, number)) result.push_back(core.terms().term(fluents[number].term));
  }
  return result;
}

std::vector<Term> View::told() const {
  if (!game_.has_hidden_information()) return known();
  return fluents_where([](const auto& told, std::size_t number) {
    return told.value(number) == explore::Truth::yes;
  });
}

std::vector<Term> View::untold() const {
  return fluents_where([](const auto& told, std::size_t number) {
    return told.value(number) == explore::Truth::open;
  });
}

std::vector<View::Memory> View::memories() const {
  std::vector<Memory> result;
  fluents_where([&](const explore::ToldPosition& told, std::size_t number) {
    if (told.last_known(number) < 0) return false;
    const GameCore& core = *GameAccess::core(game_);
    result.push_back({core.terms().term(core.lanes()->ground().fluents()[number].term),
                      static_cast<std::uint64_t>(told.last_known(number))});
    return false;
  });
  return result;
}

bool View::exact() const {
  deduce();
  return exact_;
}

std::size_t View::positions() const {
  deduce();
  return positions_.size();
}

// The positions that fit, up to the last step.
void View::deduce() const {
  if (!game_.has_hidden_information()) {
    positions_ = {now_};
    return;
  }
  for (; deduced_steps_ < steps_.size(); ++deduced_steps_) {
    const Step& last = steps_[deduced_steps_];
    if (!exact_) {
      if (!positions_.empty() && !sample(last)) positions_.clear();
    } else if (!expand(last)) {
      pasts_.reset();  // of a try that was interrupted
      bool found = true;
      for (std::size_t at = 0; at <= deduced_steps_; ++at) found = found && sample(steps_[at]);
      exact_ = false;
      if (!found) positions_.clear();
    }
  }
}

// A ply more of the pasts that are sampled. False if none fits, or the circuit cannot tell.
bool View::sample(const Step& last) const {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game = core.lanes_unless_being_made();
  if (game == nullptr) return false;
  // On a copy: it may be interrupted, and a copy of this view may have the same.
  std::shared_ptr<explore::PossiblePasts> pasts;
  if (pasts_) {
    pasts = std::make_shared<explore::PossiblePasts>(*pasts_);
  } else {
    const auto bits = game->bits(terms_of(start_));
    if (!bits) return false;
    constexpr std::size_t enough = 1000;
    pasts = std::make_shared<explore::PossiblePasts>(*game, role_.index(), game->row(*bits),
                                                     std::min(enough, most_positions_));
  }
  const auto own = game->move_number(role_.index(), core.terms().add(last.own_move));
  if (!own) return false;
  auto sees = percept_numbers(*game, role_.index(), last.percepts);
  if (!sees) return false;
  const explore::PossiblePasts::Step step{*own, std::move(*sees)};
  // The same view for the same line of play.
  Random random(deduced_steps_ + 1);
  if (!pasts->go_on(step, random)) return false;
  pasts_ = std::move(pasts);
  positions_.clear();
  for (const auto& row : pasts_->rows()) {
    positions_.push_back(ids_of_row(*game, row));
  }
  return true;
}

// The same on the circuit, 512 joint moves at once. None if it cannot answer for all of this.
std::optional<bool> View::expand_on_lanes(TermId own, const std::vector<TermId>& seen) const {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game = core.lanes_unless_being_made();
  if (game == nullptr) return std::nullopt;
  const std::size_t role = role_.index();
  const auto own_number = game->move_number(role, own);
  std::vector<std::uint32_t> wanted;  // numbers of percepts, ascending
  const auto& percepts = game->ground().percepts()[role];
  for (std::uint32_t number = 0; number < percepts.size(); ++number) {
    if (std::ranges::binary_search(seen, percepts[number].term)) wanted.push_back(number);
  }
  if (!own_number || wanted.size() != seen.size()) return std::nullopt;

  LaneEvaluator here(*game);
  StepBatch<std::monostate> steps(*game);
  const std::size_t words = here.words();
  absl::flat_hash_set<Ids> fitting;
  std::vector<std::uint64_t> rows;
  std::size_t tried = 0;
  InterruptionPoint interruption;
  std::vector<std::uint32_t> sees;
  const auto take = [&](const LaneEvaluator& made, std::span<const std::monostate> all) {
    for (std::size_t at = 0; at < all.size(); ++at) {
      made.percepts(at, role, sees);
      if (sees == wanted) fitting.insert(ids_of_row(*game, made.next(at)));
    }
    return fitting.size() <= most_positions_;
  };
  std::vector<std::vector<std::uint32_t>> legal(game_.roles().size());
  bool known = true;  // all that the positions hold
  const bool few =
      circuit::each_piece(positions_.size(), [&](std::size_t first, std::size_t count) {
        rows.clear();
        for (std::size_t at = 0; at < count; ++at) {
          const auto bits = game->bits(terms_of(positions_[first + at]));
          known = bits.has_value();
          if (!known) return false;
          const auto row = game->row(*bits);
          rows.insert(rows.end(), row.begin(), row.end());
        }
        here.set_positions(rows, count);
        for (std::size_t at = 0; at < count; ++at) {
          if (here.terminal(at) || !here.is_legal(at, role, *own_number)) continue;
          for (std::size_t r = 0; r < legal.size(); ++r) here.legal(at, r, legal[r]);
          const bool all = for_each_joint(legal, role, *own_number, [&](const auto& joint) {
            interruption.pass();
            if (++tried > 20 * most_positions_) return false;
            return steps.add(std::span(rows).subspan(at * words, words), joint, {}, take);
          });
          if (!all) return false;
        }
        return true;
      });
  if (!known) return std::nullopt;
  if (!few || !steps.finish(take)) return false;
  positions_.assign(fitting.begin(), fitting.end());
  return true;
}

// False if more positions fit than are tracked, or the rules cost too much in one of them.
bool View::expand(const Step& last) const {
  const GameCore& core = *GameAccess::core(game_);
  const TermId own_id = core.terms().add(last.own_move);
  std::vector<TermId> seen;
  for (const Term& percept : last.percepts) seen.push_back(core.terms().add(percept));
  std::ranges::sort(seen);
  constexpr std::size_t worth_lanes = 8;
  if (positions_.size() >= worth_lanes) {
    if (const auto done = expand_on_lanes(own_id, seen)) return *done;
  }
  absl::flat_hash_set<Ids> fitting;
  // Joint moves that lead to few positions must not take for ever either.
  std::size_t steps_left = 20 * most_positions_;
  try {
    GameCore::Lease evaluator(core);
    for (const Ids& ids : positions_) {
      evaluator->set_position(terms_of(ids));
      if (evaluator->terminal()) continue;  // the game went on, so it was not this one
      const std::vector<std::vector<TermId>> legal = evaluator->legal();
      const std::vector<TermId>& own_legal = legal[role_.index()];
      if (std::ranges::find(own_legal, own_id) == own_legal.end()) continue;
      const bool all = for_each_joint(legal, role_.index(), own_id, [&](const auto& joint) {
        end_if_interrupted();
        evaluator->set_joint_move(joint);
        std::vector<TermId> sees = evaluator->percepts()[role_.index()];
        std::ranges::sort(sees);
        if (sees == seen) fitting.insert(ids_of(evaluator->next()));
        return fitting.size() <= most_positions_ && steps_left-- > 0;
      });
      if (!all) return false;
    }
  } catch (const logic::LimitExceeded&) {
    return false;
  }
  positions_.assign(fitting.begin(), fitting.end());
  return true;
}

std::vector<Position> View::some(std::size_t most, std::uint64_t seed) const {
  deduce();
  std::vector<Position> result;
  Random random(seed);
  // A few of many by Floyd's choice of a random subset (1987), in the order of the positions.
  std::set<std::size_t> chosen;
  const std::size_t all = positions_.size();
  for (std::size_t last = all - std::min(most, all); last < all; ++last) {
    const std::size_t draw = random.below(last + 1);
    chosen.insert(chosen.contains(draw) ? last : draw);
  }
  // The set they come from has no order of its own.
  std::vector<const Ids*> sorted;
  for (const Ids& ids : positions_) sorted.push_back(&ids);
  std::ranges::sort(sorted, [](const Ids* a, const Ids* b) { return *a < *b; });
  for (const std::size_t number : chosen) {
    std::vector<Term> fluents;
    for (const std::uint32_t id : *sorted[number]) {
      fluents.push_back(GameAccess::core(game_)->terms().term(TermId{id}));
    }
    if (const auto position = game_.position(fluents)) result.push_back(*position);
  }
  return result;
}

std::vector<Term> View::known() const {
  deduce();
  return exact_ ? terms_of_ids(common()) : std::vector<Term>();
}

std::vector<Term> View::possible() const {
  deduce();
  if (!exact_) return {};
  absl::flat_hash_set<std::uint32_t> all;
  for (const Ids& ids : positions_) all.insert(ids.begin(), ids.end());
  for (const std::uint32_t id : common()) all.erase(id);
  return terms_of_ids(Ids(all.begin(), all.end()));
}

// What all positions that fit have in common.
View::Ids View::common() const {
  if (positions_.empty()) return {};
  Ids common = positions_.front();
  for (const Ids& ids : positions_) {
    Ids both;
    std::ranges::set_intersection(common, ids, std::back_inserter(both));
    common = std::move(both);
  }
  return common;
}

std::vector<Term> View::terms_of_ids(const Ids& ids) const {
  std::vector<Term> result;
  const GameCore& core = *GameAccess::core(game_);
  for (const std::uint32_t id : ids) result.push_back(core.terms().term(TermId{id}));
  std::ranges::sort(result);
  return result;
}

}  // namespace orchard
