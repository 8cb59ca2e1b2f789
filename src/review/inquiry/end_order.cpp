#include "review/inquiry/end_order.hpp"

#include <algorithm>

namespace orchard::review {

using Number = explore::StateSpace::Number;
using explore::StateSpace;

// Positions are taken off whose followers are all off; what is left can go on for ever. What was
// not looked at counts as off.
EndOrder end_order(const StateSpace& space) {
  EndOrder result;
  const Number count = space.expanded_classes();
  std::vector<std::uint32_t> open(count, 0);  // followers that are not off, as often as they follow
  std::vector<std::uint64_t> first(std::size_t{count} + 1, 0);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.class_steps(p)) {
      if (next >= count) continue;
      ++open[p];
      ++first[next + 1];
    }
  }
  for (std::size_t p = 0; p < count; ++p) first[p + 1] += first[p];
  std::vector<Number> before(first[count]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.class_steps(p)) {
      if (next < count) before[at[next]++] = p;
    }
  }
  result.order.reserve(count);
  for (Number p = 0; p < count; ++p) {
    if (open[p] == 0) result.order.push_back(p);
  }
  for (std::size_t i = 0; i < result.order.size(); ++i) {
    const Number p = result.order[i];
    for (std::uint64_t k = first[p]; k < first[p + 1]; ++k) {
      if (--open[before[k]] == 0) result.order.push_back(before[k]);
    }
  }
  if (result.order.size() == count) return result;
  // Followers of what is left that are left too, until one comes again.
  Number p = 0;
  while (open[p] == 0) ++p;
  for (const Number position : space.line_to(space.first_of(p))) {
    result.cycle.push_back(space.class_of(position));
  }
  std::vector<Number> walked{p};
  while (true) {
    const auto next = std::ranges::find_if(space.class_steps(p),
                                           [&](Number n) { return n < count && open[n] != 0; });
    p = *next;
    const auto again = std::ranges::find(walked, p);
    if (again != walked.end()) {
      result.repeats_from =
          result.cycle.size() - 1 + static_cast<std::size_t>(again - walked.begin());
      result.cycle.insert(result.cycle.end(), walked.begin() + 1, walked.end());
      result.cycle.push_back(p);
      result.cycle = space.round(std::move(result.cycle), result.repeats_from);
      return result;
    }
    walked.push_back(p);
  }
}

}  // namespace orchard::review
