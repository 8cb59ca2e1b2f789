// A small game made for a question, and what a review answers of it.
#pragma once

#include <gtest/gtest.h>

#include <algorithm>
#include <optional>
#include <stdexcept>
#include <string>

#include "orchard/review.hpp"

namespace orchard {

// If few, only so many positions are explored.
inline Answer answered(const std::string& rules, const std::string& id,
                       std::optional<std::uint64_t> few = {}) {
  ReviewOptions options;
  options.budget.positions = few;
  const Review review = review_rules(Game::from_text(rules).value(), options).value();
  const auto found = std::ranges::find(review.questions, id, &Answer::id);
  if (found == review.questions.end()) throw std::runtime_error("no answer " + id);
  return *found;
}

// A row of beds that a gardener plants one after another; more rules are put behind.
inline std::string beds(const std::string& more = {}) {
  return R"(
    (role gardener) (bed a) (bed b) (bed c)
    (<= (base (holds ?bed bare)) (bed ?bed)) (<= (base (holds ?bed plant)) (bed ?bed))
    (<= (input gardener (plant ?bed)) (bed ?bed))
    (<= (init (holds ?bed bare)) (bed ?bed))
    (<= (legal gardener (plant ?bed)) (true (holds ?bed bare)))
    (<= (next (holds ?bed plant)) (does gardener (plant ?bed)))
    (<= (next (holds ?bed ?what)) (true (holds ?bed ?what)) (not (does gardener (plant ?bed))))
    (<= some_bare (true (holds ?bed bare)))
    (<= terminal (not some_bare))
    (<= (goal gardener 100) (not some_bare)) (<= (goal gardener 0) some_bare)
  )" + more;
}

inline void replace(std::string& text, const std::string& from, const std::string& to) {
  const std::size_t at = text.find(from);
  ASSERT_NE(at, std::string::npos) << from;
  text.replace(at, from.size(), to);
}

}  // namespace orchard
