#include "picture/face/frames.hpp"

#include "orchard/explain.hpp"

namespace orchard::picture {

PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<JointMove>& last) {
  PictureFrame frame{position};
  if (last) {
    for (const Role& role : game.roles()) {
      const Move& move = (*last)[role];
      if (!game.is_waiting(role, move)) frame.last_moves.emplace_back(role, move.term());
    }
  }
  frame.deciding = deciding_fluents(game, position);
  return frame;
}

}  // namespace orchard::picture
