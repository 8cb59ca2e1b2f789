// What `show`, `walk` and `play` print of a position: a heading, the drawing, the legal moves.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/line.hpp"
#include "orchard/picture.hpp"
#include "orchard/view.hpp"
#include "picture/face/frames.hpp"
#include "picture/seen/seen_frame.hpp"

namespace orchard::cli {

using picture::fresh_view;
using picture::Insight;
using picture::numbered_moves;
using picture::seen_frame;

struct Call;

// How a page is written.
struct PageStyle {
  TextStyle text;
  // Longer lists of moves are told by their functions and numbers.
  std::size_t most_listed = 60;

  PageStyle(const TextStyle& style) : text(style) {}
  explicit PageStyle(const Call& call);  // with --every-move
};

// "ply 5   west to move", or at an end "ply 9   over: east wins (…)".
std::string heading(const Game& game, const Position& position, std::uint64_t ply);

// "legal for west:" and the numbered moves in columns, or how many there are of each function;
// waiting moves of other roles in a line, unless `numbered_only`.
std::string move_list(const Game& game, const Position& position,
                      const std::vector<NumberedMove>& moves, const PageStyle& style,
                      bool numbered_only = false);

// A position with everything that pictures show of it: legal moves if wanted, the moves that led
// here (no waiting ones), and at an end what decides it.
PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<picture::LastStep>& last, bool with_moves);
Insight insight_of(const Call& call);  // --deduced

// A line of play, a ply a line, with the moves of the roles to move; a long one is cut in the
// middle.
std::string line_text(const Game& game, const Line& line);

std::string page(const Game& game, const Picture& picture, const Position& position,
                 std::uint64_t ply, const PageStyle& style, bool with_moves,
                 const std::optional<picture::LastStep>& last = {});

// The same as a role sees it: what it was told, or what is so in all positions that fit that; its
// own legal moves, and its percepts since ply `from`. At an end everything is shown.
std::string view_page(const Game& game, const Picture& picture, const View& view, Insight insight,
                      const Position& position, std::uint64_t ply, const PageStyle& style,
                      bool with_moves, std::uint64_t from);
// What a picture of a view says below it: whose it is, how much it shows, what is not known.
std::vector<std::string> view_captions(const View& view, const PictureFrame& frame,
                                       Insight insight);

}  // namespace orchard::cli
