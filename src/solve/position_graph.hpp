// Positions by number and what follows from each, as others keep it.
//
// A position is over, open, or unknown: found, but not looked at. A view: whoever made it must
// outlive it.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "explore/space/block_expander.hpp"

namespace orchard::solve_inner {

struct PositionGraph {
  std::size_t roles = 0;
  std::size_t count = 0;
  // Of the positions that were looked at, which come first.
  std::span<const explore::Kind> kinds;
  std::span<const std::uint16_t> numbers_of_choices;  // by position and role
  std::span<const std::uint64_t> first_steps;         // by position, and where the last ones end
  // What follows each joint move, the first role's choice changing fastest.
  std::span<const std::uint32_t> all_steps;
  std::span<const std::uint16_t> outcomes;  // by position; meaningful where it is over
  // By outcome and role: what it is worth, 0 to 1.
  std::vector<std::vector<float>> shares;

  std::uint32_t size() const { return static_cast<std::uint32_t>(count); }
  bool is_over(std::uint32_t position) const {
    return position < kinds.size() && kinds[position] != explore::Kind::open;
  }
  // None where play does not go on, and where that is not known.
  std::span<const std::uint32_t> steps(std::uint32_t position) const {
    if (position >= kinds.size()) return {};
    return all_steps.subspan(first_steps[position],
                             first_steps[position + 1] - first_steps[position]);
  }
  bool is_unknown(std::uint32_t position) const {
    return !is_over(position) && steps(position).empty();
  }
  std::size_t looked_at() const {
    std::size_t result = 0;
    for (std::uint32_t p = 0; p < size(); ++p) result += is_unknown(p) ? 0 : 1;
    return result;
  }
  // Of an open position.
  std::uint32_t choices(std::uint32_t position, std::size_t role) const {
    return numbers_of_choices[position * roles + role];
  }
  std::span<const float> worth(std::uint32_t position) const { return shares[outcomes[position]]; }
};

}  // namespace orchard::solve_inner
