// A raster of characters on which walls join by themselves.
//
// Walls are strokes between cells; where they meet, the right corner or crossing appears. Text is
// put down character by character, each with a tone, so that widths count characters.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace orchard::picture {

class Canvas {
 public:
  Canvas(std::size_t width, std::size_t height) : width_(width), cells_(width * height) {}

  std::size_t width() const { return width_; }
  std::size_t height() const { return cells_.size() / width_; }

  // From a corner `length` characters on.
  void wall_right(std::size_t x, std::size_t y, std::size_t length);
  void wall_down(std::size_t x, std::size_t y, std::size_t length);
  // Characters from the left; what passes the edge is cut. `tone` is an ANSI sequence's inside.
  void put(std::size_t x, std::size_t y, std::string_view text, std::string_view tone = {});
  // The same downwards.
  void put_down(std::size_t x, std::size_t y, std::string_view text);

  // The lines, without blanks at their ends, each behind `indent` blanks.
  std::string text(bool unicode, bool colour, std::string_view wall_tone, std::size_t indent) const;
  // One line of it, for those who put something in front.
  std::string line(std::size_t y, bool unicode, bool colour, std::string_view wall_tone) const;

 private:
  struct Cell {
    std::string character;  // empty: a wall or a blank
    std::string_view tone;
    std::uint8_t walls = 0;  // 1 to the left, 2 right, 4 up, 8 down
  };
  Cell& at(std::size_t x, std::size_t y) { return cells_[y * width_ + x]; }

  std::size_t width_;
  std::vector<Cell> cells_;
};

std::string toned(std::string_view text, std::string_view tone, bool colour);

}  // namespace orchard::picture
