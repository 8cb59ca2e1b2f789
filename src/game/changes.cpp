#include "game/changes.hpp"

namespace orchard {

Result<Changes> changes_of(const Game& game, const Position& position, const Role& role,
                           const Move& move) {
  const auto joint = game.joint_move(position, role, move);
  if (!joint) return joint.diagnostics();
  const auto next = game.next(position, *joint);
  if (!next) return next.diagnostics();
  Changes result;
  for (const Term& fluent : position.fluents()) {
    if (!next->holds(fluent)) result.gone.push_back(fluent);
  }
  for (const Term& fluent : next->fluents()) {
    if (!position.holds(fluent)) result.come.push_back(fluent);
  }
  return result;
}

}  // namespace orchard
