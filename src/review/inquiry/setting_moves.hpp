// Moves that set a value to what they name, as (walk 3) puts the walker on pole 3, and where one of
// them sets what is so already.
#pragma once

#include <optional>
#include <string>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

struct IdleSetting {
  explore::StateSpace::Number position = 0;
  std::size_t step = 0;
  std::size_t role = 0;
  std::string move;
  std::string fluent;
};

// Which moves set which values is told from random games: after every step of such a move some
// fluent of a name has the move's argument at a place. Then the first explored positions are looked
// through for a legal one whose value is there already and which changes no fluent of that name.
// Only values that legal moves depend on count: to name the same price again is no fault.
std::optional<IdleSetting> idle_setting(Exploration& exploration);

}  // namespace orchard::review
