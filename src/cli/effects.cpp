#include "cli/effects.hpp"

namespace orchard::cli {

std::string effect_of(const Game& game, const Position& position, const NumberedMove& move) {
  const auto joint = game.joint_move(position, move.role, move.move);
  if (!joint) return "depends on what the others do";
  const auto next = game.next(position, *joint);
  if (!next) return next.diagnostics().items().front().message;
  std::string text;
  for (const Term& fluent : position.fluents()) {
    if (!next->holds(fluent)) text += " -" + fluent.to_string();
  }
  for (const Term& fluent : next->fluents()) {
    if (!position.holds(fluent)) text += " +" + fluent.to_string();
  }
  return text.empty() ? "changes nothing" : text.substr(1);
}

}  // namespace orchard::cli
