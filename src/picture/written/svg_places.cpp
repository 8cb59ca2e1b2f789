#include "picture/written/svg_places.hpp"

#include <algorithm>

#include "base/markup.hpp"
#include "picture/written/text.hpp"

namespace orchard::picture {

std::string contents_of(const Spot& spot, const Board& board, std::size_t roles) {
  std::string text;
  for (const Piece& piece : spot.pieces) {
    std::string meaning;
    for (const Piece& known : board.legend) {
      if (glyph_of(known, true, roles) == glyph_of(piece, true, roles)) meaning = known.meaning;
    }
    text += (text.empty() ? "" : " ") + (meaning.empty() ? glyph_of(piece, true, roles) : meaning);
  }
  return text;
}

void make_place(pugi::xml_node area, const Spot& spot, const Board& board, std::size_t roles) {
  const std::string name = typed_name(spot);
  std::string words = name.empty() ? spot.name : name;
  if (words.starts_with('(')) {  // what the drawing rules call it: (at b 3)
    const std::size_t after = std::min(words.find(' '), words.size() - 1);
    words = words.substr(after + 1, words.size() - after - 2);
  }
  std::string moves;
  for (const std::size_t number : spot.choices) {
    moves += (moves.empty() ? "" : " ") + std::to_string(number);
  }
  const std::string contents = contents_of(spot, board, roles);
  std::string label = name + ": " +
                      (spot.hidden        ? "covered"
                       : contents.empty() ? "blank"
                                          : contents);
  if (spot.marked) label += ", last move";
  if (spot.deciding) label += ", decides";
  set_attribute(area, {"fill-opacity", "0"});
  set_attribute(area, {"data-name", name});
  set_attribute(area, {"data-words", words});
  set_attribute(area, {"data-moves", moves});
  set_attribute(area, {"role", "button"});
  set_attribute(area, {"tabindex", "-1"});
  set_attribute(area, {"aria-label", label});
}

}  // namespace orchard::picture
