// A picture is laid out from the top: title, board with its labels, legend, trays, counters,
// captions.
#include "picture/written/svg_scene.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/markup.hpp"
#include "picture/inferred/glyphs.hpp"
#include "picture/scene/palette.hpp"
#include "picture/written/shapes.hpp"
#include "picture/written/svg_places.hpp"
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

// The corners of a cell of a comb whose sides lie `apothem` from its centre.
std::string hexagon_points(const Spot& spot, double x, double y, double apothem) {
  const double r = apothem / 0.866;
  std::string points;
  for (int i = 0; i < 6; ++i) {
    const double angle =
        std::numbers::pi / 3 * (i + (spot.outline == Outline::flat_hexagon ? 0.5 : 0.0));
    points += fmt::format("{},{} ", short_number(x + r * std::sin(angle)),
                          short_number(y - r * std::cos(angle)));
  }
  return points;
}

std::string line_path(double x1, double y1, double x2, double y2) {
  return fmt::format("M{} {}L{} {}", short_number(x1), short_number(y1), short_number(x2),
                     short_number(y2));
}

class SceneWriter {
 public:
  SceneWriter(const Scene& scene, pugi::xml_node group, bool places)
      : scene_(scene), group_(group), places_(places) {}

  BlockSize write();

 private:
  void add_title();
  void add_board(const Board& board);
  void add_ground(const Spot& spot);
  pugi::xml_node add_area(const Spot& spot, std::string_view classes, double inset, double stroke);
  void add_choices(const Spot& spot);
  void add_contents(const Spot& spot);
  void add_pieces(const Spot& spot, double x, double y, double room);
  void add_links(const Board& board, bool below);
  void add_long_pieces(const Board& board);
  void add_legend(const Board& board);
  void add_trays();
  void add_counters();
  void add_words(const std::string& text);
  pugi::xml_node add(const char* name, std::initializer_list<Attribute> attributes) {
    return add_element(group_, name, attributes);
  }
  void add_words_at(std::string_view text, double x, double y, double size,
                    std::string_view classes) {
    add_text(group_, text, x, y, size, classes);
  }
  void take(double width) { width_ = std::max(width_, width); }
  double width_to_fill() const { return std::max(width_, least_width); }

  const Scene& scene_;
  pugi::xml_node group_;
  const bool places_;
  double width_ = 0;
  double y_ = 0;
  double left_ = 0;  // of the board being drawn
  double top_ = 0;
};

void SceneWriter::add_title() {
  if (scene_.title.empty()) return;
  add_words_at(scene_.title, 0, 16, letter, "word strong");
  take(text_width(scene_.title, letter) * 1.08);
  y_ += 30;
}

void SceneWriter::add_words(const std::string& text) {
  const double room = std::min(widest, width_to_fill());
  std::string line;
  const auto flush = [&] {
    if (line.empty()) return;
    add_words_at(line, 0, y_ + 16, letter, "word");
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
    add_piece(group_, spot.pieces[i], x + (column - (in_row - 1) / 2) * cell,
              y + (row - static_cast<double>(down - 1) / 2) * cell, r);
  }
}

pugi::xml_node SceneWriter::add_area(const Spot& spot, std::string_view classes, double inset,
                                     double stroke) {
  const double x = left_ + spot.x * square;
  const double y = top_ + spot.y * square;
  const double half = square / 2 - inset;
  pugi::xml_node area;
  if (spot.outline == Outline::flat_hexagon || spot.outline == Outline::pointed_hexagon) {
    area = add("polygon", {{"points", hexagon_points(spot, x, y, half)}});
  } else if (spot.outline == Outline::square) {
    area = add(
        "rect",
        {{"x", x - half}, {"y", y - half}, {"width", 2 * half}, {"height", 2 * half}, {"rx", 7}});
  } else {
    area = add("circle", {{"cx", x}, {"cy", y}, {"r", half}});
  }
  set_attribute(area, {"class", classes});
  set_attribute(area, {"stroke-width", stroke});
  return area;
}

void SceneWriter::add_ground(const Spot& spot) {
  if (spot.groundless && !spot.deciding && !spot.hidden && spot.ground == Tone::none) return;
  const std::string seen =
      spot.deciding ? std::string("deciding deciding-edge") : ground_class(spot.ground) + " edge";
  add_area(spot, spot.hidden ? "covered edge" : seen, 2, spot.deciding ? 3.4 : 1.2);
  if (spot.hidden) {
    // Woven: a covered place is told by its strokes as well as by its colour.
    const double x = left_ + spot.x * square;
    const double y = top_ + spot.y * square;
    const double reach = square / 2 * 0.55;
    for (int i = -1; i <= 1; ++i) {
      const double d = i * square * 0.12;
      add("path", {{"d", line_path(x - reach + d, y + reach + d, x + reach + d, y - reach + d)},
                   {"class", "hatch"},
                   {"stroke-width", 3}});
    }
  }
  if (spot.marked && !spot.deciding) {
    set_attribute(add_area(spot, "accent", 6, 2), {"stroke-dasharray", "5 4"});
  }
}

void SceneWriter::add_contents(const Spot& spot) {
  const double x = left_ + spot.x * square;
  const double y = top_ + spot.y * square;
  const double half = square / 2;
  const bool label_above = !spot.label.empty();
  if (spot.unknown) add_words_at("?", x, y + 8, 24, "quiet middle");
  add_pieces(spot, x, y + (label_above ? 7 : 0), label_above ? square * 0.78 : square);
  if (label_above) {
    if (spot.outline == Outline::square) {
      add_words_at(spot.label, x - half + 7, y - half + 16, small_letter, "word");
    } else {
      add_words_at(spot.label, x, y - half + 15, small_letter, "word middle");
    }
  }
  if (!spot.choices.empty()) add_choices(spot);
}

// Corners round the spot, and the number of the move.
void SceneWriter::add_choices(const Spot& spot) {
  const double x = left_ + spot.x * square;
  const double y = top_ + spot.y * square;
  const double corner = spot.outline == Outline::square ? square / 2 - 7 : square / 2 * 0.62;
  constexpr double arm = 10;
  for (const double sx : {-1.0, 1.0}) {
    for (const double sy : {-1.0, 1.0}) {
      const double corner_x = x + sx * corner;
      const double corner_y = y + sy * corner;
      add("path", {{"d", line_path(corner_x, corner_y, corner_x - sx * arm, corner_y) +
                             line_path(corner_x, corner_y, corner_x, corner_y - sy * arm)},
                   {"class", "accent"},
                   {"stroke-width", 2.4},
                   {"stroke-linecap", "round"}});
    }
  }
  const std::string number =
      fmt::format("{}{}", spot.choices.front(), spot.choices.size() > 1 ? "+" : "");
  if (spot.pieces.empty() && !spot.unknown && !spot.hidden) {
    add_words_at(number, x, y + (spot.label.empty() ? 5 : 10), letter, "accent-word middle");
    return;
  }
  // A badge, so that the number is legible over whatever stands there.
  const double wide = 10 + text_width(number, small_letter);
  add("rect", {{"x", x + corner - wide + 4},
               {"y", y + corner - 13},
               {"width", wide},
               {"height", 17},
               {"rx", 8},
               {"class", "paper accent-edge"},
               {"stroke-width", 1.4}});
  add_words_at(number, x + corner - wide / 2 + 4, y + corner, small_letter, "accent-word middle");
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
      add("path", {{"d", line_path(x1, y1, x2, y2)}, {"class", "edge"}, {"stroke-width", 3}});
      continue;
    }
    const double length = std::max(1.0, std::hypot(x2 - x1, y2 - y1));
    const double ux = (x2 - x1) / length;
    const double uy = (y2 - y1) / length;
    const bool arrow = link.kind == Link::Kind::arrow;
    if (link.kind == Link::Kind::deciding) {
      const double beyond = square * 0.3;
      const std::string path =
          line_path(x1 - ux * beyond, y1 - uy * beyond, x2 + ux * beyond, y2 + uy * beyond);
      add("path", {{"d", path}, {"class", "round deciding-edge"}, {"stroke-width", 7}});
      add("path", {{"d", path}, {"class", "round deciding-stroke"}, {"stroke-width", 3.4}});
      continue;
    }
    if (arrow) {
      x1 += ux * square * 0.2;
      y1 += uy * square * 0.2;
      x2 -= ux * square * 0.34;
      y2 -= uy * square * 0.34;
    }
    add("path", {{"d", line_path(x1, y1, x2, y2)},
                 {"class", "round " + stroke_class(link.tone)},
                 {"stroke-width", 5},
                 {"stroke-opacity", ".8"}});
    if (!arrow) continue;
    const std::string head = line_path(x2 + ux * 14, y2 + uy * 14, x2 - uy * 8, y2 + ux * 8);
    add("path", {{"d", fmt::format("{}L{} {}Z", head, short_number(x2 + uy * 8),
                                   short_number(y2 - ux * 8))},
                 {"class", fill_class(link.tone)}});
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
      const pugi::xml_node turned =
          add("g", {{"transform", fmt::format("rotate({} {} {})", upright ? 90 : 0, short_number(x),
                                              short_number(y))}});
      add_piece(turned, piece, x, y, square * 0.8);
      continue;
    }
    const double w = upright ? square * 0.62 : square * 1.66;
    const double h = upright ? square * 1.66 : square * 0.62;
    add("rect", {{"x", x - w / 2},
                 {"y", y - h / 2},
                 {"width", w},
                 {"height", h},
                 {"rx", 16},
                 {"class", fill_class(next.piece.tone)},
                 {"stroke-width", 2}});
    if (!next.piece.letters.empty()) {
      add_words_at(next.piece.letters, x, y + 7, 20, "middle strong " + on_class(next.piece.tone));
    }
  }
}

void SceneWriter::add_board(const Board& board) {
  if (!board.title.empty()) {
    add_words_at(board.title, 0, y_ + 16, letter, "word strong");
    take(text_width(board.title, letter) * 1.08);
    y_ += 28;
  }
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
    add_words_at(label.text, left_ - 8, top_ + label.at * square + 4.5, small_letter, "quiet end");
  }
  for (const AxisLabel& label : board.columns) {
    add_words_at(label.text, left_ + label.at * square, top_ - 8, small_letter, "quiet middle");
  }
  add_links(board, true);
  for (const Spot& spot : board.spots) add_ground(spot);
  for (const Spot& spot : board.spots) add_contents(spot);
  add_long_pieces(board);
  // Over the pieces: a stroke that ends under one is not seen to reach it.
  add_links(board, false);
  if (places_) {
    for (const Spot& spot : board.spots) {
      make_place(add_area(spot, "place", 2, 0), spot, board, scene_.roles);
    }
  }
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
    if (piece != nullptr) add_piece(group_, *piece, x + r, y_ + r, r);
    add_words_at(words, x + (piece != nullptr ? 2 * r + 6 : 0), y_ + r + 4.5, small_letter, "word");
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
    add("circle", {{"cx", 6}, {"cy", y_ + 20}, {"r", 5}, {"class", fill_class(tray.tone)}});
    add_words_at(tray.name, 18, y_ + 25, letter, "word");
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
      add_piece(group_, piece, x + wide / 2, y_ + 20, r);
      x += wide;
      take(x);
    }
    if (tray.pieces.empty()) add_words_at("–", x, y_ + 25, letter, "quiet");
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
    const auto add_bar = [&](double from, double width, const std::string& classes) {
      add("rect", {{"x", from},
                   {"y", y_ + 4},
                   {"width", width},
                   {"height", 13},
                   {"rx", 6},
                   {"class", classes}});
    };
    add_words_at(counter.name, 0, y_ + 16, letter, "word");
    add_bar(x, wide, "g-none edge");
    if (full > 0) add_bar(x, std::max(full, 13.0), fill_class(counter.tone));
    add_words_at(fmt::format("{} of {}", *counter.number, *counter.most), x + wide + 10, y_ + 16,
                 letter, "word");
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
    add("circle", {{"cx", x + 6}, {"cy", y_ + 11}, {"r", 5}, {"class", fill_class(counter.tone)}});
    add_words_at(words, x + 18, y_ + 16, letter, "word");
    take(x + wide - 18);
    x += wide;
    any = true;
  }
  if (any) y_ += line_height;
}

BlockSize SceneWriter::write() {
  add_title();
  for (const Board& board : scene_.boards) add_board(board);
  add_trays();
  add_counters();
  for (const std::string& caption : scene_.captions) add_words(caption);
  if (!scene_.listed.empty()) {
    std::string words = scene_.boards.empty() ? "" : "also:";
    for (const std::string& fluent : scene_.listed) {
      words += words.empty() ? "" : " ";
      for (const char c : fluent) c == ' ' ? words += "\u00a0" : words += c;  // no break within
    }
    add_words(words);
  }
  return {width_, y_};
}

}  // namespace

BlockSize add_scene(pugi::xml_node group, const Scene& scene, bool places) {
  return SceneWriter(scene, group, places).write();
}

}  // namespace orchard::picture
