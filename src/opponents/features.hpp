// What can be seen of a position without looking ahead: things and moves of a role's own.
//
// A fluent of two arguments or more that names a role is a thing of it. Made once for a game.
#pragma once

#include "explore/game_tree.hpp"

namespace orchard::opponents {

using explore::GameTree;
using explore::Node;
using explore::Row;

class Features {
 public:
  explicit Features(const GameTree& tree);

  // The role's goal value where it stands, 0 to 1, and beside it, smaller than a hundredth, things
  // and moves against those of the others.
  float judge(const Row& row, const Node& node, std::size_t role) const;

 private:
  float balance(const Row& row, std::size_t role) const;
  static float mobility(const Node& node, std::size_t role);

  std::vector<std::vector<std::uint32_t>> things_;  // by role: numbers of fluents
};

}  // namespace orchard::opponents
