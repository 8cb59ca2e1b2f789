// A line of play: positions, and the joint moves between them. Values; any thread may call.
#pragma once

#include <cstdint>
#include <string_view>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

// A line of play: positions, and the joint moves between them.
struct Line {
  std::vector<Position> positions;  // one more than `joints`; the first is where it begins
  // The joint moves; there is one fewer of them than of positions.
  std::vector<JointMove> joints;

  // The position at the end of the line.
  const Position& last() const { return positions.back(); }
};

// Plays a written line: a ply is the move of the one role to move, (ROLE MOVE), or
// (joint (ROLE MOVE)…), and roles that are not named make their only legal move:
// "(tie 1 1) (west (tie 1 2))". What chance does and is not named is drawn by the seed: in a ply,
// and before a ply that is about somebody else's move. Fails with `bad-line` at the first ply that
// cannot be played.
Result<Line> play_line(const Game& game, const Position& start, std::string_view text,
                       std::uint64_t seed = 1);

}  // namespace orchard
