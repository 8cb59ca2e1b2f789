#include "picture/written/shapes.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <initializer_list>
#include <numbers>
#include <string>

#include "base/markup.hpp"
#include "picture/inferred/glyphs.hpp"
#include "picture/scene/palette.hpp"

namespace orchard::picture {
namespace {

using pugi::xml_node;

std::string point(double x, double y) {
  return short_number(x) + "," + short_number(y);
}

// A path from commands and numbers: {"M", 0.0, 1.0, "L", 2.0, 3.0} is "M0 1 L2 3 ".
struct PathPart {
  PathPart(const char* letter) : text(letter) {}
  PathPart(double number) : text(short_number(number) + " ") {}
  std::string text;
};

std::string path_of(std::initializer_list<PathPart> parts) {
  std::string path;
  for (const PathPart& part : parts) path += part.text;
  return path;
}

void add_polygon(xml_node group, double r, int corners, double inner = 1.0) {
  std::string points;
  for (int i = 0; i < corners; ++i) {
    const double radius = i % 2 == 1 ? r * inner : r;
    const double angle = 2 * std::numbers::pi * i / corners;  // the first corner is at the top
    points += point(radius * std::sin(angle), -radius * std::cos(angle)) + " ";
  }
  add_element(group, "polygon", {{"points", points}});
}

void add_blossom(xml_node group, double r) {
  for (int i = 0; i < 5; ++i) {
    const double angle = 2 * std::numbers::pi * i / 5;
    add_element(
        group, "circle",
        {{"cx", 0.56 * r * std::sin(angle)}, {"cy", -0.56 * r * std::cos(angle)}, {"r", 0.42 * r}});
  }
}

void add_spiral(xml_node group, double r, Tone tone) {
  std::string path;
  constexpr int steps = 40;
  for (int i = 0; i <= steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    const double angle = 2 * std::numbers::pi * 2 * t;
    path += path_of(
        {i == 0 ? "M" : "L", 0.78 * r * t * std::sin(angle), -0.78 * r * t * std::cos(angle)});
  }
  add_element(group, "circle", {{"r", 0.95 * r}});
  add_element(group, "path",
              {{"d", path},
               {"class", "round"},
               {"style", fmt::format("stroke-width:{};stroke:{}", short_number(0.13 * r),
                                     tone == Tone::second ? "#6b3f05" : "#ffffff")}});
}

// The outline of a shape round the origin, pointing up.
void add_outline(xml_node group, const Piece& piece, double r) {
  switch (piece.shape) {
    case Shape::disc:
      add_element(group, "circle", {{"r", 0.92 * r}});
      return;
    case Shape::block:
      add_element(group, "rect",
                  {{"x", -0.82 * r},
                   {"y", -0.82 * r},
                   {"width", 1.64 * r},
                   {"height", 1.64 * r},
                   {"rx", 0.16 * r}});
      return;
    case Shape::diamond:
      add_polygon(group, r, 4);
      return;
    case Shape::triangle:
      add_polygon(group, r, 3);
      return;
    case Shape::star:
      add_polygon(group, r, 10, 0.45);
      return;
    case Shape::hexagon:
      add_polygon(group, r, 6);
      return;
    case Shape::drop:
      add_element(
          group, "path",
          {{"d", path_of({"M", 0.0, -r, "C", 0.45 * r, -0.3 * r, 0.95 * r, 0.95 * r, 0.0, 0.95 * r,
                          "C", -0.95 * r, 0.95 * r, -0.45 * r, -0.3 * r, 0.0, -r, "Z"})}});
      return;
    case Shape::leaf: {
      const double far = 0.8 * r;
      const double near = 0.3 * r;
      add_element(group, "path",
                  {{"d", path_of({"M", -far, far, "C", -far, -near, -near, -far, far, -far, "C",
                                  far, near, near, far, -far, far, "Z"})}});
      return;
    }
    case Shape::blossom:
      add_blossom(group, r);
      return;
    case Shape::spiral:
      add_spiral(group, r, piece.tone);
      return;
    case Shape::cross: {
      const double arm = 0.9 * r;
      const double half = 0.3 * r;
      add_element(group, "path",
                  {{"d", path_of({"M",  -half, -arm, "H",  half,  "V", -half, "H",   arm,
                                  "V",  half,  "H",  half, "V",   arm, "H",   -half, "V",
                                  half, "H",   -arm, "V",  -half, "H", -half, "Z"})}});
      return;
    }
    case Shape::dot:
      add_element(group, "circle", {{"r", 0.4 * r}});
      return;
    case Shape::half: {
      const double radius = 0.88 * r;
      add_element(group, "circle", {{"r", radius}, {"class", "paper"}});
      add_element(group, "path",
                  {{"d", path_of({"M", 0.0, -radius, "A", radius, radius, 0.0, 0.0, 0.0, 0.0,
                                  radius, "Z"})}});
      return;
    }
    case Shape::letters:
    case Shape::pair:
      return;
  }
}

// The vein of a leaf and the heart of a blossom, over the outline.
void add_details(xml_node group, const Piece& piece, double r) {
  if (!piece.letters.empty()) return;
  if (piece.shape == Shape::leaf) {
    add_element(group, "path",
                {{"d", path_of({"M", -0.75 * r, 0.75 * r, "L", 0.5 * r, -0.5 * r})},
                 {"class", "round " + stroke_class(piece.tone)},
                 {"style", fmt::format("stroke-width:{};stroke:#ffffff;stroke-opacity:.7",
                                       short_number(0.09 * r))}});
  }
  if (piece.shape == Shape::blossom) {
    add_element(group, "circle", {{"r", 0.26 * r}, {"class", fill_class(Tone::sun)}});
  }
}

xml_node add_group_at(xml_node parent, double x, double y) {
  return add_element(
      parent, "g",
      {{"transform", fmt::format("translate({} {})", short_number(x), short_number(y))}});
}

void add_pair(xml_node parent, const Piece& piece, double x, double y, double r) {
  const double w = 1.0 * r;
  const double h = 0.62 * r;
  const xml_node group = add_group_at(parent, x, y);
  const std::string stroke = stroke_class(piece.tone);
  add_element(group, "rect",
              {{"x", -w},
               {"y", -h},
               {"width", 2 * w},
               {"height", 2 * h},
               {"rx", 0.18 * r},
               {"class", "g-quiet " + stroke},
               {"stroke-width", 2}});
  add_element(group, "path",
              {{"d", path_of({"M", 0.0, -h, "V", h})}, {"class", stroke}, {"stroke-width", 1.5}});
  const double size = 0.62 * r;
  add_text(group, piece.letters, -0.5 * w, 0.36 * size, size, "middle word");
  add_text(group, piece.more_letters, 0.5 * w, 0.36 * size, size, "middle word");
}

// How often the piece is there, on a field of its own within the piece's circle, so that it is
// legible over whatever it covers.
void add_count(xml_node group, const Piece& piece, double r) {
  const std::string number = fmt::format("×{}", piece.count);
  const double size = std::max(10.0, 0.5 * r);
  const double wide = text_width(number, size) + 6;
  const double x = wide / 2 - 0.95 * r;  // the right corner is for numbers of moves
  const double y = 0.62 * r;
  add_element(group, "rect",
              {{"x", x - wide / 2},
               {"y", y - 0.62 * size},
               {"width", wide},
               {"height", 1.24 * size},
               {"rx", 4},
               {"class", "paper"}});
  add_text(group, number, x, y + 0.36 * size, size, "word strong middle");
}

void add_letters(xml_node group, const Piece& piece, double r) {
  const bool bare = piece.shape == Shape::letters;
  std::string letters = piece.letters;
  if (letters.size() == 1 && letters[0] >= 'a' && letters[0] <= 'z' && !bare) {
    letters[0] = static_cast<char>(letters[0] - 'a' + 'A');
  }
  const double room = bare ? 2.1 * r : 1.35 * r;
  const double length = static_cast<double>(std::max<std::size_t>(character_count(letters), 1));
  const double size = std::min(bare ? 1.15 * r : r, room / (0.64 * length));
  const double down = piece.shape == Shape::triangle ? 0.25 * r : 0;
  add_text(group, letters, 0, 0.36 * size + down, size,
           bare ? std::string("middle word") : "middle strong " + on_class(piece.tone));
}

}  // namespace

double text_width(std::string_view text, double size) {
  return 0.62 * size * static_cast<double>(character_count(text));
}

void add_text(xml_node parent, std::string_view text, double x, double y, double size,
              std::string_view classes) {
  add_element(parent, "text", {{"x", x}, {"y", y}, {"font-size", size}, {"class", classes}}, text);
}

void add_piece(xml_node parent, const Piece& given, double x, double y, double r) {
  if (given.shape == Shape::pair) {
    add_pair(parent, given, x, y, r);
    return;
  }
  Piece piece = given;
  if (piece.shape == Shape::letters && is_of_role(piece.tone)) piece.shape = Shape::disc;
  const xml_node group = add_group_at(parent, x, y);
  if (piece.shape != Shape::letters) {
    const xml_node shape = add_element(group, "g",
                                       {{"class", fill_class(piece.tone)},
                                        {"stroke-width", piece.tone == Tone::second ? 2.6 : 1.4}});
    constexpr std::array<int, 5> turns = {0, 0, 90, 180, 270};
    const int turned = turns[static_cast<std::size_t>(piece.pointing)];
    if (turned != 0) set_attribute(shape, {"transform", fmt::format("rotate({})", turned)});
    add_outline(shape, piece, r);
    add_details(shape, piece, r);
  }
  if (!piece.letters.empty()) add_letters(group, piece, r);
  if (piece.count > 1) add_count(group, piece, r);
}

}  // namespace orchard::picture
