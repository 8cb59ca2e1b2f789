#include "picture/read/drawn_board.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "picture/inferred/glyphs.hpp"
#include "picture/written/text.hpp"
#include "syntax/characters.hpp"

namespace orchard::picture {
namespace {

constexpr std::size_t no_spot = static_cast<std::size_t>(-1);

bool is_wall(std::string_view character) {
  return character == "│" || character == "|";
}
bool is_stroke(std::string_view character) {
  constexpr std::string_view strokes[] = {"─", "┌", "┬", "┐", "├", "┼", "┤",
                                          "└", "┴", "┘", "│", "|", "+", "-"};
  return std::ranges::find(strokes, character) != std::end(strokes);
}

std::vector<std::string_view> characters_of(std::string_view text) {
  std::vector<std::string_view> result;
  while (!text.empty()) {
    const std::size_t bytes = first_character(text).bytes;
    result.push_back(text.substr(0, bytes));
    text.remove_prefix(bytes);
  }
  return result;
}

// A line with walls and something else than strokes between them.
bool is_row(std::string_view line) {
  std::size_t walls = 0;
  bool rule = false;
  for (const std::string_view character : characters_of(line)) {
    walls += is_wall(character) ? 1 : 0;
    rule = rule || character == "─" || character == "┼" || character == "┬" || character == "┴" ||
           character == "+";
  }
  // In plain characters a rule is made of + and -, and holds no name but perhaps a row's.
  if (rule) {
    std::string rest;
    const std::size_t first = line.find_first_of("+|");
    for (const std::string_view character :
         characters_of(line.substr(first == std::string_view::npos ? 0 : first))) {
      if (!is_stroke(character) && character != " ") rest += character;
    }
    if (rest.empty() || line.find("─") != std::string_view::npos) return false;
  }
  return walls >= 2;
}

std::string trimmed(std::string_view text) {
  const std::size_t first = text.find_first_not_of(' ');
  if (first == std::string_view::npos) return {};
  return std::string(text.substr(first, text.find_last_not_of(' ') + 1 - first));
}

Diagnostic bad(std::string message, std::string remedy, int line, int column, int width,
               const std::string& drawing) {
  Diagnostic diagnostic = plain_error("bad-drawing", std::move(message), std::move(remedy));
  diagnostic.place.file = "drawing";
  diagnostic.place.line = line;
  diagnostic.place.column = column;
  diagnostic.place.width = std::max(width, 1);
  std::size_t at = 0;
  for (int skip = 1; skip < line && at != std::string::npos; ++skip) {
    at = drawing.find('\n', at);
    if (at != std::string::npos) ++at;
  }
  if (at != std::string::npos) {
    diagnostic.place.source_line = drawing.substr(at, drawing.find('\n', at) - at);
    diagnostic.place.excerpt_column = column;
  }
  return diagnostic;
}

}  // namespace

DrawnBoard::DrawnBoard(const Scene& scene, const std::vector<Standing>& standings) {
  std::map<std::string, std::size_t> number;
  for (const Board& board : scene.boards) {
    const std::size_t first = names_.size();
    std::map<int, std::map<int, std::size_t>> by_row;
    for (std::size_t s = 0; s < board.spots.size(); ++s) {
      const Spot& spot = board.spots[s];
      by_row[spot.raster_down].emplace(spot.raster_half, first + s);
      number.emplace(spot.name, names_.size());
      names_.push_back(spot.name);
      rasters_.push_back({spot.raster_down, spot.raster_half});
      comb_ = comb_ || spot.raster_down % 2 != 0;
    }
    for (const auto& [row, spots] : by_row) {
      std::vector<std::size_t>& line = rows_.emplace_back();
      std::optional<int> last;
      for (const auto& [half, spot] : spots) {
        if (last && half > *last + 2) line.push_back(no_spot);
        line.push_back(spot);
        last = half;
      }
    }
  }
  at_.resize(names_.size());
  for (const Standing& standing : standings) {
    const auto spot = number.find(standing.place);
    if (spot != number.end()) at_[spot->second].push_back(standing);
  }
  for (auto& here : at_) {
    std::ranges::stable_sort(
        here, [](const Standing& a, const Standing& b) { return a.glyph.size() > b.glyph.size(); });
  }
}

// In a comb every line is a row of half the columns: cells are found by where they stand, counted
// in widths of the first one.
Result<std::vector<DrawnBoard::Cell>> DrawnBoard::comb_cells(const std::string& drawing) const {
  std::vector<std::vector<std::string_view>> lines;
  std::string_view rest = drawing;
  while (!rest.empty()) {
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    lines.push_back(characters_of(rest.substr(0, end)));
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  std::optional<std::size_t> top;  // the first line of strokes
  std::size_t left = static_cast<std::size_t>(-1);
  std::size_t width = 0;
  for (std::size_t y = 0; y < lines.size(); ++y) {
    for (std::size_t x = 0; x < lines[y].size(); ++x) {
      if (!is_stroke(lines[y][x])) continue;
      if (!top) {
        top = y;
        for (std::size_t to = x + 1; to < lines[y].size() && width == 0; ++to) {
          if (lines[y][to] != "─" && lines[y][to] != "-") width = to - x - 1;
        }
      }
      left = std::min(left, x);
      break;
    }
  }
  if (!top || width == 0) {
    return bad("there is no board in this drawing", "compare it with the drawing that show gives",
               1, 1, 1, drawing);
  }
  std::vector<Cell> result;
  for (const Raster& raster : rasters_) {
    const std::size_t y = *top + 1 + static_cast<std::size_t>(raster.down);
    const std::size_t x = left + static_cast<std::size_t>(raster.half) * (width + 1) / 2 + 1;
    if (y >= lines.size() || x + width > lines[y].size()) {
      return bad(fmt::format("{} is missing in this drawing", names_[result.size()]),
                 "compare it with the drawing that show gives",
                 static_cast<int>(std::min(y, lines.size() - 1)) + 1, static_cast<int>(x) + 1, 1,
                 drawing);
    }
    std::string text;
    std::size_t blank = 0;
    if (lines[y][x] == "─" || (lines[y][x] == "-" && lines[y][x + width - 1] == "-")) {
      return bad("a line of the drawing is missing, or one too many",
                 fmt::format("{} should stand here; compare it with the drawing that show gives",
                             names_[result.size()]),
                 static_cast<int>(y) + 1, static_cast<int>(x) + 1, static_cast<int>(width),
                 drawing);
    }
    for (std::size_t i = 0; i < width; ++i) {
      if (text.empty() && lines[y][x + i] == " ") ++blank;
      if (!text.empty() || lines[y][x + i] != " ") text += lines[y][x + i];
    }
    result.push_back({trimmed(text), static_cast<int>(y) + 1, static_cast<int>(x + blank) + 1});
  }
  return result;
}

Result<std::vector<DrawnBoard::Cell>> DrawnBoard::cells(const std::string& drawing) const {
  if (comb_) return comb_cells(drawing);
  std::vector<Cell> result(names_.size());
  std::size_t row = 0;
  int number = 0;
  for (std::size_t at = 0; at < drawing.size();) {
    const std::size_t end = std::min(drawing.find('\n', at), drawing.size());
    const std::string_view line = std::string_view(drawing).substr(at, end - at);
    at = end + 1;
    ++number;
    if (!is_row(line)) continue;
    if (row == rows_.size()) {
      return bad(fmt::format("the board has {} rows; this is one more", rows_.size()),
                 "leave it out", number, 1, 1, drawing);
    }
    std::vector<Cell> segments;
    std::string segment;
    bool inside = false;
    int column = 0;
    int begun = 0;
    for (const std::string_view character : characters_of(line)) {
      ++column;
      if (!is_wall(character)) {
        if (inside) segment += character;
        continue;
      }
      if (inside) segments.push_back({segment, number, begun});
      segment.clear();
      begun = column + 1;
      inside = true;
    }
    const std::vector<std::size_t>& spots = rows_[row++];
    if (segments.size() != spots.size()) {
      return bad(fmt::format("this row has {} squares; the board has {} there", segments.size(),
                             spots.size()),
                 "compare it with the drawing that show gives", number, 1, 1, drawing);
    }
    for (std::size_t i = 0; i < spots.size(); ++i) {
      if (spots[i] == no_spot) continue;
      const std::size_t blank = segments[i].text.find_first_not_of(' ');
      Cell cell{trimmed(segments[i].text), segments[i].line,
                segments[i].column + static_cast<int>(blank == std::string::npos ? 0 : blank)};
      result[spots[i]] = std::move(cell);
    }
  }
  if (row < rows_.size()) {
    return bad(fmt::format("the board has {} rows, the drawing {}", rows_.size(), row),
               "compare it with the drawing that show gives", number, 1, 1, drawing);
  }
  return result;
}

Result<std::vector<DrawnBoard::Fluents>> DrawnBoard::read(const std::string& drawing) const {
  const auto cells_read = cells(drawing);
  if (!cells_read) return cells_read.diagnostics();
  std::vector<Fluents> fluents(names_.size());
  for (std::size_t s = 0; s < names_.size(); ++s) {
    std::string text = (*cells_read)[s].text;
    std::set<std::string> can_be_seen;
    std::set<std::string> seen;
    std::map<std::string, std::vector<const Standing*>> unseen;
    for (const Standing& standing : at_[s]) {
      const std::string kind =
          fmt::format("{} {}", standing.fluent.name(), standing.fluent.arity());
      if (standing.glyph.empty()) {
        unseen[kind].push_back(&standing);
        continue;
      }
      can_be_seen.insert(kind);
      const std::size_t found = text.find(standing.glyph);
      if (found == std::string::npos) continue;
      text.replace(found, standing.glyph.size(), " ");
      seen.insert(kind);
      fluents[s].push_back(standing.fluent);
    }
    for (const auto& [kind, standings] : unseen) {
      if (can_be_seen.contains(kind) && !seen.contains(kind) && standings.size() == 1) {
        fluents[s].push_back(standings.front()->fluent);
      }
    }
  }
  return fluents;
}

std::vector<DrawnBoard::Fluents> DrawnBoard::alternatives(std::size_t spot) const {
  constexpr std::size_t most_together = 5;  // of more fluents, one at a time
  const std::vector<Standing>& here = at_[spot];
  std::vector<Fluents> result{{}};
  for (const Standing& standing : here) result.push_back({standing.fluent});
  if (here.size() > most_together) return result;
  for (std::size_t set = 3; set < std::size_t{1} << here.size(); ++set) {
    Fluents together;
    for (std::size_t i = 0; i < here.size(); ++i) {
      if ((set >> i & 1) != 0) together.push_back(here[i].fluent);
    }
    if (together.size() > 1) result.push_back(std::move(together));
  }
  return result;
}

std::vector<std::size_t> DrawnBoard::differing(const std::string& drawing,
                                               const Scene& scene) const {
  std::vector<std::size_t> result;
  const auto given = cells(drawing);
  const std::vector<Cell> drawn = cells_of(scene);
  for (std::size_t s = 0; s < std::min(names_.size(), drawn.size()); ++s) {
    if (!given || (*given)[s].text != drawn[s].text) result.push_back(s);
  }
  return result;
}

std::vector<DrawnBoard::Cell> DrawnBoard::cells_of(const Scene& scene) const {
  std::vector<Cell> result;
  for (std::size_t b = 0; b < scene.boards.size(); ++b) {
    const BoardText board = board_text(scene, b, {});
    std::vector<std::vector<std::string_view>> lines;
    std::string_view rest = board.text;
    while (!rest.empty()) {
      const std::size_t end = std::min(rest.find('\n'), rest.size());
      lines.push_back(characters_of(rest.substr(0, end)));
      rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    for (const TextPlace& place : board.places) {
      std::string text;
      for (std::size_t i = 0; i < place.width && place.first + i < lines[place.line].size(); ++i) {
        text += lines[place.line][place.first + i];
      }
      result.push_back({trimmed(text), 0, 0});
    }
  }
  return result;
}

Diagnostics DrawnBoard::compare(const std::string& drawing, const Scene& scene) const {
  Diagnostics diagnostics;
  const auto given = cells(drawing);
  if (!given) return given.diagnostics();
  const std::vector<Cell> drawn = cells_of(scene);
  constexpr std::size_t most_told = 5;
  for (const std::size_t s : differing(drawing, scene)) {
    if (diagnostics.errors() == most_told) break;
    const Cell& cell = (*given)[s];
    std::string known;
    for (const Standing& standing : at_[s]) {
      if (!standing.glyph.empty() && known.find(standing.glyph) == std::string::npos) {
        known += " " + standing.glyph;
      }
    }
    diagnostics.add(
        bad(cell.text.empty()
                ? fmt::format("a blank square does not stand for anything here; `{}` would stand", drawn[s].text)
                : fmt::format("`{}` cannot stand at {}", cell.text, names_[s]),
            known.empty() ? "leave the square as show draws it" : "what can stand here:" + known,
            cell.line, cell.column, static_cast<int>(character_count(cell.text)), drawing));
  }
  return diagnostics;
}

void add_unseen(const std::vector<Term>& fluents, std::vector<Standing>& standings) {
  std::map<std::pair<std::string, std::size_t>, std::vector<const Standing*>> kinds;
  std::set<Term> seen;
  for (const Standing& standing : standings) {
    kinds[{standing.fluent.name(), standing.fluent.arity()}].push_back(&standing);
    seen.insert(standing.fluent);
  }
  std::vector<Standing> added;
  for (const auto& entry : kinds) {
    const auto& kind = entry.first;
    const std::vector<const Standing*>& known = entry.second;
    // The fewest arguments that tell the place, one or two of them.
    const std::size_t arity = kind.second;
    std::map<std::vector<Term>, std::string> place_of;
    std::vector<std::size_t> chosen;
    const auto tells = [&](const std::vector<std::size_t>& arguments) {
      std::map<std::vector<Term>, std::string> found;
      for (const Standing* standing : known) {
        const std::vector<Term> all = standing->fluent.arguments();
        std::vector<Term> key;
        for (const std::size_t a : arguments) key.push_back(all[a]);
        const auto [at, is_new] = found.try_emplace(key, standing->place);
        if (!is_new && at->second != standing->place) return false;
      }
      place_of = std::move(found);
      chosen = arguments;
      return true;
    };
    bool told = false;
    for (std::size_t a = 0; a < arity && !told; ++a) told = tells({a});
    for (std::size_t a = 0; a < arity && !told; ++a) {
      for (std::size_t b = a + 1; b < arity && !told; ++b) told = tells({a, b});
    }
    if (!told) continue;
    for (const Term& fluent : fluents) {
      if (fluent.name() != kind.first || fluent.arity() != arity || seen.contains(fluent)) continue;
      const std::vector<Term> all = fluent.arguments();
      std::vector<Term> key;
      for (const std::size_t a : chosen) key.push_back(all[a]);
      const auto at = place_of.find(key);
      if (at != place_of.end()) added.push_back({fluent, at->second, {}});
    }
  }
  standings.insert(standings.end(), added.begin(), added.end());
}

}  // namespace orchard::picture
