#include "cli/effects.hpp"

#include "game/changes.hpp"

namespace orchard::cli {

std::string effect_of(const Game& game, const Position& position, const NumberedMove& move) {
  if (!game.joint_move(position, move.role, move.move)) return "depends on what the others do";
  const auto changes = changes_of(game, position, move.role, move.move);
  if (!changes) return changes.diagnostics().items().front().message;
  std::string text;
  for (const Term& fluent : changes->gone) text += " -" + fluent.to_string();
  for (const Term& fluent : changes->come) text += " +" + fluent.to_string();
  return text.empty() ? "changes nothing" : text.substr(1);
}

}  // namespace orchard::cli
