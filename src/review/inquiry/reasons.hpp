// Which rules are behind a fault, asked where the line that leads to it ends.
#pragma once

#include <vector>

#include "orchard/review.hpp"

namespace orchard::review {

// Adds to the places of an answer, for each atom, the rule by which it holds in the last position
// of the answer's line, or what the nearest rule lacks. A variable stands for anything: (legal red
// ?move). What the reference evaluator finds too large to explain is left out.
void add_reasons(const Game& game, const std::vector<Term>& atoms, Answer& answer);

// The same for fluents, which the last step of the line made or dropped. Nothing at the start.
void add_reasons_of_step(const Game& game, const std::vector<Term>& fluents, Answer& answer);

}  // namespace orchard::review
