// Values of positions by looking at all that can follow for some plies.
//
// Others who choose at the same time, or after, are taken to choose what is worst for the role;
// chance is averaged over. Where only one role chooses this is minimax, cut where it cannot matter
// (alpha-beta, Knuth and Moore 1975).
#pragma once

#include <functional>

#include "explore/sampling/game_tree.hpp"

namespace orchard::opponents {

using explore::Children;
using explore::GameTree;
using explore::Node;
using explore::Row;

class LookAhead {
 public:
  // What leaves are worth to the role, 0 to 1: ends are judged by their goals, not by this.
  using Judge = std::function<std::vector<float>(std::span<const Row>, std::span<const Node>)>;

  LookAhead(GameTree& tree, std::size_t role, Judge judge)
      : tree_(tree), role_(role), judge_(std::move(judge)) {}

  // For each of the role's legal moves what it is worth after `plies` plies in all; empty if more
  // than `most_positions` would have to be looked at.
  std::vector<float> values(const Row& row, int plies, std::size_t most_positions);

 private:
  float value(const Row& row, const Node& node, int plies, float alpha, float beta);
  std::vector<float> by_own_move(const Row& row, const Node& node, int plies, float alpha,
                                 float beta);
  // Ends are worth more the sooner they are won, and less the sooner they are lost.
  static float of_end(float share, int plies) {
    return share + (share > 0.5F ? 1e-4F : -1e-4F) * static_cast<float>(plies);
  }

  GameTree& tree_;
  std::size_t role_;
  Judge judge_;
  std::size_t positions_ = 0;
  std::size_t most_ = 0;
};

}  // namespace orchard::opponents
