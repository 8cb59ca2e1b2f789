#include "picture/written/canvas.hpp"

#include <fmt/core.h>

#include <array>

#include "syntax/characters.hpp"

namespace orchard::picture {
namespace {

enum : std::uint8_t { left = 1, right = 2, up = 4, down = 8 };

constexpr std::array<std::string_view, 16> unicode_walls = {" ", "─", "─", "─", "│", "┘", "└", "┴",
                                                            "│", "┐", "┌", "┬", "│", "┤", "├", "┼"};
constexpr std::array<std::string_view, 16> ascii_walls = {" ", "-", "-", "-", "|", "+", "+", "+",
                                                          "|", "+", "+", "+", "|", "+", "+", "+"};

}  // namespace

std::string toned(std::string_view text, std::string_view tone, bool colour) {
  if (!colour || tone.empty()) return std::string(text);
  return fmt::format("\x1b[{}m{}\x1b[0m", tone, text);
}

void Canvas::wall_right(std::size_t x, std::size_t y, std::size_t length) {
  for (std::size_t i = 0; i < length; ++i) {
    at(x + i, y).walls |= right;
    at(x + i + 1, y).walls |= left;
  }
}

void Canvas::wall_down(std::size_t x, std::size_t y, std::size_t length) {
  for (std::size_t i = 0; i < length; ++i) {
    at(x, y + i).walls |= down;
    at(x, y + i + 1).walls |= up;
  }
}

void Canvas::put(std::size_t x, std::size_t y, std::string_view text, std::string_view tone) {
  while (!text.empty() && x < width_) {
    const std::size_t bytes = first_character(text).bytes;
    Cell& cell = at(x++, y);
    cell.character = std::string(text.substr(0, bytes));
    cell.tone = tone;
    text.remove_prefix(bytes);
  }
}

void Canvas::put_down(std::size_t x, std::size_t y, std::string_view text) {
  while (!text.empty() && y < height()) {
    const std::size_t bytes = first_character(text).bytes;
    put(x, y++, text.substr(0, bytes));
    text.remove_prefix(bytes);
  }
}

std::string Canvas::line(std::size_t y, bool unicode, bool colour,
                         std::string_view wall_tone) const {
  const auto& walls = unicode ? unicode_walls : ascii_walls;
  const auto character = [&](const Cell& cell) -> std::string_view {
    return cell.character.empty() ? walls[cell.walls] : std::string_view(cell.character);
  };
  const auto tone = [&](const Cell& cell) {
    return cell.character.empty() && cell.walls != 0 ? wall_tone : cell.tone;
  };
  const Cell* row = cells_.data() + y * width_;
  std::size_t end = width_;
  while (end > 0 && character(row[end - 1]) == " ") --end;
  std::string result;
  for (std::size_t x = 0; x < end;) {
    std::string run;
    const std::string_view of_run = tone(row[x]);
    while (x < end && tone(row[x]) == of_run) run += character(row[x++]);
    result += toned(run, of_run, colour);
  }
  return result;
}

std::string Canvas::text(bool unicode, bool colour, std::string_view wall_tone,
                         std::size_t indent) const {
  std::string result;
  for (std::size_t y = 0; y < height(); ++y) {
    const std::string next = line(y, unicode, colour, wall_tone);
    if (!next.empty()) result += std::string(indent, ' ') + next;
    result += '\n';
  }
  return result;
}

}  // namespace orchard::picture
