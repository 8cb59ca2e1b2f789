// What holds of a relation in a position, row by row.
#pragma once

#include <string_view>
#include <vector>

#include "orchard/game.hpp"

namespace orchard::editing {

struct RelationRows {
  std::vector<std::vector<Term>> rows;
  bool all = true;  // false if there are more than were asked for
};

// Of a relation of the rules' own, by name and number of arguments. Fails with `no-relation`, and
// with the limits of the evaluator. The reference evaluator is asked.
Result<RelationRows> rows_of(const Game& game, const Position& position, std::string_view name,
                             std::uint32_t arity, std::size_t most);

}  // namespace orchard::editing
