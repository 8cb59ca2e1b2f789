#include "picture/written/shapes.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "picture/inferred/glyphs.hpp"
#include "picture/scene/palette.hpp"

namespace orchard::picture {
namespace {

// A corner of a polygon round the middle, `turn` in parts of a full turn, 0 at the top.
std::string corner(double r, double turn) {
  const double angle = 2 * std::numbers::pi * turn;
  return fmt::format("{:.1f},{:.1f} ", r * std::sin(angle), -r * std::cos(angle));
}

std::string polygon(double r, int corners, double first, double inner = 1.0) {
  std::string points;
  for (int i = 0; i < corners; ++i) {
    points += corner(i % 2 == 1 ? r * inner : r, first + static_cast<double>(i) / corners);
  }
  points.pop_back();
  return fmt::format("<polygon points=\"{}\"/>", points);
}

std::string blossom(double r) {
  std::string petals;
  for (int i = 0; i < 5; ++i) {
    const double angle = 2 * std::numbers::pi * i / 5;
    petals += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"{:.1f}\"/>",
                          0.56 * r * std::sin(angle), -0.56 * r * std::cos(angle), 0.42 * r);
  }
  return petals;
}

std::string spiral(double r, Tone tone) {
  std::string path;
  constexpr int steps = 40;
  for (int i = 0; i <= steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    const double angle = 2 * std::numbers::pi * 2 * t;
    path += fmt::format("{}{:.1f} {:.1f} ", i == 0 ? "M" : "L", 0.78 * r * t * std::sin(angle),
                        -0.78 * r * t * std::cos(angle));
  }
  path.pop_back();
  return fmt::format(
      "<circle r=\"{:.1f}\"/><path d=\"{}\" class=\"round\" "
      "style=\"stroke-width:{:.1f};stroke:{}\"/>",
      0.95 * r, path, 0.13 * r, tone == Tone::second ? "#6b3f05" : "#ffffff");
}

// The outline of a shape round the origin, pointing up.
std::string outline(const Piece& piece, double r) {
  switch (piece.shape) {
    case Shape::disc:
      return fmt::format("<circle r=\"{:.1f}\"/>", 0.92 * r);
    case Shape::block:
      return fmt::format(
          "<rect x=\"{0:.1f}\" y=\"{0:.1f}\" width=\"{1:.1f}\" height=\"{1:.1f}\" rx=\"{2:.1f}\"/>",
          -0.82 * r, 1.64 * r, 0.16 * r);
    case Shape::diamond:
      return polygon(r, 4, 0);
    case Shape::triangle:
      return polygon(r, 3, 0);
    case Shape::star:
      return polygon(r, 10, 0, 0.45);
    case Shape::hexagon:
      return polygon(r, 6, 0);
    case Shape::drop:
      return fmt::format(
          "<path d=\"M0 {0:.1f}C{1:.1f} {2:.1f} {3:.1f} {4:.1f} 0 {5:.1f}"
          "C{6:.1f} {4:.1f} {7:.1f} {2:.1f} 0 {0:.1f}Z\"/>",
          -r, 0.45 * r, -0.3 * r, 0.95 * r, 0.95 * r, 0.95 * r, -0.95 * r, -0.45 * r);
    case Shape::leaf:
      return fmt::format(
          "<path d=\"M{0:.1f} {1:.1f}C{0:.1f} {2:.1f} {3:.1f} {0:.1f} {1:.1f} {0:.1f}"
          "C{1:.1f} {4:.1f} {5:.1f} {1:.1f} {0:.1f} {1:.1f}Z\"/>",
          -0.8 * r, 0.8 * r, -0.3 * r, -0.3 * r, 0.3 * r, 0.3 * r);
    case Shape::blossom:
      return blossom(r);
    case Shape::spiral:
      return spiral(r, piece.tone);
    case Shape::cross: {
      const double arm = 0.9 * r;
      const double half = 0.3 * r;
      return fmt::format(
          "<path d=\"M{0:.1f} "
          "{1:.1f}H{2:.1f}V{0:.1f}H{3:.1f}V{2:.1f}H{2:.1f}V{3:.1f}H{0:.1f}V{2:.1f}"
          "H{1:.1f}V{0:.1f}H{0:.1f}Z\"/>",
          -half, -arm, half, arm);
    }
    case Shape::dot:
      return fmt::format("<circle r=\"{:.1f}\"/>", 0.4 * r);
    case Shape::half:
      return fmt::format(
          "<circle r=\"{0:.1f}\" class=\"paper\"/>"
          "<path d=\"M0 {1:.1f}A{0:.1f} {0:.1f} 0 0 0 0 {0:.1f}Z\"/>",
          0.88 * r, -0.88 * r);
    case Shape::letters:
    case Shape::pair:
      return {};
  }
  return {};
}

// The vein of a leaf and the heart of a blossom, over the outline.
std::string details(const Piece& piece, double r) {
  if (piece.shape == Shape::leaf && piece.letters.empty()) {
    return fmt::format(
        "<path d=\"M{0:.1f} {1:.1f}L{2:.1f} {3:.1f}\" class=\"round {4}\" "
        "style=\"stroke-width:{5:.1f};stroke:#ffffff;stroke-opacity:.7\"/>",
        -0.75 * r, 0.75 * r, 0.5 * r, -0.5 * r, stroke_class(piece.tone), 0.09 * r);
  }
  if (piece.shape == Shape::blossom && piece.letters.empty()) {
    return fmt::format("<circle r=\"{:.1f}\" class=\"{}\"/>", 0.26 * r, fill_class(Tone::sun));
  }
  return {};
}

std::string pair_svg(const Piece& piece, double x, double y, double r) {
  const double w = 1.0 * r;
  const double h = 0.62 * r;
  std::string text = fmt::format(
      "<g transform=\"translate({0:.1f} {1:.1f})\"><rect x=\"{2:.1f}\" y=\"{3:.1f}\" "
      "width=\"{4:.1f}\" "
      "height=\"{5:.1f}\" rx=\"{6:.1f}\" class=\"g-quiet {7}\" stroke-width=\"2\"/>"
      "<path d=\"M0 {3:.1f}V{8:.1f}\" class=\"{7}\" stroke-width=\"1.5\"/>",
      x, y, -w, -h, 2 * w, 2 * h, 0.18 * r, stroke_class(piece.tone), h);
  const double size = 0.62 * r;
  text += text_svg(piece.letters, -0.5 * w, 0.36 * size, size, "middle word");
  text += text_svg(piece.more_letters, 0.5 * w, 0.36 * size, size, "middle word");
  return text + "</g>";
}

}  // namespace

std::string escaped(std::string_view text) {
  std::string result;
  for (const char c : text) {
    switch (c) {
      case '<':
        result += "&lt;";
        break;
      case '>':
        result += "&gt;";
        break;
      case '&':
        result += "&amp;";
        break;
      case '"':
        result += "&quot;";
        break;
      default:
        result += c;
    }
  }
  return result;
}

double text_width(std::string_view text, double size) {
  return 0.62 * size * static_cast<double>(character_count(text));
}

std::string text_svg(std::string_view text, double x, double y, double size,
                     std::string_view classes) {
  return fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\" font-size=\"{:.1f}\" class=\"{}\">{}</text>",
                     x, y, size, classes, escaped(text));
}

std::string piece_svg(const Piece& given, double x, double y, double r) {
  if (given.shape == Shape::pair) return pair_svg(given, x, y, r);
  Piece piece = given;
  if (piece.shape == Shape::letters && is_of_role(piece.tone)) piece.shape = Shape::disc;
  std::string text = fmt::format("<g transform=\"translate({:.1f} {:.1f})\">", x, y);
  if (piece.shape != Shape::letters) {
    constexpr std::array<int, 5> turns = {0, 0, 90, 180, 270};
    const int turned = turns[static_cast<std::size_t>(piece.pointing)];
    text +=
        fmt::format("<g class=\"{}\" stroke-width=\"{:.1f}\"{}>{}{}</g>", fill_class(piece.tone),
                    piece.tone == Tone::second ? 2.6 : 1.4,
                    turned == 0 ? std::string() : fmt::format(" transform=\"rotate({})\"", turned),
                    outline(piece, r), details(piece, r));
  }
  if (!piece.letters.empty()) {
    std::string letters = piece.letters;
    if (letters.size() == 1 && letters[0] >= 'a' && letters[0] <= 'z' &&
        piece.shape != Shape::letters) {
      letters[0] = static_cast<char>(letters[0] - 'a' + 'A');
    }
    const double room = piece.shape == Shape::letters ? 2.1 * r : 1.35 * r;
    const double length = static_cast<double>(std::max<std::size_t>(character_count(letters), 1));
    const double size =
        std::min(piece.shape == Shape::letters ? 1.15 * r : r, room / (0.64 * length));
    const std::string classes = piece.shape != Shape::letters
                                    ? "middle strong " + on_class(piece.tone)
                                    : std::string("middle word");
    const double down = piece.shape == Shape::triangle ? 0.25 * r : 0;
    text += text_svg(letters, 0, 0.36 * size + down, size, classes);
  }
  if (piece.count > 1) {
    // On a field of its own within the piece's circle, so that it is read over whatever it covers.
    const std::string number = fmt::format("×{}", piece.count);
    const double size = std::max(10.0, 0.5 * r);
    const double wide = text_width(number, size) + 6;
    const double x_of = wide / 2 - 0.95 * r;  // the right corner is for numbers of moves
    const double y_of = 0.62 * r;
    text += fmt::format(
        "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" "
        "rx=\"4\" class=\"paper\"/>",
        x_of - wide / 2, y_of - 0.62 * size, wide, 1.24 * size);
    text += text_svg(number, x_of, y_of + 0.36 * size, size, "word strong middle");
  }
  return text + "</g>";
}

}  // namespace orchard::picture
