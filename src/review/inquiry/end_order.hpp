// Explored classes of positions in an order in which all that follows one comes before it.
#pragma once

#include <vector>

#include "explore/space/state_space.hpp"

namespace orchard::review {

struct EndOrder {
  std::vector<explore::StateSpace::Number> order;  // classes of all that leads to ends only
  // If some position can come again: a line from the start whose last position is that of its ply
  // `repeats_from`.
  std::vector<explore::StateSpace::Number> cycle;
  std::size_t repeats_from = 0;
  bool is_shortest = false;  // no shorter line comes to a position that comes again
};

// O(classes + steps), 4 bytes a step, and some 20 million steps for the line.
EndOrder end_order(const explore::StateSpace& space);

}  // namespace orchard::review
