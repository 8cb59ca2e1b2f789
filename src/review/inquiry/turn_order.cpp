#include "review/inquiry/turn_order.hpp"

#include <algorithm>

namespace orchard::review {

std::vector<std::size_t> doing(const Exploration& exploration, const LaneEvaluator& lanes,
                               std::size_t at) {
  std::vector<std::size_t> result;
  std::vector<std::uint32_t> legal;
  for (std::size_t role = 0; role < exploration.space().roles(); ++role) {
    lanes.legal(at, role, legal);
    const bool moves = std::ranges::any_of(legal, [&](std::uint32_t move) {
      return !GameAccess::core(exploration.explored())
                  ->is_waiting(role, exploration.ground().moves()[role][move].term);
    });
    if (moves) result.push_back(role);
  }
  return result;
}

std::vector<std::size_t> movers(const Exploration& exploration, const LaneEvaluator& lanes,
                                std::size_t at) {
  std::vector<std::size_t> result = doing(exploration, lanes, at);
  if (!result.empty()) return result;
  for (std::size_t role = 0; role < exploration.space().roles(); ++role) result.push_back(role);
  return result;
}

}  // namespace orchard::review
