// A scene as text.
#pragma once

#include <string>

#include "orchard/picture.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

std::string to_text(const Scene& scene, const TextStyle& style);

// The characters for a piece, as they stand in a square.
std::string glyph_of(const Piece& piece, bool unicode, std::size_t roles);

// Where the squares of a board stand in its text, for whoever reads it back: lines from the first
// of the board, characters from the left.
struct TextPlace {
  std::size_t line = 0;
  std::size_t first = 0;
  std::size_t width = 0;
};
struct BoardText {
  std::string text;
  std::vector<TextPlace> places;  // by spot
};
BoardText board_text(const Scene& scene, std::size_t board, const TextStyle& style);

}  // namespace orchard::picture
