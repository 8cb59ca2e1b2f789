// Drawings of positions, by drawing rules or inferred from the rules of the game.
//
//   auto picture = orchard::Picture::load(game, "games/silo.draw").value();
//   std::cout << picture.text({position});
//   std::cout << picture.svg({{first}, {second}, {third}});  // a strip
//
// Drawing rules (docs/DRAWING.md) are rules of the same language that say what stands where, with
// which shape and tone. Without them a drawing is inferred: fluents with two ordered arguments
// (numbers, or names that a relation of the rules puts in a row) become a board: the first ordered
// argument counts rows from the top in that order, the second columns from the left, and what is
// left over is the content of the square; names before numbers are columns labelled c3. Fluents
// that number places along one argument become a board of one row, or of several where lines or
// neighbours in the rules say so. Where everybody has a board, there is one for each. Everything
// else is listed, so that nothing of a position is ever hidden.
//
// A Picture is made once for a game and is immutable: any number of threads may draw with it.
// Cost of a drawing: one evaluation of the drawing rules, and linear in what is drawn.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

// How a picture is drawn as text.
struct TextStyle {
  bool unicode = true;  // frames and marks; plain ASCII otherwise
  bool colour = false;  // ANSI escapes; tones chosen to stay apart for colour-blind eyes
  int width = 100;      // columns to stay within where that is possible
  bool turned = false;  // as seen from the opposite side
  // Pictures that follow one another keep their size by sharing this: by board, how wide its
  // squares have been so far. Every picture reads it and widens it, so one thread at a time.
  std::shared_ptr<std::vector<std::size_t>> widths{};
};

// How an SVG picture is drawn.
struct SvgStyle {
  // Light or dark surroundings.
  enum class Light { both, light, dark };  // both: as the reader's device asks for
  // The surroundings that the colours are chosen for.
  Light light = Light::both;
  // As seen from the opposite side.
  bool turned = false;
  double seconds = 1.0;       // of an animation, a position
  double last_seconds = 1.0;  // the last one
  std::size_t in_a_row = 4;   // pictures of a strip beside each other
  // Lays an element of class `place` over each place, for pages on which places are clicked:
  // `data-name` is what it is called, `data-words` are the names in that, `data-moves` the numbers
  // of the moves that are marked there, and its label says to screen readers what stands there.
  bool places = false;
};

// A legal move and the number it is listed under.
struct NumberedMove {
  // The role that can make the move.
  Role role;
  // The move itself.
  Move move;
  // Its number in the list of legal moves, counted from 1.
  std::size_t number = 0;
};

// A position to draw, and what is to be shown of it.
struct PictureFrame {
  // The position to draw.
  Position position;
  std::vector<NumberedMove> moves{};                // marked where they would be made
  std::vector<std::pair<Role, Term>> last_moves{};  // made in the last joint move
  std::optional<Position> before{};                 // in which they were made, if that is known
  std::vector<Term> deciding{};                     // fluents to highlight: why the game is over
  std::optional<Role> viewer{};                     // for whom; everything is shown to nobody
  std::vector<Term> perceived{};                    // by the viewer, so far
  bool partial = false;                             // the position holds only what somebody knows
  std::vector<Term> unsure{};                       // fluents of which the viewer does not know
  std::string title{};                              // one line over the picture
  std::vector<std::string> captions{};              // further lines under it
};

class PictureLayout;  // inner
namespace picture {
class DrawingRules;
class DrawnBoard;
struct Scene;
struct Standing;
}  // namespace picture

class Picture {
 public:
  explicit Picture(const Game& game);  // inferred
  // By the drawing rules of a file. Fails with everything wrong in it: errors of the language as of
  // a description, and `bad-drawing`.
  static Result<Picture> load(const Game& game, const std::string& path);
  // The same from a text; `name` is what diagnostics call it.
  static Result<Picture> from_text(const Game& game, std::string rules, std::string name);

  // Probable mistakes in the drawing rules.
  const Diagnostics& findings() const;
  // What the drawing rules leave out, as hints: fluents of which they show nothing.
  const Diagnostics& hints() const;
  // Whether there is a board to draw.
  bool has_board() const;
  // Whether the drawing itself shows what the viewer has seen: its rules ask for `perceived`.
  bool shows_percepts() const;
  // Whether it follows drawing rules; else it is inferred.
  bool has_drawing_rules() const { return rules_ != nullptr; }

  // The boards with row and column labels, a legend of the glyphs, counters, trays and captions,
  // and without drawing rules the fluents that stand on no board; ends in a line break. A legal
  // move is marked with its number: ‹3›, or ‹3+› if it is the first of several at its place. What
  // was done last stands in [ ], what decides an end in « ».
  std::string text(const PictureFrame& frame, const TextStyle& style = {}) const;

  // One picture, or a strip of several, with a title and a description for screen readers; text
  // stays text.
  std::string svg(const std::vector<PictureFrame>& frames, const SvgStyle& style = {}) const;
  // The positions one after another, for ever.
  std::string animated_svg(const std::vector<PictureFrame>& frames,
                           const SvgStyle& style = {}) const;

  // A picture of each, all of one size.
  std::vector<std::string> svg_each(const std::vector<PictureFrame>& frames,
                                    const SvgStyle& style = {}) const;

  // For each number of the frame's moves, the places at which it is shown, as they are typed:
  // "2 3"; on a board of a single row or column "3", too. Moves that are shown nowhere are left
  // out.
  std::map<std::size_t, std::vector<std::string>> places(const PictureFrame& frame) const;

  // A position as a form that reads back: the board as a drawing in a string, and the fluents that
  // the drawing does not tell: (position (drawn "…") (turn east)).
  std::string drawn(const Position& position, const std::string& name = {}) const;
  // The position of such a drawing and such fluents. Fails with `bad-drawing`, saying in which line
  // and column of the drawing.
  Result<Position> read_drawn(const std::string& drawing, const std::vector<Term>& fluents) const;

  // What a role is shown by the drawing rules' (visible ROLE FLUENT), in the order of Term; none if
  // the rules say nothing of it.
  std::optional<std::vector<Term>> visible(const Position& position, const Role& role) const;

 private:
  picture::Scene scene(const PictureFrame& frame) const;
  std::vector<picture::Scene> scenes(const std::vector<PictureFrame>& frames, bool turned) const;
  std::vector<picture::Standing> standings() const;
  const picture::DrawnBoard& drawn_board() const;  // made at the first call
  Result<Position> with_squares(const std::vector<std::vector<Term>>& in_squares,
                                const std::vector<Term>& fluents) const;
  Result<std::vector<std::vector<Term>>> squares_of(const picture::DrawnBoard& board,
                                                    const std::string& drawing,
                                                    const std::vector<Term>& fluents) const;

  explicit Picture(const Game& game, std::shared_ptr<const picture::DrawingRules> rules);
  const PictureLayout& layout() const;  // inferred at the first call

  struct Inferred;
  Game game_;
  std::shared_ptr<Inferred> inferred_;
  std::shared_ptr<const picture::DrawingRules> rules_;  // null if inferred
};

}  // namespace orchard
