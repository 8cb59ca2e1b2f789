// A picture is laid out from the top: title, board with its labels, legend, trays, counters,
// captions.
#include "picture/written/svg_scene.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "picture/inferred/glyphs.hpp"
#include "picture/scene/palette.hpp"
#include "picture/written/shapes.hpp"
#include "picture/written/text.hpp"

namespace orchard::picture {
namespace {

constexpr double square = 64;      // pixels
constexpr double label_room = 26;  // for row and column labels
constexpr double letter = 15;      // size of words
constexpr double small_letter = 12.5;
constexpr double line_height = 23;
constexpr double least_width = 260;
constexpr std::size_t full_legend = 6;  // entries; of more, only those in the position
constexpr double widest = 1180;         // of a line of words

// A cell of a comb whose sides lie `apothem` from its centre.
std::string hexagon(const Spot& spot, double x, double y, double apothem, std::string_view classes,
                    double stroke, std::string_view more) {
  const double r = apothem / 0.866;
  std::string points;
  for (int i = 0; i < 6; ++i) {
    const double angle =
        std::numbers::pi / 3 * (i + (spot.outline == Outline::flat_hexagon ? 0.5 : 0.0));
    points += fmt::format("{}{:.1f},{:.1f}", i == 0 ? "" : " ", x + r * std::sin(angle),
                          y - r * std::cos(angle));
  }
  return fmt::format("<polygon points=\"{}\" class=\"{}\" stroke-width=\"{:.1f}\"{}/>", points,
                     classes, stroke, more);
}

class SceneWriter {
 public:
  explicit SceneWriter(const Scene& scene) : scene_(scene) {}

  Block write();

 private:
  void add_title();
  void add_board(const Board& board);
  void add_ground(const Spot& spot);
  void add_contents(const Spot& spot);
  void add_pieces(const Spot& spot, double x, double y, double room);
  void add_links(const Board& board, bool below);
  void add_long_pieces(const Board& board);
  void add_legend(const Board& board);
  void add_trays();
  void add_counters();
  void add_words(const std::string& text);
  void take(double width) { width_ = std::max(width_, width); }
  double width_to_fill() const { return std::max(width_, least_width); }

  const Scene& scene_;
  std::string svg_;
  double width_ = 0;
  double y_ = 0;
  double left_ = 0;  // of the board being drawn
  double top_ = 0;
};

void SceneWriter::add_title() {
  if (scene_.title.empty()) return;
  svg_ += text_svg(scene_.title, 0, 16, letter, "word strong");
  take(text_width(scene_.title, letter) * 1.08);
  y_ += 30;
}

void SceneWriter::add_words(const std::string& text) {
  const double room = std::min(widest, width_to_fill());
  std::string line;
  const auto flush = [&] {
    if (line.empty()) return;
    svg_ += text_svg(line, 0, y_ + 16, letter, "word");
    take(text_width(line, letter));
    y_ += line_height;
    line.clear();
  };
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find(' ', at), text.size());
    const std::string word = text.substr(at, end - at);
    if (!line.empty() && text_width(line + " " + word, letter) > room) flush();
    line += (line.empty() ? "" : " ") + word;
    at = end + 1;
  }
  flush();
}

void SceneWriter::add_pieces(const Spot& spot, double x, double y, double room) {
  const std::size_t count = spot.pieces.size();
  if (count == 0) return;
  const std::size_t across = count == 1 ? 1 : count <= 4 ? 2 : 3;
  const std::size_t down = (count + across - 1) / across;
  const double cell = room / static_cast<double>(across);
  const double r = (count == 1 ? 0.40 : 0.47) * std::min(cell, room / static_cast<double>(down));
  for (std::size_t i = 0; i < count; ++i) {
    const double column = static_cast<double>(i % across);
    const double row = static_cast<double>(i / across);
    const double in_row = i / across + 1 == down && count % across != 0
                              ? static_cast<double>(count % across)
                              : static_cast<double>(across);
    svg_ += piece_svg(spot.pieces[i], x + (column - (in_row - 1) / 2) * cell,
                      y + (row - static_cast<double>(down - 1) / 2) * cell, r);
  }
}

void SceneWriter::add_ground(const Spot& spot) {
  const double x = left_ + spot.x * square;
  const double y = top_ + spot.y * square;
  const double half = square / 2;
  const std::string ground = spot.deciding ? std::string("deciding") : ground_class(spot.ground);
  const std::string outline = spot.deciding ? "deciding-edge" : "edge";
  const auto area = [&](std::string_view classes, double inset, double stroke,
                        std::string_view more = {}) {
    if (spot.outline == Outline::flat_hexagon || spot.outline == Outline::pointed_hexagon) {
      return hexagon(spot, x, y, half - inset, classes, stroke, more);
    }
    if (spot.outline == Outline::square) {
      return fmt::format(
          "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" "
          "rx=\"7\" class=\"{}\" stroke-width=\"{:.1f}\"{}/>",
          x - half + inset, y - half + inset, square - 2 * inset, square - 2 * inset, classes,
          stroke, more);
    }
    return fmt::format(
        "<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"{:.1f}\" class=\"{}\" "
        "stroke-width=\"{:.1f}\"{}/>",
        x, y, half - inset, classes, stroke, more);
  };
  svg_ += area(spot.hidden ? "covered edge" : ground + " " + outline, 2, spot.deciding ? 3.4 : 1.2);
  if (spot.hidden) {
    // Woven: a covered place is told by its strokes as well as by its colour.
    for (int i = -1; i <= 1; ++i) {
      const double d = i * square * 0.24;
      svg_ += fmt::format(
          "<path d=\"M{:.1f} {:.1f}L{:.1f} {:.1f}\" class=\"hatch\" "
          "stroke-width=\"3\"/>",
          x - half * 0.55 + d / 2, y + half * 0.55 + d / 2, x + half * 0.55 + d / 2,
          y - half * 0.55 + d / 2);
    }
  }
  if (spot.marked && !spot.deciding) {
    svg_ += area("accent", 6, 2, " stroke-dasharray=\"5 4\"");
  }
}

void SceneWriter::add_contents(const Spot& spot) {
  const double x = left_ + spot.x * square;
  const double y = top_ + spot.y * square;
  const double half = square / 2;
  const bool label_above = !spot.label.empty();
  if (spot.unknown) svg_ += text_svg("?", x, y + 8, 24, "quiet middle");
  add_pieces(spot, x, y + (label_above ? 7 : 0), label_above ? square * 0.78 : square);
  if (label_above) {
    if (spot.outline == Outline::square) {
      svg_ += text_svg(spot.label, x - half + 7, y - half + 16, small_letter, "word");
    } else {
      svg_ += text_svg(spot.label, x, y - half + 15, small_letter, "word middle");
    }
  }
  if (!spot.choices.empty()) {
    const double corner = spot.outline == Outline::square ? half - 7 : half * 0.62;
    const double arm = 10;
    for (const double sx : {-1.0, 1.0}) {
      for (const double sy : {-1.0, 1.0}) {
        svg_ += fmt::format(
            "<path d=\"M{:.1f} {:.1f}h{:.1f}M{:.1f} {:.1f}v{:.1f}\" "
            "class=\"accent\" stroke-width=\"2.4\" stroke-linecap=\"round\"/>",
            x + sx * corner, y + sy * corner, -sx * arm, x + sx * corner, y + sy * corner,
            -sy * arm);
      }
    }
    const std::string number =
        fmt::format("{}{}", spot.choices.front(), spot.choices.size() > 1 ? "+" : "");
    if (spot.pieces.empty() && !spot.unknown && !spot.hidden) {
      svg_ += text_svg(number, x, y + (label_above ? 10 : 5), letter, "accent-word middle");
    } else {
      // A badge, so that the number is read over whatever stands there.
      const double wide = 10 + text_width(number, small_letter);
      svg_ += fmt::format(
          "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"17\" "
          "rx=\"8\" class=\"paper accent-edge\" stroke-width=\"1.4\"/>",
          x + corner - wide + 4, y + corner - 13, wide);
      svg_ += text_svg(number, x + corner - wide / 2 + 4, y + corner, small_letter,
                       "accent-word middle");
    }
  }
}

void SceneWriter::add_links(const Board& board, bool below) {
  for (const Link& link : board.links) {
    if ((link.kind == Link::Kind::edge) != below) continue;
    const Spot& from = board.spots[link.from];
    const Spot& to = board.spots[link.to];
    double x1 = left_ + from.x * square;
    double y1 = top_ + from.y * square;
    double x2 = left_ + to.x * square;
    double y2 = top_ + to.y * square;
    if (below) {
      svg_ += fmt::format(
          "<path d=\"M{:.1f} {:.1f}L{:.1f} {:.1f}\" class=\"edge\" "
          "stroke-width=\"3\"/>",
          x1, y1, x2, y2);
      continue;
    }
    const double length = std::max(1.0, std::hypot(x2 - x1, y2 - y1));
    const double ux = (x2 - x1) / length;
    const double uy = (y2 - y1) / length;
    const bool arrow = link.kind == Link::Kind::arrow;
    if (arrow) {
      x1 += ux * square * 0.2;
      y1 += uy * square * 0.2;
      x2 -= ux * square * 0.34;
      y2 -= uy * square * 0.34;
    }
    svg_ += fmt::format(
        "<path d=\"M{:.1f} {:.1f}L{:.1f} {:.1f}\" class=\"round {}\" "
        "stroke-width=\"5\" stroke-opacity=\".8\"/>",
        x1, y1, x2, y2, stroke_class(link.tone));
    if (!arrow) continue;
    svg_ += fmt::format("<path d=\"M{:.1f} {:.1f}L{:.1f} {:.1f}L{:.1f} {:.1f}Z\" class=\"{}\"/>",
                        x2 + ux * 14, y2 + uy * 14, x2 - uy * 8, y2 + ux * 8, x2 + uy * 8,
                        y2 - ux * 8, fill_class(link.tone));
  }
}

void SceneWriter::add_long_pieces(const Board& board) {
  for (const LongPiece& next : board.long_pieces) {
    const Spot& from = board.spots[next.from];
    const Spot& to = board.spots[next.to];
    const double x = left_ + (from.x + to.x) / 2 * square;
    const double y = top_ + (from.y + to.y) / 2 * square;
    const bool upright = std::abs(from.x - to.x) < std::abs(from.y - to.y);
    if (next.piece.shape == Shape::pair) {
      Piece piece = next.piece;
      // Read from the left, or from the top.
      if ((upright && from.y > to.y) || (!upright && from.x > to.x)) {
        std::swap(piece.letters, piece.more_letters);
      }
      svg_ += fmt::format("<g transform=\"rotate({} {:.1f} {:.1f})\">{}</g>", upright ? 90 : 0, x,
                          y, piece_svg(piece, x, y, square * 0.8));
      continue;
    }
    const double w = upright ? square * 0.62 : square * 1.66;
    const double h = upright ? square * 1.66 : square * 0.62;
    svg_ += fmt::format(
        "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" "
        "rx=\"16\" class=\"{}\" stroke-width=\"2\"/>",
        x - w / 2, y - h / 2, w, h, fill_class(next.piece.tone));
    if (!next.piece.letters.empty()) {
      svg_ +=
          text_svg(next.piece.letters, x, y + 7, 20, "middle strong " + on_class(next.piece.tone));
    }
  }
}

void SceneWriter::add_board(const Board& board) {
  double right = 0;
  double bottom = 0;
  for (const Spot& spot : board.spots) {
    right = std::max(right, spot.x + (spot.outline == Outline::flat_hexagon ? 0.58 : 0.5));
    bottom = std::max(bottom, spot.y + (spot.outline == Outline::pointed_hexagon ? 0.58 : 0.5));
  }
  double longest = 0;
  for (const AxisLabel& label : board.rows) {
    longest = std::max(longest, text_width(label.text, small_letter));
  }
  left_ = board.rows.empty() ? 2 : std::max(label_room - 6, longest + 10);
  top_ = y_ + (board.columns.empty() ? 2 : label_room - 4);
  // Cells of a comb stick out by their corners.
  const bool comb = !board.spots.empty() && board.spots.front().outline != Outline::square &&
                    board.spots.front().outline != Outline::round;
  if (comb) left_ += 0.08 * square;
  if (comb) top_ += 0.08 * square;
  for (const AxisLabel& label : board.rows) {
    svg_ +=
        text_svg(label.text, left_ - 8, top_ + label.at * square + 4.5, small_letter, "quiet end");
  }
  for (const AxisLabel& label : board.columns) {
    svg_ += text_svg(label.text, left_ + label.at * square, top_ - 8, small_letter, "quiet middle");
  }
  add_links(board, true);
  for (const Spot& spot : board.spots) add_ground(spot);
  add_links(board, false);
  for (const Spot& spot : board.spots) add_contents(spot);
  add_long_pieces(board);
  take(left_ + right * square + 2);
  y_ = top_ + bottom * square + 14;
  add_legend(board);
}

void SceneWriter::add_legend(const Board& board) {
  double x = 0;
  constexpr double r = 10;
  const auto new_line = [&] {
    x = 0;
    y_ += line_height;
  };
  bool any = false;
  const auto add = [&](const Piece* piece, const std::string& words) {
    const double wide = (piece != nullptr ? 2 * r + 8 : 0) + text_width(words, small_letter) + 16;
    if (x > 0 && x + wide > std::max(width_to_fill(), 300.0)) new_line();
    if (piece != nullptr) svg_ += piece_svg(*piece, x + r, y_ + r, r);
    svg_ +=
        text_svg(words, x + (piece != nullptr ? 2 * r + 6 : 0), y_ + r + 4.5, small_letter, "word");
    take(x + wide - 16);
    x += wide;
    any = true;
  };
  for (const Piece& piece : board.legend) {
    const bool present = std::ranges::any_of(board.spots, [&](const Spot& spot) {
      return std::ranges::any_of(spot.pieces, [&](const Piece& other) {
        return glyph_of(other, true, scene_.roles) == glyph_of(piece, true, scene_.roles);
      });
    });
    if ((present || board.legend.size() <= full_legend) && piece.meaning != piece.letters)
      add(&piece, piece.meaning);
  }
  if (!board.unknown.empty()) add(nullptr, "? " + board.unknown);
  if (any) y_ += line_height + 4;
}

void SceneWriter::add_trays() {
  if (scene_.trays.empty()) return;
  double longest = 0;
  for (const Tray& tray : scene_.trays) {
    longest = std::max(longest, text_width(tray.name, letter));
  }
  constexpr double r = 19;
  for (const Tray& tray : scene_.trays) {
    svg_ += fmt::format("<circle cx=\"6\" cy=\"{:.1f}\" r=\"5\" class=\"{}\"/>", y_ + 20,
                        fill_class(tray.tone));
    svg_ += text_svg(tray.name, 18, y_ + 25, letter, "word");
    double x = longest + 30;
    const double start = x;
    for (const Piece& piece : tray.pieces) {
      const double wide = piece.shape == Shape::pair ? 2 * r + 10
                          : piece.shape == Shape::letters
                              ? std::max(2 * r, text_width(piece.letters, letter)) + 8
                              : 2 * r + 4;
      if (x > start && x + wide > widest * 0.6) {
        x = start;
        y_ += 2 * r + 6;
      }
      svg_ += piece_svg(piece, x + wide / 2, y_ + 20, r);
      x += wide;
      take(x);
    }
    if (tray.pieces.empty()) svg_ += text_svg("–", x, y_ + 25, letter, "quiet");
    y_ += 2 * r + 8;
  }
  y_ += 4;
}

void SceneWriter::add_counters() {
  double longest = 0;
  for (const Counter& counter : scene_.counters) {
    if (counter.most) longest = std::max(longest, text_width(counter.name, letter));
  }
  for (const Counter& counter : scene_.counters) {
    if (!counter.most) continue;
    const double x = longest + 14;
    constexpr double wide = 160;
    const double full = wide * *counter.number / *counter.most;
    svg_ += text_svg(counter.name, 0, y_ + 16, letter, "word");
    svg_ += fmt::format(
        "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"13\" rx=\"6\" "
        "class=\"g-none edge\"/>",
        x, y_ + 4, wide);
    if (full > 0) {
      svg_ += fmt::format(
          "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"13\" rx=\"6\" "
          "class=\"{}\"/>",
          x, y_ + 4, std::max(full, 13.0), fill_class(counter.tone));
    }
    svg_ += text_svg(fmt::format("{} of {}", *counter.number, *counter.most), x + wide + 10,
                     y_ + 16, letter, "word");
    take(x + wide + 10 + text_width("100 of 100", letter));
    y_ += line_height;
  }
  double x = 0;
  bool any = false;
  for (const Counter& counter : scene_.counters) {
    if (counter.most) continue;
    const std::string words = fmt::format("{} {}", counter.name, counter.value);
    const double wide = 18 + text_width(words, letter) + 18;
    if (x > 0 && x + wide > std::max(width_to_fill(), 360.0)) {
      x = 0;
      y_ += line_height;
    }
    svg_ += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"5\" class=\"{}\"/>", x + 6,
                        y_ + 11, fill_class(counter.tone));
    svg_ += text_svg(words, x + 18, y_ + 16, letter, "word");
    take(x + wide - 18);
    x += wide;
    any = true;
  }
  if (any) y_ += line_height;
}

Block SceneWriter::write() {
  add_title();
  for (const Board& board : scene_.boards) add_board(board);
  add_trays();
  add_counters();
  for (const std::string& caption : scene_.captions) add_words(caption);
  if (!scene_.listed.empty()) {
    std::string words = scene_.boards.empty() ? "" : "also:";
    for (const std::string& fluent : scene_.listed) words += (words.empty() ? "" : " ") + fluent;
    add_words(words);
  }
  return {std::move(svg_), width_, y_};
}

}  // namespace

Block write_scene(const Scene& scene) {
  return SceneWriter(scene).write();
}

}  // namespace orchard::picture
