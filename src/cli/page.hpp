// What `show`, `walk` and `play` print of a position: a heading, the drawing, the legal moves.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/line.hpp"
#include "orchard/picture.hpp"
#include "orchard/view.hpp"

namespace orchard::cli {

// "ply 5   west to move", or at an end "ply 9   over: east wins (…)".
std::string heading(const Game& game, const Position& position, std::uint64_t ply);

// The moves of the roles to move, numbered from 1 through all of them.
std::vector<NumberedMove> numbered_moves(const Game& game, const Position& position,
                                         const std::vector<Role>& roles);

// "legal for west:" and the numbered moves in columns; waiting moves of other roles in a line,
// unless `numbered_only`.
std::string move_list(const Game& game, const Position& position,
                      const std::vector<NumberedMove>& moves, const TextStyle& style,
                      bool numbered_only = false);

// A position with everything that pictures show of it: legal moves if wanted, the moves that led
// here (no waiting ones), and at an end what decides it.
PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<JointMove>& last, bool with_moves);
// How many positions a view tracks: fewer where the drawing rules say what a role may see anyway.
std::size_t positions_to_track(const Picture& picture, const Position& start, const Role& role);

// The same as a role sees it; none where too many positions fit what it knows and the drawing rules
// say nothing of it.
std::optional<PictureFrame> frame_of(const Game& game, const Picture& picture, const View& view,
                                     const Position& position, bool with_moves);

// A line of play, a ply a line, with the moves of the roles to move; a long one is cut in the
// middle.
std::string line_text(const Game& game, const Line& line);

std::string page(const Game& game, const Picture& picture, const Position& position,
                 std::uint64_t ply, const TextStyle& style, bool with_moves,
                 const std::optional<JointMove>& last = {});

// The same as a role sees it: what is so in all positions that fit what it has seen, its own legal
// moves, and its percepts since ply `from`. At an end everything is shown.
std::string view_page(const Game& game, const Picture& picture, const View& view,
                      const Position& position, std::uint64_t ply, const TextStyle& style,
                      bool with_moves, std::uint64_t from);

}  // namespace orchard::cli
