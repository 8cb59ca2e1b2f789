// The form of a position: (position "name" (drawn "…") FLUENT…).
#pragma once

#include <optional>

#include "orchard/game.hpp"
#include "syntax/tree.hpp"

namespace orchard {

// What a form says, before it is made a position.
struct PositionForm {
  std::string name;
  std::vector<Term> fluents;
  std::optional<std::string> drawing;
  syntax::NodeIndex drawing_node = syntax::no_node;
};

// Mistakes go to `diagnostics`: not-a-term, bad-drawing, and, with `check_fluents`, unknown-fluent.
PositionForm read_position_form(const Game& game, const syntax::Tree& tree, syntax::NodeIndex form,
                                bool check_fluents, Diagnostics& diagnostics);

// The position of a form. What is wrong with a drawing is told with its place in the file.
Result<Position> position_of(const Game& game, const syntax::Tree& tree, const PositionForm& form,
                             const DrawingReader& reader);

}  // namespace orchard
