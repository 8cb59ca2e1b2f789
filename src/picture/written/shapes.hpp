// Pieces as strokes of SVG.
#pragma once

#include <pugixml.hpp>
#include <string_view>

#include "picture/scene/scene.hpp"

namespace orchard::picture {

// Adds a piece with the centre x, y within a circle of radius r, in pixels.
void add_piece(pugi::xml_node parent, const Piece& piece, double x, double y, double r);

// About how wide a text is, in pixels.
double text_width(std::string_view text, double size);

// Adds one line of text. `classes` beside the font's.
void add_text(pugi::xml_node parent, std::string_view text, double x, double y, double size,
              std::string_view classes);

}  // namespace orchard::picture
