// What can be seen of a position without looking ahead, and what it tells: things and moves of a
// role's own against those of the others.
//
// A fluent of two arguments or more that names a role is a thing of it. Whether more things or more
// moves are good or bad for a role is learned from random games; what tells nothing counts nothing.
// Made once for a game, constant, safe to share between threads.
#pragma once

#include <array>

#include "explore/sampling/game_tree.hpp"

namespace orchard::opponents {

using explore::GameTree;
using explore::Node;
using explore::Row;

class Features {
 public:
  static const Features& of(const LaneGame& game);

  // The role's goal value where it stands, 0 to 1, and beside it, smaller than a hundredth, what
  // things and moves tell.
  float judge(const Row& row, const Node& node, std::size_t role) const;

  static constexpr std::size_t kinds = 2;  // things, moves
  // How much each counts for a role; at most one in all, either sign.
  const std::array<float, kinds>& weights(std::size_t role) const { return weights_[role]; }

 private:
  explicit Features(const LaneGame& game);
  void learn(const LaneGame& game);
  std::array<float, kinds> seen(const Row& row, const Node& node, std::size_t role) const;
  float balance(const Row& row, std::size_t role) const;
  static float mobility(const Node& node, std::size_t role);

  std::vector<std::vector<std::uint32_t>> things_;  // by role: numbers of fluents
  std::vector<std::array<float, kinds>> weights_;   // by role
};

}  // namespace orchard::opponents
