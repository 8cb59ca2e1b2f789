// Which fluents of a game the drawing rules never ask about.
#pragma once

#include "orchard/diagnostic.hpp"
#include "rules/description.hpp"

namespace orchard::picture {

// A hint `undrawn-fluent` for each name of a fluent on which nothing that is drawn depends, choices
// left aside: they depend on all that makes a move legal. `all` is the game with its drawing rules;
// its clauses from `first_clause` on are the drawing's. Linear in the clauses.
Diagnostics undrawn_fluents(const rules::Description& all, std::size_t first_clause);

}  // namespace orchard::picture
