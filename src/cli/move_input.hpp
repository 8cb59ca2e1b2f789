// What a person typed, understood as a move.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/game.hpp"

namespace orchard::cli {

// Lower case, single spaces, none beside parentheses or at the ends.
std::string tidied(std::string_view line);

struct TypedMove {
  std::optional<Move> move;
  std::vector<Move> candidates;  // if it is the beginning of several
  bool by_number = false;        // a number without # was typed
};

// A move of the list by its term, with or without the outer parentheses, by its number from 1
// (5 or #5), or by a beginning of its term that no other has: whole names and numbers, so that nothing else is
// played than what was typed. `line` is tidied.
TypedMove typed_move(std::string_view line, const std::vector<Move>& legal,
                     std::size_t first_number = 1);
// The same, but only if the whole term was typed.
std::optional<Move> whole_move(std::string_view line, const std::vector<Move>& legal);

}  // namespace orchard::cli
