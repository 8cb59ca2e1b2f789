// The values that an end can have for the role whose value is asked for, ascending, and what the
// other roles get where it gets one of them.
//
// Roles other than the two that choose may get different goals at ends that are the same to those;
// then what they get is not known. One thread at a time.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "explore/sampling/goal_shares.hpp"

namespace orchard::solve_inner {

class EndClasses {
 public:
  // `second`: the other role that chooses, if there is one.
  EndClasses(const GoalShares& shares, std::size_t roles, std::size_t first,
             std::optional<std::size_t> second);

  std::size_t size() const { return values_.size(); }
  // Whether, as far as ends were met, the second gets less wherever the first gets more.
  bool opposed() const { return opposed_; }

  // The class of an end; share(role) is what a role gets there. O(roles × classes).
  template <class Share>
  std::uint8_t of(Share&& share);

  // The goal of a role, 0 to 100, at the ends of a class; none if it got several there.
  std::optional<double> goal(std::size_t role, std::uint8_t end_class) const;

 private:
  static constexpr float unknown = -1;  // no such end was met
  static constexpr float several = -2;  // ends with different ones were met
  std::uint8_t number_of(float first_share) const;
  void take(std::size_t role, std::uint8_t end_class, float share);

  std::size_t first_;
  std::optional<std::size_t> second_;
  std::vector<float> values_;
  std::vector<std::vector<float>> others_;  // role × class, as met
  bool opposed_ = true;
};

template <class Share>
std::uint8_t EndClasses::of(Share&& share) {
  const std::uint8_t result = number_of(share(first_));
  for (std::size_t role = 0; role < others_.size(); ++role) {
    if (role == first_ || others_[role][result] == several) continue;
    take(role, result, share(role));
  }
  return result;
}

}  // namespace orchard::solve_inner
