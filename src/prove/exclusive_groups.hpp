// What reachable positions may be suspected never to show, taken from the shape of fluents: a
// square with two contents, or with none; nobody in turn; two fluents that exclude one another.
//
// A *group* is all fluents of a name that agree in all places but some, the value places; every
// choice of value places is suggested, four places at most. A group that begins empty may have a
// fluent without arguments that stands for it (nobody plays a figure while `picking` holds): such
// groups are suggested as well. All of this is for `Induction` to prove, and best held against
// sampled positions first.
#pragma once

#include <string>
#include <vector>

#include "circuit/programs/game_network.hpp"

namespace orchard::prove {

struct FluentGroup {
  std::string name;
  std::vector<std::uint32_t> fluents;  // of the ground program
  circuit::Signal several;             // two of them hold
  circuit::Signal none;                // none of them does
  bool one_at_start = false;           // else none at the start
};

// Groups with one fluent at most at the start. Adds the gates of their signals to `network`, that
// of the game or a copy of it.
std::vector<FluentGroup> suggested_groups(const ground::GroundProgram& ground,
                                          const circuit::GameNetwork& game,
                                          circuit::Network& network);

// Signals that say of two fluents which of them hold: of names with few fluents, for any two; where
// those are many, for two with the same arguments, and for one without and any other; nothing where
// that is too many.
std::vector<circuit::Signal> suggested_pairs(const ground::GroundProgram& ground,
                                             const circuit::GameNetwork& game,
                                             circuit::Network& network);

}  // namespace orchard::prove
