// What the variables of claims can stand for.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/term.hpp"

namespace orchard::review {

using ClaimValues = std::map<std::string, std::vector<Term>>;  // by variable, ascending

// Adds what the variables of an atom can stand for, by what the rules can derive; false if nothing
// that they derive fits the atom. The game has a circuit, if only of the first plies.
bool gather_values(const Game& game, const Term& atom, ClaimValues& values);

}  // namespace orchard::review
