// Values where positions come again: what can be forced in finitely many moves (retrograde
// analysis, Ströhlein 1970).
//
// For one role that chooses, or two with opposed interests that choose one at a time, without
// chance. For every value an end can have: from where can the first role force that much or more,
// and from where the second no more than that. Where both say the same, that is the value, whatever
// endless play would be worth; and so it is where one of them can force the best end that there is
// for it. Elsewhere neither can bring about an end that it would rather have, and best play goes on
// for ever. A role that alone has a say takes the best end it can reach.
//
// Positions that were not looked at are nobody's: what is forced without them is forced whatever
// they are worth.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "solve/position_graph.hpp"

namespace orchard::solve_inner {

// Of all positions, by number; solved ones are taken as they are.
struct SolvedValues {
  std::vector<double> values;        // position × roles, 0 to 1
  std::vector<std::uint8_t> solved;  // 1 or 0
  std::vector<std::uint32_t> plies;  // to the end, wins soon and losses late
};

// The positions that lead to each: `before[first[p]]` up to `before[first[p + 1]]`, as often as
// they do.
struct Backwards {
  std::vector<std::uint64_t> first;
  std::vector<std::uint32_t> before;
  explicit Backwards(const PositionGraph& graph);
};

// Solves what can be solved of the others. Gives why it cannot, if the game is of another kind;
// then nothing changes. O(values · steps · log positions).
std::optional<std::string> solve_repeating(const PositionGraph& graph, const Backwards& backwards,
                                           std::optional<std::size_t> chance, SolvedValues& known);

}  // namespace orchard::solve_inner
