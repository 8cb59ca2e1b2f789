// Positions as pictures show them.
#pragma once

#include "orchard/line.hpp"
#include "orchard/picture.hpp"

namespace orchard::picture {

// A position with the moves that led to it, those that are no waiting, and at an end what decides
// it.
PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<JointMove>& last);

}  // namespace orchard::picture
