// Boards as drawings that read back.
//
// What stands in a square of the text drawing is taken apart into what single fluents would draw
// there; a blank square means the fluent of its kind that draws nothing there, if there is just
// one. What is read is drawn again and compared, square by square, so that a drawing never means
// something it does not show.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "orchard/picture.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

// What a fluent alone draws in one square.
struct Standing {
  Term fluent;
  std::string place;  // name of the spot
  std::string glyph;  // empty: nothing to be seen
};

class DrawnBoard {
 public:
  // `scene`: any scene of the game, for where its squares are. `standings` in any order.
  DrawnBoard(const Scene& scene, const std::vector<Standing>& standings);

  using Fluents = std::vector<Term>;

  // For each square the fluents that a drawing seems to show. Fails with `bad-drawing` if it has
  // not the board's rows and squares.
  Result<std::vector<Fluents>> read(const std::string& drawing) const;
  // The fluents that draw something in a square, each alone.
  const std::vector<Standing>& standing_at(std::size_t spot) const { return at_[spot]; }
  std::size_t spots() const { return at_.size(); }
  // What else could stand in a square: sets of the fluents that draw something there.
  std::vector<Fluents> alternatives(std::size_t spot) const;
  // The squares in which a drawing differs from a scene; it has been read before.
  std::vector<std::size_t> differing(const std::string& drawing, const Scene& scene) const;
  // A diagnostic for each of them.
  Diagnostics compare(const std::string& drawing, const Scene& scene) const;

 private:
  struct Cell {
    std::string text;
    int line = 0;
    int column = 0;
  };
  Result<std::vector<Cell>> cells(const std::string& drawing) const;
  Result<std::vector<Cell>> comb_cells(const std::string& drawing) const;
  std::vector<Cell> cells_of(const Scene& scene) const;

  std::vector<std::vector<std::size_t>> rows_;  // spots from the left; no_spot for a gap
  std::vector<std::string> names_;              // of spots
  struct Raster {
    int down = 0;
    int half = 0;
  };
  std::vector<Raster> rasters_;            // of spots
  bool comb_ = false;                      // some columns stand half a square lower
  std::vector<std::vector<Standing>> at_;  // by spot, the longest glyphs first
};

// Fluents without a glyph at the places where others of their kind have one: which of their
// arguments tell the place is found from those.
void add_unseen(const std::vector<Term>& fluents, std::vector<Standing>& standings);

}  // namespace orchard::picture
