// One claim asked of every position.
#pragma once

#include "review/claim_rules.hpp"
#include "review/inquiry.hpp"

namespace orchard::review {

// The claim must outlive the conclusion.
Conclusion ask_claim(Inquiry& inquiry, const Claim& claim);

}  // namespace orchard::review
