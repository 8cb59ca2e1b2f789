#include "orchard/view.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>

#include "game/core.hpp"

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

// Calls visit(joint) for every joint move in which one role's move is given.
template <class Visit>
bool for_each_joint(const std::vector<std::vector<TermId>>& legal, std::size_t role, TermId own,
                    Visit&& visit) {
  std::vector<TermId> joint(legal.size());
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
  positions_.push_back(ids_of(GameAccess::state(start ? *start : game.initial()).fluents));
}

Diagnostics View::advance(const Position& position, const JointMove& joint) {
  const auto next = game_.next(position, joint);
  if (!next) return next.diagnostics();
  const auto percepts = game_.percepts(position, joint, role_);
  if (!percepts) return percepts.diagnostics();
  const Move& own = joint[role_];
  steps_.push_back({own.term(), *percepts});
  if (!game_.has_hidden_information()) {
    positions_ = {ids_of(GameAccess::state(*next).fluents)};
  } else if (exact_ && !expand(own, *percepts)) {
    exact_ = false;
    positions_.clear();
  }
  return {};
}

// False if more positions fit than are tracked, or the rules cost too much in one of them.
bool View::expand(const Move& own, const std::vector<Term>& percepts) {
  const GameCore& core = *GameAccess::core(game_);
  const TermId own_id = core.terms().add(own.term());
  std::vector<TermId> seen;
  for (const Term& percept : percepts) seen.push_back(core.terms().add(percept));
  std::ranges::sort(seen);
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

std::vector<Term> View::known() const {
  std::vector<Term> result;
  if (positions_.empty()) return result;
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
