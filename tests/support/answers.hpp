// An answer of a review by its id.
#pragma once

#include <algorithm>
#include <stdexcept>
#include <string>

#include "orchard/review.hpp"

namespace orchard::testing {

// Of a question or a claim; throws if there is none.
inline const Answer& answer(const Review& review, const std::string& id) {
  for (const auto* answers : {&review.questions, &review.claims}) {
    const auto found = std::ranges::find(*answers, id, &Answer::id);
    if (found != answers->end()) return *found;
  }
  throw std::runtime_error("no answer " + id);
}

}  // namespace orchard::testing
