// One claim asked of every position, and what that takes.
#pragma once

#include "review/claims/claim_rules.hpp"
#include "review/claims/searched_claim.hpp"
#include "review/inquiry/inquiry.hpp"
#include "solve/forcing.hpp"

namespace orchard::review {

// The claim must outlive the conclusion.
Conclusion ask_claim(Watchlist& list, const Claim& claim);

// Where the formula of an instance holds, by explored position or step.
solving::Condition condition_of(const Inquiry& inquiry, const Instance& instance);
// Who forces, and whether chance plays fair.
solving::Forcing forcing_of(const Game& game, const Claim& claim);
// The explored positions, each after what follows it as far as that is possible.
std::vector<StateSpace::Number> followers_first(const StateSpace& space, Facts& facts);

}  // namespace orchard::review
