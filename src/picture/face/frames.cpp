#include "picture/face/frames.hpp"

#include "orchard/explain.hpp"

namespace orchard::picture {

std::optional<LastStep> step_to(const Line& line, std::size_t at) {
  if (at == 0) return std::nullopt;
  return LastStep{line.positions[at - 1], line.joints[at - 1]};
}

PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<LastStep>& last) {
  PictureFrame frame{position};
  if (last) {
    frame.before = last->before;
    for (const Role& role : game.roles()) {
      const Move& move = last->joint[role];
      if (!game.is_waiting(role, move)) frame.last_moves.emplace_back(role, move.term());
    }
  }
  frame.deciding = deciding_fluents(game, position);
  return frame;
}

std::vector<NumberedMove> numbered_moves(const Game& game, const Position& position,
                                         const std::vector<Role>& roles) {
  std::vector<NumberedMove> moves;
  for (const Role& role : roles) {
    for (const Move& move : game.legal(position, role)) {
      moves.push_back({role, move, moves.size() + 1});
    }
  }
  return moves;
}

}  // namespace orchard::picture
