// Whether two games that stand in one description are proved never to differ.
#pragma once

#include <string>

#include "orchard/game.hpp"

namespace orchard::compare {

// By the shape of their networks: with one input for fluents of both that agree in positions of
// random games, both games become the same gates. Decides most differences of writing; a few passes
// over the network. `product` has a circuit; `different`: its relation that holds where the games
// differ.
bool is_the_same_by_shape(const Game& product, const std::string& different, std::uint64_t seed);

// By induction over the plies: signals of both that agree in positions of random games are paired,
// and paired anew with what refutes that. Arguments as before. Seconds to minutes; ends without a
// proof at an interruption.
bool is_proved_the_same(const Game& product, const std::string& different, std::uint64_t seed);

}  // namespace orchard::compare
