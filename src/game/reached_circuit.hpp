// How much of what somebody may spend goes to `with_reached_circuit`.
#pragma once

#include "orchard/budget.hpp"

namespace orchard {

// At most 200 000 positions, two fifths of the seconds, and ten of them: so that there is time left
// for what the circuit is for.
Budget budget_of_reaching(const Budget& budget);

}  // namespace orchard
