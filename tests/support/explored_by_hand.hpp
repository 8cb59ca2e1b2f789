// Every position of a game, found through its public face alone: the judge of what explores faster.
#pragma once

#include <map>
#include <unordered_map>
#include <vector>

#include "orchard/game.hpp"

namespace orchard::testing {

// A position, and what follows from each joint move: by the moves chosen, a number for each role.
struct ByHand {
  Position position;
  bool terminal = false;
  bool stuck = false;
  std::size_t depth = 0;
  std::map<std::vector<std::size_t>, std::size_t> next;  // where play goes on
};

// Breadth first; empty if there are more positions than `most`.
inline std::vector<ByHand> explore_by_hand(const Game& game, std::size_t most) {
  std::vector<ByHand> result;
  std::unordered_map<Position, std::size_t> numbers;
  const auto add = [&](const Position& position, std::size_t depth) {
    const auto [known, is_new] = numbers.try_emplace(position, result.size());
    if (is_new) result.push_back({position, game.terminal(position), false, depth, {}});
    return known->second;
  };
  add(game.initial(), 0);
  for (std::size_t at = 0; at < result.size(); ++at) {
    if (result.size() > most) return {};
    const Position position = result[at].position;
    if (result[at].terminal) continue;
    std::vector<std::vector<Move>> legal;
    for (const Role& role : game.roles()) legal.push_back(game.legal(position, role));
    for (const auto& moves : legal) result[at].stuck = result[at].stuck || moves.empty();
    if (result[at].stuck) continue;
    std::vector<std::size_t> choice(legal.size(), 0);
    std::size_t role = 0;
    while (role < legal.size()) {
      JointMove joint;
      for (std::size_t r = 0; r < legal.size(); ++r) joint.add(legal[r][choice[r]]);
      const std::size_t next = add(game.next(position, joint).value(), result[at].depth + 1);
      result[at].next.emplace(choice, next);
      for (role = 0; role < legal.size() && ++choice[role] == legal[role].size(); ++role) {
        choice[role] = 0;
      }
    }
  }
  return result;
}

}  // namespace orchard::testing
