#include "explore/sampling/goal_shares.hpp"

#include <algorithm>

namespace orchard {

GoalShares::GoalShares(const LaneGame& game) {
  for (const auto& goals : game.ground().goals()) {
    std::vector<float>& shares = shares_.emplace_back();
    for (const auto& goal : goals) {
      const auto number = game.ground().terms().term(goal.term).number();
      shares.push_back(number ? std::clamp(static_cast<float>(*number) / 100.0F, 0.0F, 1.0F)
                              : 0.0F);
    }
  }
}

}  // namespace orchard
