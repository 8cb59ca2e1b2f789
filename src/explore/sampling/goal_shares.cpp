#include "explore/sampling/goal_shares.hpp"

#include <algorithm>

namespace orchard {
namespace {

float share_of(const Term& goal) {
  const auto number = goal.number();
  return number ? std::clamp(static_cast<float>(*number) / 100.0F, 0.0F, 1.0F) : 0.0F;
}

}  // namespace

float GoalShares::of(const std::vector<Term>& goals) {
  return goals.size() == 1 ? share_of(goals.front()) : undecided;
}

GoalShares::GoalShares(const LaneGame& game) {
  for (const auto& goals : game.ground().goals()) {
    std::vector<float>& shares = shares_.emplace_back();
    for (const auto& goal : goals) {
      shares.push_back(share_of(game.ground().terms().term(goal.term)));
    }
  }
}

}  // namespace orchard
