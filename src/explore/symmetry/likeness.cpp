#include "explore/symmetry/likeness.hpp"

#include <algorithm>

#include "explore/symmetry/symmetry.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

Likeness::Likeness(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  const auto whole = LaneGame::instantiate(core, false, ground::Splitting::none());
  if (!whole) return;
  const ground::GroundProgram& ground = **whole;
  for (const auto& fluent : ground.fluents()) {
    numbers_[fluent.term] = static_cast<std::uint32_t>(fluents_.size());
    fluents_.push_back(fluent.term);
  }
  constexpr std::size_t most = 64;
  SymmetryFinder(ground).each_of_start([&](const Automorphism& one) {
    bool renames = false;
    for (std::uint32_t role = 0; role < one.roles.size(); ++role) {
      if (one.roles[role] != role) return true;
    }
    Renaming renaming{one.fluents, {}};
    for (std::uint32_t f = 0; f < one.fluents.size(); ++f) renames = renames || one.fluents[f] != f;
    for (std::size_t role = 0; role < one.moves.size(); ++role) {
      auto& moves = renaming.moves.emplace_back();
      for (std::uint32_t m = 0; m < one.moves[role].size(); ++m) {
        const std::uint32_t image = one.moves[role][m];
        moves[ground.moves()[role][m].term] = ground.moves()[role][image].term;
        renames = renames || image != m;
      }
    }
    if (renames) renamings_.push_back(std::move(renaming));
    return renamings_.size() < most;
  });
}

Likeness::Alike Likeness::standing_for(const Game& game, const Position& position, const Role& role,
                                       const std::vector<Move>& moves) const {
  Alike result{position, moves};
  std::vector<std::uint32_t> own;
  for (const rules::TermId fluent : GameAccess::state(position).fluents()) {
    const auto number = numbers_.find(fluent);
    if (number == numbers_.end()) return result;
    own.push_back(number->second);
  }
  std::ranges::sort(own);
  std::vector<std::uint32_t> least = own;
  std::vector<const Renaming*> by{nullptr};  // that make the position the least one; null: as it is
  std::vector<std::uint32_t> renamed;
  for (const Renaming& renaming : renamings_) {
    renamed.clear();
    for (const std::uint32_t fluent : own) renamed.push_back(renaming.fluents[fluent]);
    std::ranges::sort(renamed);
    if (renamed > least) continue;
    if (renamed < least) by.clear();
    least = renamed;
    by.push_back(&renaming);
  }
  std::vector<Term> fluents;
  const GameCore& core = *GameAccess::core(game);
  for (const std::uint32_t fluent : least) fluents.push_back(core.terms().term(fluents_[fluent]));
  const auto other = game.position(fluents);
  if (!other) return result;
  result.position = *other;
  // Where several renamings lead there, moves that they make each other are alike too.
  for (Move& move : result.moves) {
    std::optional<Move> first;
    for (const Renaming* const renaming : by) {
      std::optional<Move> image = move;
      if (renaming != nullptr) {
        const auto found = renaming->moves[role.index()].find(GameAccess::id(move));
        if (found == renaming->moves[role.index()].end()) continue;
        image = GameAccess::move(game, found->second);
      }
      if (!first || image->term() < first->term()) first = image;
    }
    if (!first) return {position, moves};
    move = *first;
  }
  return result;
}

}  // namespace orchard::explore
