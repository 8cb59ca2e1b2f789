// Every choice of one move a role, the first role's changing fastest: the order in which everything
// that goes through joint moves does so.
#pragma once

#include <cstdint>
#include <vector>

namespace orchard::explore {

// Calls visit(span of one move a role). Nothing if a role has no move.
template <class Moves, class Visit>
void each_joint_move(const std::vector<Moves>& legal, Visit&& visit) {
  std::vector<typename Moves::value_type> joint(legal.size());
  std::vector<std::size_t> choice(legal.size(), 0);
  for (const Moves& moves : legal) {
    if (moves.empty()) return;
  }
  std::size_t role = 0;
  while (role < legal.size()) {
    for (std::size_t r = 0; r < legal.size(); ++r) joint[r] = legal[r][choice[r]];
    visit(joint);
    for (role = 0; role < legal.size() && ++choice[role] == legal[role].size(); ++role) {
      choice[role] = 0;
    }
  }
}

// How many there are; the greatest number there is if they are more.
template <class Moves>
std::uint64_t count_of_joint_moves(const std::vector<Moves>& legal) {
  std::uint64_t count = 1;
  for (const Moves& moves : legal) {
    if (__builtin_mul_overflow(count, std::uint64_t{moves.size()}, &count)) {
      return ~std::uint64_t{0};
    }
  }
  return count;
}

// The choices of the joint move of a number in that order; `count(role)` says how many a role has.
template <class Count>
std::vector<std::size_t> choices_of_joint_move(std::uint64_t number, std::size_t roles,
                                               Count&& count) {
  std::vector<std::size_t> result(roles);
  for (std::size_t role = 0; role < roles; ++role) {
    const std::uint64_t of_role = count(role);
    result[role] = static_cast<std::size_t>(number % of_role);
    number /= of_role;
  }
  return result;
}

}  // namespace orchard::explore
