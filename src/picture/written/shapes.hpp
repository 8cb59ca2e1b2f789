// Pieces as strokes of SVG.
#pragma once

#include <string>
#include <string_view>

#include "picture/scene/scene.hpp"

namespace orchard::picture {

// A piece with the centre x, y within a circle of radius r, in pixels.
std::string piece_svg(const Piece& piece, double x, double y, double r);

// Text with < & > " written out.
std::string escaped(std::string_view text);

// About how wide a text is, in pixels.
double text_width(std::string_view text, double size);

// One line of text. `classes` beside the font's.
std::string text_svg(std::string_view text, double x, double y, double size,
                     std::string_view classes);

}  // namespace orchard::picture
