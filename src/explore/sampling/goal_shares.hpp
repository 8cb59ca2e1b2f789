// What positions are worth to the roles, as shares of 100.
//
// A role's share is that of its goal value where exactly one is derived, and a half elsewhere.
// Constant; safe to share between threads.
#pragma once

#include <span>
#include <vector>

#include "game/lane_evaluator.hpp"
#include "orchard/term.hpp"

namespace orchard {

class GoalShares {
 public:
  static constexpr float undecided = 0.5F;  // without a single goal, or where a game is broken off

  explicit GoalShares(const LaneGame& game);

  // The share of a role of which these goal values are derived.
  static float of(const std::vector<Term>& goals);

  std::size_t roles() const { return shares_.size(); }
  // Of the role's goal values, by their numbers in the ground program; 0 to 1.
  std::span<const float> values(std::size_t role) const { return shares_[role]; }

  // The share of a role where `holds(value)` says which of its values are derived.
  template <class Holds>
  float share(std::size_t role, Holds&& holds) const {
    std::size_t held = 0;
    float result = undecided;
    for (std::size_t value = 0; value < shares_[role].size(); ++value) {
      if (!holds(value)) continue;
      ++held;
      result = shares_[role][value];
    }
    return held == 1 ? result : undecided;
  }
  // In a position that the evaluator has set, and where a joint move that it has judged leads.
  float here(const LaneEvaluator& evaluator, std::size_t at, std::size_t role) const {
    return share(role, [&](std::size_t value) { return evaluator.goal(at, role, value); });
  }
  float ahead(const LaneEvaluator& evaluator, std::size_t at, std::size_t role) const {
    return share(role, [&](std::size_t value) { return evaluator.next_goal(at, role, value); });
  }

 private:
  std::vector<std::vector<float>> shares_;  // by role and value
};

}  // namespace orchard
