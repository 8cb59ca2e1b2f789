#include "picture/written/text.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>

#include "picture/inferred/glyphs.hpp"
#include "picture/written/canvas.hpp"

namespace orchard::picture {
namespace {

// How a board is written: the first of these that is no wider than it may be, else the last.
struct Density {
  std::size_t least_cell = 5;   // characters, so that boards keep their size in play
  bool numbers_choices = true;  // else a dot tells that there are some
};
constexpr std::array<Density, 4> densities = {{{5, true}, {3, true}, {3, false}, {1, false}}};
constexpr std::string_view wall_tone = "38;5;242";
constexpr std::string_view mark_tone = "38;5;150";
constexpr std::string_view deciding_tone = "1;38;5;231";
constexpr std::size_t full_legend_entries = 6;  // entries; of more, only those in the position

// Apart in lightness as well as in hue.
constexpr std::array<std::string_view, 13> tones = {
    "",        "1;38;5;75", "1;38;5;214", "1;38;5;115", "1;38;5;176", "38;5;114", "38;5;137",
    "38;5;81", "38;5;221",  "38;5;168",   "38;5;248",   "",           "38;5;242"};

std::string_view ansi(Tone tone, const Scene& scene) {
  if (is_of_role(tone)) {
    const auto role = static_cast<std::size_t>(tone) - static_cast<std::size_t>(Tone::first);
    if (scene.role_colours[role]) return scene.role_colours[role]->terminal;
  }
  return tones[static_cast<std::size_t>(tone)];
}

struct ShapeGlyphs {
  std::string_view filled, hollow;          // of the first role and of nobody; of the second
  std::string_view ascii, ascii_of_others;  // of the first role; of everything else
};
constexpr std::array<ShapeGlyphs, 15> shapes = {{
    {"", "", "", ""},
    {"●", "○", "O", "o"},
    {"■", "□", "B", "b"},
    {"◆", "◇", "D", "d"},
    {"▲", "△", "T", "t"},
    {"★", "☆", "S", "s"},
    {"⬢", "⬡", "H", "h"},
    {"≈", "≈", "~", "~"},
    {"♠", "♤", "L", "l"},
    {"✿", "❀", "F", "f"},
    {"@", "©", "@", "a"},
    {"✚", "✛", "+", "x"},
    {"•", "◦", ".", "."},
    {"◐", "◐", "%", "%"},
    {"", "", "", ""},
}};

std::string upper(std::string text) {
  for (char& c : text) {
    if (c >= 'a' && c <= 'z') c = static_cast<char>(c - 'a' + 'A');
  }
  return text;
}

std::string_view arrow(Direction direction, bool unicode) {
  constexpr std::array<std::string_view, 5> drawn = {"", "↑", "→", "↓", "←"};
  constexpr std::array<std::string_view, 5> plain = {"", "^", ">", "v", "<"};
  return (unicode ? drawn : plain)[static_cast<std::size_t>(direction)];
}

// Text with its tone, so that padding counts characters and not escapes.
struct Toned {
  std::string text;
  std::string_view tone;
};

std::size_t width_of(const std::vector<Toned>& parts) {
  std::size_t width = 0;
  for (const Toned& part : parts) width += character_count(part.text);
  return width;
}

class BoardWriter {
 public:
  // With `fits`, within the width of the style if that can be.
  BoardWriter(const Scene& scene, const Board& board, const TextStyle& style, bool fits)
      : scene_(scene), board_(board), style_(style) {
    for (const Density& density : densities) {
      density_ = density;
      measure();
      keep_width(&density == densities.data());
      if (!fits || indent() + columns() <= static_cast<std::size_t>(style.width)) break;
    }
  }

  BoardText write();
  std::string below() const;

 private:
  std::vector<Toned> contents(const Spot& spot) const;
  void measure();
  void keep_width(bool roomiest);
  std::size_t indent() const { return label_width_ + 2; }
  std::size_t columns() const { return (halves_ + 2) * (width_ + 1) / 2 + 1; }
  std::size_t left_of(const Spot& spot) const {
    return static_cast<std::size_t>(spot.raster_half) * (width_ + 1) / 2;
  }
  std::string header_lines() const;
  std::string legend() const;
  std::string links() const;
  std::string name_of(std::size_t spot) const { return typed_name(board_.spots[spot]); }

  const Scene& scene_;
  const Board& board_;
  const TextStyle& style_;
  Density density_;
  std::size_t width_ = 0;        // of a cell, odd
  std::size_t label_width_ = 0;  // of the row labels
  std::size_t downs_ = 0;        // half rows
  std::size_t halves_ = 0;
};

std::vector<Toned> BoardWriter::contents(const Spot& spot) const {
  std::vector<Toned> parts;
  const auto long_piece = [&](std::size_t end_of_spot) {
    for (const LongPiece& piece : board_.long_pieces) {
      const Spot* ends[] = {&board_.spots[piece.from], &board_.spots[piece.to]};
      if (ends[end_of_spot] == &spot) {
        Piece part = piece.piece;
        if (part.shape == Shape::pair) {
          part.shape = Shape::letters;
          if (end_of_spot == 1) part.letters = part.more_letters;
        }
        parts.push_back({glyph_of(part, style_.unicode, scene_.roles), ansi(part.tone, scene_)});
      }
    }
  };
  if (spot.hidden) {
    parts.push_back({style_.unicode ? "▒" : "#", ansi(Tone::quiet, scene_)});
  }
  if (spot.unknown) parts.push_back({"?", {}});
  const auto ends_in_digit = [&] {
    const char last = parts.empty() || parts.back().text.empty() ? ' ' : parts.back().text.back();
    return last >= '0' && last <= '9';
  };
  for (const Piece& piece : spot.pieces) {
    if (ends_in_digit() || (!parts.empty() && piece.letters.size() > 1)) {
      parts.push_back({" ", {}});
    }
    parts.push_back({glyph_of(piece, style_.unicode, scene_.roles), ansi(piece.tone, scene_)});
  }
  long_piece(0);
  long_piece(1);
  if (spot.deciding && !parts.empty()) {
    for (Toned& part : parts) part.tone = deciding_tone;
    parts.insert(parts.begin(), {style_.unicode ? "«" : "{", deciding_tone});
    parts.push_back({style_.unicode ? "»" : "}", deciding_tone});
  } else if (spot.marked) {
    if (parts.empty()) parts.push_back({" ", {}});
    parts.insert(parts.begin(), {"[", mark_tone});
    parts.push_back({"]", mark_tone});
  }
  if (!spot.label.empty()) {
    const std::string label = parts.empty() ? spot.label : spot.label + " ";
    parts.insert(parts.begin(), {label, ansi(Tone::quiet, scene_)});
  }
  if (!spot.choices.empty() && !density_.numbers_choices) {
    parts.push_back({style_.unicode ? "·" : "'", mark_tone});
  } else if (!spot.choices.empty()) {
    if (ends_in_digit()) parts.push_back({" ", {}});
    parts.push_back({fmt::format("{}{}{}{}", style_.unicode ? "‹" : "<", spot.choices.front(),
                                 spot.choices.size() > 1 ? "+" : "", style_.unicode ? "›" : ">"),
                     mark_tone});
  }
  return parts;
}

void BoardWriter::measure() {
  width_ = density_.least_cell;
  for (const Spot& spot : board_.spots) {
    const std::size_t used = width_of(contents(spot));
    const bool roomy = density_.least_cell > 3 && used > 4;
    width_ = std::max(width_, used + (roomy ? 1 : 0));
    downs_ = std::max(downs_, static_cast<std::size_t>(spot.raster_down));
    halves_ = std::max(halves_, static_cast<std::size_t>(spot.raster_half));
  }
  for (const AxisLabel& label : board_.columns) {
    if (density_.least_cell > 1) width_ = std::max(width_, character_count(label.text));
  }
  for (const AxisLabel& label : board_.rows) {
    label_width_ = std::max(label_width_, character_count(label.text));
  }
  width_ = std::max(width_, board_.glyph_width + (density_.least_cell > 1 ? 2 : 0));
  if (width_ % 2 == 0) ++width_;
}

// As wide as in the pictures before this one, where there is room for it.
void BoardWriter::keep_width(bool roomiest) {
  if (!style_.widths || !roomiest) return;
  const auto board = static_cast<std::size_t>(&board_ - scene_.boards.data());
  if (style_.widths->size() <= board) style_.widths->resize(board + 1, 0);
  std::size_t& kept = (*style_.widths)[board];
  const std::size_t needed = width_;
  width_ = std::max(kept, needed);
  if (indent() + columns() > static_cast<std::size_t>(style_.width)) width_ = needed;
  kept = width_;
}

// The labels of columns; those wider than a column stand upright.
std::string BoardWriter::header_lines() const {
  std::size_t longest = 0;
  for (const AxisLabel& label : board_.columns) {
    longest = std::max(longest, character_count(label.text));
  }
  if (longest == 0) return {};
  const bool upright = longest > width_;
  Canvas labels(columns(), upright ? longest : 1);
  for (const AxisLabel& label : board_.columns) {
    const std::size_t used = character_count(label.text);
    const std::size_t x = static_cast<std::size_t>(label.raster) * (width_ + 1) / 2 + 1;
    if (!upright) {
      labels.put(x + (width_ - used) / 2, 0, label.text);
      continue;
    }
    labels.put_down(x + width_ / 2, longest - used, label.text);
  }
  return labels.text(true, false, {}, indent());
}

BoardText BoardWriter::write() {
  const std::size_t lines = board_.ruled ? downs_ + 3 : downs_ / 2 + 3;
  Canvas canvas(columns(), lines);
  BoardText result;
  const auto line_of = [&](int down) {
    return static_cast<std::size_t>(board_.ruled ? down : down / 2) + 1;
  };
  result.text = header_lines();
  const auto first_line = static_cast<std::size_t>(std::ranges::count(result.text, '\n'));
  for (const Spot& spot : board_.spots) {
    const std::size_t x = left_of(spot);
    const std::size_t y = line_of(spot.raster_down);
    const bool first = y == 1;
    const bool last = y + 2 == lines;
    if (board_.ruled || first) canvas.wall_right(x, y - 1, width_ + 1);
    if (board_.ruled || last) canvas.wall_right(x, y + 1, width_ + 1);
    const std::size_t from = board_.ruled || first ? y - 1 : y;
    const std::size_t to = board_.ruled || last ? y + 1 : y;
    for (const std::size_t wall : {x, x + width_ + 1}) {
      if (to > from) {
        canvas.wall_down(wall, from, to - from);
      } else if (y > 0) {
        canvas.wall_down(wall, y - 1, 1);
      }
    }
    const std::vector<Toned> parts = contents(spot);
    const std::size_t used = width_of(parts);
    const std::size_t room = width_ > used ? width_ - used : 0;
    std::size_t at = x + 1 + room / 2;
    for (const Toned& part : parts) {
      canvas.put(at, y, part.text, part.tone);
      at += character_count(part.text);
    }
    result.places.push_back({y + first_line, indent() + x + 1, width_});
  }
  for (std::size_t y = 0; y < canvas.height(); ++y) {
    std::string name;
    for (const AxisLabel& label : board_.rows) {
      if (line_of(label.raster) == y) name = label.text;
    }
    const std::string line = canvas.line(y, style_.unicode, style_.colour, wall_tone);
    const std::string lead =
        fmt::format(" {}{} ", std::string(label_width_ - character_count(name), ' '), name);
    result.text += line.empty() ? "\n" : lead + line + "\n";
  }
  return result;
}

// What is joined beyond neighbouring squares, and strokes.
std::string BoardWriter::links() const {
  std::string joined;
  std::string strokes;
  for (const Link& link : board_.links) {
    const Spot& from = board_.spots[link.from];
    const Spot& to = board_.spots[link.to];
    if (link.kind == Link::Kind::deciding) continue;  // marked on the spots themselves
    if (link.kind == Link::Kind::edge) {
      const int across = std::abs(from.raster_half - to.raster_half);
      const int down = std::abs(from.raster_down - to.raster_down);
      if (across + down == 2) continue;  // side by side
      joined += fmt::format("{}{}{}{}", joined.empty() ? "" : "   ", name_of(link.from),
                            style_.unicode ? "–" : "-", name_of(link.to));
    } else {
      const bool arrow_drawn = link.kind == Link::Kind::arrow;
      strokes +=
          fmt::format("{}{} {} {}", strokes.empty() ? "" : "   ", name_of(link.from),
                      arrow_drawn ? (style_.unicode ? "→" : "->") : (style_.unicode ? "—" : "--"),
                      name_of(link.to));
    }
  }
  std::string text;
  if (!joined.empty()) text += "   joined: " + joined + "\n";
  if (!strokes.empty()) text += "   lines: " + strokes + "\n";
  return text;
}

std::string BoardWriter::legend() const {
  std::vector<std::pair<std::string, std::size_t>> entries;  // with their widths, without tones
  const auto add = [&](const std::string& entry, std::size_t width) {
    if (std::ranges::find(entries, std::pair(entry, width)) == entries.end()) {
      entries.emplace_back(entry, width);
    }
  };
  const auto is_present = [&](const std::string& glyph) {
    return std::ranges::any_of(board_.spots, [&](const Spot& spot) {
      return std::ranges::any_of(spot.pieces, [&](const Piece& piece) {
        return glyph_of(piece, style_.unicode, scene_.roles) == glyph;
      });
    });
  };
  for (const Piece& piece : board_.legend) {
    const std::string glyph = glyph_of(piece, style_.unicode, scene_.roles);
    if (glyph == piece.meaning) continue;
    if (board_.legend.size() > full_legend_entries && !is_present(glyph)) continue;
    add(toned(glyph, ansi(piece.tone, scene_), style_.colour) + " " + piece.meaning,
        character_count(glyph) + 1 + character_count(piece.meaning));
  }
  const bool has_choices =
      std::ranges::any_of(board_.spots, [](const Spot& spot) { return !spot.choices.empty(); });
  if (has_choices && !density_.numbers_choices) {
    constexpr std::string_view words = " a legal move, listed below";
    add(toned(style_.unicode ? "·" : "'", mark_tone, style_.colour) + std::string(words),
        1 + words.size());
  }
  if (!board_.unknown.empty()) add("? " + board_.unknown, 2 + character_count(board_.unknown));
  if (!board_.bare.empty()) {
    add("blank: " + board_.bare, 7 + character_count(board_.bare));
  }
  std::string text;
  std::size_t used = 0;  // of the line
  for (const auto& [entry, width] : entries) {
    if (used > 0 && used + 3 + width > static_cast<std::size_t>(style_.width)) {
      text += "\n";
      used = 0;
    }
    text += "   " + entry;
    used += 3 + width;
  }
  return text.empty() ? text : text + "\n";
}

std::string BoardWriter::below() const {
  return links() + legend();
}

// Items one after another, broken before the width is passed.
std::string flowing(std::string_view first, const std::vector<std::string>& items, int width,
                    std::string_view gap = "  ") {
  std::string text;
  std::string line(first);
  std::size_t used = character_count(first);
  const std::size_t indent = used;
  for (const std::string& item : items) {
    const std::size_t size = character_count(item);
    if (used + size + gap.size() > static_cast<std::size_t>(std::max(width, 20)) && used > indent) {
      text += line + "\n";
      line = std::string(indent, ' ');
      used = indent;
    }
    if (used > indent) {
      line += gap;
      used += gap.size();
    }
    line += item;
    used += size;
  }
  return text + line + "\n";
}

std::string counters(const Scene& scene, const TextStyle& style) {
  std::string text;
  std::vector<std::string> short_ones;
  std::size_t longest = 0;
  for (const Counter& counter : scene.counters) {
    if (counter.most) longest = std::max(longest, character_count(counter.name));
  }
  for (const Counter& counter : scene.counters) {
    if (!counter.most) {
      short_ones.push_back(fmt::format("{} {}", counter.name, counter.value));
      continue;
    }
    constexpr std::uint32_t longest_bar = 30;
    const std::uint32_t scale = (*counter.most + longest_bar - 1) / longest_bar;
    std::string bar;
    for (std::uint32_t i = 0; i < *counter.most / scale; ++i) {
      const bool full = (i + 1) * scale <= *counter.number;
      bar += full ? (style.unicode ? "█" : "=") : (style.unicode ? "░" : "-");
    }
    text += fmt::format("   {}{}  {}  {} of {}\n", counter.name,
                        std::string(longest - character_count(counter.name), ' '),
                        toned(bar, ansi(counter.tone, scene), style.colour), *counter.number,
                        *counter.most);
  }
  if (!short_ones.empty()) text += flowing("   ", short_ones, style.width, "   ");
  return text;
}

std::string trays(const Scene& scene, const TextStyle& style) {
  std::string text;
  std::size_t longest = 0;
  for (const Tray& tray : scene.trays) longest = std::max(longest, character_count(tray.name));
  for (const Tray& tray : scene.trays) {
    std::vector<std::string> pieces;
    for (const Piece& piece : tray.pieces) {
      pieces.push_back(glyph_of(piece, style.unicode, scene.roles));
    }
    if (pieces.empty()) pieces.push_back(style.unicode ? "–" : "-");
    text += flowing(
        fmt::format("   {}{}  ", tray.name, std::string(longest - character_count(tray.name), ' ')),
        pieces, style.width, " ");
  }
  return text;
}

}  // namespace

std::string glyph_of(const Piece& piece, bool unicode, std::size_t roles) {
  std::string text;
  if (piece.shape == Shape::pair) {
    text = fmt::format("[{}|{}]", piece.letters, piece.more_letters);
  } else if (!piece.letters.empty()) {
    // The first role's letters are capitals, the second's small; more roles need none of that.
    const bool number = piece.letters.find_first_not_of("0123456789") == std::string::npos;
    if (number && piece.shape != Shape::letters) {
      Piece shape = piece;
      shape.letters.clear();
      shape.count = 1;
      text = glyph_of(shape, unicode, roles);
    }
    const bool one_letter = piece.letters.size() == 1 && piece.shape != Shape::letters && !number;
    text += one_letter && (piece.tone != Tone::second || roles > 2) ? upper(piece.letters)
                                                                    : piece.letters;
  } else {
    const ShapeGlyphs& glyphs = shapes[static_cast<std::size_t>(piece.shape)];
    if (unicode) {
      text = piece.tone == Tone::second ? glyphs.hollow : glyphs.filled;
    } else {
      text = piece.tone == Tone::first ? glyphs.ascii : glyphs.ascii_of_others;
    }
  }
  text += arrow(piece.pointing, unicode);
  if (piece.count > 1) text += fmt::format("{}{}", unicode ? "×" : "x", piece.count);
  return text;
}

BoardText board_text(const Scene& scene, std::size_t board, const TextStyle& style) {
  return BoardWriter(scene, scene.boards[board], style, false).write();
}

std::string to_text(const Scene& scene, const TextStyle& style) {
  std::string text;
  for (const Board& board : scene.boards) {
    if (!text.empty()) text += '\n';
    if (!board.title.empty()) text += "   " + board.title + "\n";
    BoardWriter writer(scene, board, style, true);
    text += writer.write().text + writer.below();
  }
  text += trays(scene, style) + counters(scene, style);
  for (const std::string& caption : scene.captions) {
    text += flowing("   ", {caption}, style.width);
  }
  if (!scene.listed.empty()) {
    text += flowing(scene.boards.empty() && text.empty() ? "   " : "   also: ", scene.listed,
                    style.width);
  }
  return text;
}

}  // namespace orchard::picture
