#include "orchard/view.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <set>
#include <variant>

#include "circuit/lanes/pieces.hpp"
#include "explore/sight/possible_pasts.hpp"
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

}  // namespace

View::View(const Game& game, Role role, std::optional<Position> start, std::size_t most_positions)
    : game_(game), role_(std::move(role)), most_positions_(most_positions) {
  start_ = ids_of(GameAccess::state(start ? *start : game.initial()).fluents());
  positions_.push_back(start_);
}

Diagnostics View::advance(const Position& position, const JointMove& joint) {
  const auto next = game_.next(position, joint);
  if (!next) return next.diagnostics();
  const auto percepts = game_.percepts(position, joint, role_);
  if (!percepts) return percepts.diagnostics();
  const Move& own = joint[role_];
  steps_.push_back({own.term(), *percepts});
  if (!game_.has_hidden_information()) {
    positions_ = {ids_of(GameAccess::state(*next).fluents())};
  } else if (!exact_) {
    if (!positions_.empty() && !sample(steps_.back())) positions_.clear();
  } else if (!expand(own, *percepts)) {
    exact_ = false;
    bool found = true;
    for (const Step& step : steps_) found = found && sample(step);
    if (!found) positions_.clear();
  }
  return {};
}

// A ply more of the pasts that are sampled. False if none fits, or the circuit cannot tell.
bool View::sample(const Step& last) {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game = core.lanes();
  if (game == nullptr) return false;
  if (!pasts_) {
    const auto bits = game->bits(terms_of(start_));
    if (!bits) return false;
    constexpr std::size_t enough = 1000;
    pasts_ = std::make_shared<explore::PossiblePasts>(*game, role_.index(), game->row(*bits),
                                                      std::min(enough, most_positions_));
  } else if (pasts_.use_count() > 1) {
    pasts_ = std::make_shared<explore::PossiblePasts>(*pasts_);  // a copy of this view has it too
  }
  const auto own = game->move_number(role_.index(), core.terms().add(last.own_move));
  if (!own) return false;
  explore::PossiblePasts::Step step{*own, {}};
  const auto& percepts = game->ground().percepts()[role_.index()];
  for (const Term& seen : last.percepts) {
    const TermId id = core.terms().add(seen);
    const auto at = std::ranges::find_if(percepts, [&](const auto& p) { return p.term == id; });
    if (at == percepts.end()) return false;
    step.sees.push_back(static_cast<std::uint32_t>(at - percepts.begin()));
  }
  std::ranges::sort(step.sees);
  // The same view for the same line of play.
  Random random(steps_.size());
  if (!pasts_->go_on(step, random)) return false;
  positions_.clear();
  for (const auto& row : pasts_->rows()) {
    positions_.push_back(ids_of_row(*game, row));
  }
  return true;
}

// The same on the circuit, 512 joint moves at once. None if it cannot answer for all of this.
std::optional<bool> View::expand_on_lanes(TermId own, const std::vector<TermId>& seen) {
  const GameCore& core = *GameAccess::core(game_);
  const LaneGame* const game = core.lanes();
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
  const bool few = circuit::each_piece(positions_.size(), [&](std::size_t first, std::size_t count) {
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
bool View::expand(const Move& own, const std::vector<Term>& percepts) {
  const GameCore& core = *GameAccess::core(game_);
  const TermId own_id = core.terms().add(own.term());
  std::vector<TermId> seen;
  for (const Term& percept : percepts) seen.push_back(core.terms().add(percept));
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
  std::vector<Term> result;
  if (!exact_ || positions_.empty()) return result;
  Ids common = positions_.front();
  for (const Ids& ids : positions_) {
    Ids both;
    std::ranges::set_intersection(common, ids, std::back_inserter(both));
    common = std::move(both);
  }
  const GameCore& core = *GameAccess::core(game_);
  for (const std::uint32_t id : common) result.push_back(core.terms().term(TermId{id}));
  std::ranges::sort(result);
  return result;
}

}  // namespace orchard
