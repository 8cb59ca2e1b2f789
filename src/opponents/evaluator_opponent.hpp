// An opponent that needs no circuit: what follows at once and what the others can answer, then
// random games by the reference evaluator, for as long as there is time. Weaker than those that
// have a circuit, but there from the first moment on, for rules of any size.
#pragma once

#include <memory>

#include "orchard/opponent.hpp"

namespace orchard::opponents {

// `most_plies`: of all games together that a choice may take; the same choices for the same seed
// where there is no deadline.
std::unique_ptr<Opponent> evaluator_opponent(std::uint64_t seed, std::uint64_t most_plies = 20'000);

}  // namespace orchard::opponents
