// Questions about the rules of a game, as rules beside its own: does a clause hold, and is one
// condition the only reason why an instance of it does not?
//
// A question is a relation without arguments. A condition is asked about where its variables are
// bound by the others of its clause, or have few values that the rules could give them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/game.hpp"

namespace orchard::coverage {

struct ConditionProbe {
  std::string relation;  // holds where the condition alone is in the way
  std::uint32_t literal = 0;
  std::string text;  // the condition as it is written
};
struct ClauseProbe {
  std::uint32_t clause = 0;  // of the description
  std::string relation;      // holds where the clause does
  std::vector<ConditionProbe> conditions;
};

struct Probes {
  Game game;  // the game with the questions
  std::vector<ClauseProbe> clauses;
};

// Of every clause that depends on positions or moves.
Result<Probes> probes_of(const Game& game);

}  // namespace orchard::coverage
