// Drawings of positions, inferred from the rules.
//
// Fluents with two ordered arguments (numbers, or names that a relation of the rules puts in a
// row) become a board: the first ordered argument counts rows from the top in that order, the
// second columns from the left, and what is left over is the content of the square. Fluents that
// number places along one argument become a board of one row. Everything else is listed, so that
// nothing of a position is ever hidden.
//
// A Picture is made once for a game and is immutable: any number of threads may draw with it.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

struct TextStyle {
  bool unicode = true;   // frames and marks; plain ASCII otherwise
  bool colour = false;   // ANSI escapes; tones chosen to stay apart for colour-blind eyes
  bool partial = false;  // the position holds only what somebody knows
  int width = 100;       // columns to stay within where that is possible
};

// A legal move and the number it is listed under.
struct NumberedMove {
  Role role;
  Move move;
  std::size_t number = 0;
};

class PictureLayout;  // inner

class Picture {
 public:
  explicit Picture(const Game& game);

  bool has_board() const;

  // The boards with row and column labels, a legend of the glyphs, and the fluents that stand on
  // no board; ends in a line break. A move that names a square, or changes just one, is marked
  // there with its number: ‹3›, or ‹3+› if it is the first of several. Squares of which nothing
  // is true show `?` if every square has a content at the start.
  std::string text(const Position& position, const TextStyle& style = {},
                   const std::vector<NumberedMove>& moves = {}) const;

 private:
  Game game_;
  std::shared_ptr<const PictureLayout> layout_;
};

}  // namespace orchard
