#include "picture/scene/scene.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace orchard::picture {
namespace {

constexpr std::array<std::pair<std::string_view, Tone>, 8> tones = {{
    {"leaf", Tone::leaf},
    {"soil", Tone::soil},
    {"water", Tone::water},
    {"sun", Tone::sun},
    {"berry", Tone::berry},
    {"stone", Tone::stone},
    {"ink", Tone::ink},
    {"quiet", Tone::quiet},
}};

constexpr std::array<std::pair<std::string_view, Shape>, 13> shapes = {{
    {"disc", Shape::disc},
    {"block", Shape::block},
    {"diamond", Shape::diamond},
    {"triangle", Shape::triangle},
    {"star", Shape::star},
    {"hexagon", Shape::hexagon},
    {"drop", Shape::drop},
    {"leaf", Shape::leaf},
    {"blossom", Shape::blossom},
    {"spiral", Shape::spiral},
    {"cross", Shape::cross},
    {"dot", Shape::dot},
    {"half", Shape::half},
}};

template <class Value, std::size_t count>
std::optional<Value> named(const std::array<std::pair<std::string_view, Value>, count>& table,
                           std::string_view name) {
  const auto found = std::ranges::find(table, name, &std::pair<std::string_view, Value>::first);
  return found == table.end() ? std::nullopt : std::optional(found->second);
}

template <class Value, std::size_t count>
std::vector<std::string> names(const std::array<std::pair<std::string_view, Value>, count>& table) {
  std::vector<std::string> result;
  for (const auto& [name, value] : table) result.emplace_back(name);
  return result;
}

}  // namespace

std::optional<Tone> tone_named(std::string_view name) {
  return named(tones, name);
}
std::vector<std::string> tone_names() {
  return names(tones);
}
std::optional<Shape> shape_named(std::string_view name) {
  return named(shapes, name);
}
std::vector<std::string> shape_names() {
  return names(shapes);
}

Tone tone_of_role(std::size_t role) {
  return static_cast<Tone>(static_cast<std::size_t>(Tone::first) + role % role_tones);
}
bool is_of_role(Tone tone) {
  return tone >= Tone::first && tone <= Tone::fourth;
}

std::string spoken(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '(' || c == ')') continue;
    result += c == '_' ? ' ' : c;
  }
  return result;
}

std::string typed_name(const Spot& spot) {
  return spot.row.empty() ? spot.column : fmt::format("{} {}", spot.row, spot.column);
}

namespace {

constexpr std::size_t shortest_stroke = 3;
constexpr std::size_t few_spots = 4;  // of so few, all may be highlighted
constexpr double nearly = 1e-6;

// Whether the spots lie in one straight line, equally far from each other, in their order.
bool in_a_line(const Board& board, const std::vector<std::size_t>& spots) {
  const auto step = [&](std::size_t at) {
    const Spot& from = board.spots[spots[at - 1]];
    const Spot& to = board.spots[spots[at]];
    return std::pair(to.x - from.x, to.y - from.y);
  };
  for (std::size_t at = 2; at < spots.size(); ++at) {
    if (std::abs(step(at).first - step(1).first) > nearly ||
        std::abs(step(at).second - step(1).second) > nearly) {
      return false;
    }
  }
  return true;
}

}  // namespace

void settle_deciding(Scene& scene) {
  for (Board& board : scene.boards) {
    std::vector<std::size_t> deciding;
    for (std::size_t s = 0; s < board.spots.size(); ++s) {
      if (board.spots[s].deciding) deciding.push_back(s);
    }
    if (deciding.size() > few_spots && deciding.size() * 2 > board.spots.size()) {
      for (const std::size_t s : deciding) board.spots[s].deciding = false;
      continue;
    }
    std::ranges::sort(deciding, {},
                      [&](std::size_t s) { return std::pair(board.spots[s].x, board.spots[s].y); });
    if (deciding.size() >= shortest_stroke && in_a_line(board, deciding)) {
      board.links.push_back({Link::Kind::deciding, deciding.front(), deciding.back(), Tone::none});
    }
  }
}

void turn(Scene& scene) {
  for (Board& board : scene.boards) {
    if (board.spots.empty()) continue;
    int last_half = 0;
    int last_down = 0;
    for (const Spot& spot : board.spots) {
      last_half = std::max(last_half, spot.raster_half);
      last_down = std::max(last_down, spot.raster_down);
    }
    const auto across = std::ranges::minmax(board.spots, {}, &Spot::x);
    const auto down = std::ranges::minmax(board.spots, {}, &Spot::y);
    const double width = across.min.x + across.max.x;
    const double height = down.min.y + down.max.y;
    for (Spot& spot : board.spots) {
      spot.x = width - spot.x;
      spot.y = height - spot.y;
      spot.raster_half = last_half - spot.raster_half;
      spot.raster_down = last_down - spot.raster_down;
    }
    for (AxisLabel& label : board.rows) {
      label.at = height - label.at;
      label.raster = last_down - label.raster;
    }
    for (AxisLabel& label : board.columns) {
      label.at = width - label.at;
      label.raster = last_half - label.raster;
    }
    std::ranges::reverse(board.rows);
    std::ranges::reverse(board.columns);
  }
}

}  // namespace orchard::picture
