// An opponent that needs no circuit: random games by the reference evaluator, for as long as there
// is time. Weak, but there from the first moment on, for rules of any size.
#pragma once

#include <memory>

#include "orchard/opponent.hpp"

namespace orchard::opponents {

// Without a deadline it plays so many games a move.
std::unique_ptr<Opponent> evaluator_opponent(std::uint64_t seed);

}  // namespace orchard::opponents
