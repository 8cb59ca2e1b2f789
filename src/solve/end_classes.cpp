#include "solve/end_classes.hpp"

#include <algorithm>
#include <cmath>

namespace orchard::solve_inner {
namespace {

// Shares are kept in single precision: goals are whole numbers again.
double goal_of(float share) {
  constexpr double finer_than_goals = 1e4;
  return std::round(100 * static_cast<double>(share) * finer_than_goals) / finer_than_goals;
}

}  // namespace

EndClasses::EndClasses(const GoalShares& shares, std::size_t roles, std::size_t first,
                       std::optional<std::size_t> second)
    : first_(first), second_(second) {
  values_.assign(shares.values(first).begin(), shares.values(first).end());
  values_.push_back(GoalShares::undecided);
  std::ranges::sort(values_);
  values_.erase(std::unique(values_.begin(), values_.end()), values_.end());
  others_.assign(roles, std::vector<float>(values_.size(), unknown));
}

std::uint8_t EndClasses::number_of(float first_share) const {
  return static_cast<std::uint8_t>(std::ranges::lower_bound(values_, first_share) -
                                   values_.begin());
}

void EndClasses::take(std::size_t role, std::uint8_t end_class, float share) {
  float& known = others_[role][end_class];
  if (known == share) return;
  const bool is_new = known == unknown;
  if (!second_ || role != *second_) {
    known = is_new ? share : several;
    return;
  }
  bool opposed = is_new;
  for (std::size_t other = 0; other < values_.size() && opposed; ++other) {
    const float there = others_[role][other];
    if (there >= 0) opposed = other < end_class ? there > share : there < share;
  }
  known = share;
  opposed_ = opposed_ && opposed;
}

std::optional<double> EndClasses::goal(std::size_t role, std::uint8_t end_class) const {
  const float share = role == first_ ? values_[end_class] : others_[role][end_class];
  return share < 0 ? std::nullopt : std::optional(goal_of(share));
}

}  // namespace orchard::solve_inner
