#include "picture/scene/scene.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
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
