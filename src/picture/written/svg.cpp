// Scenes put side by side, or one over another in time, in one document.
#include "picture/written/svg.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>

#include "base/markup.hpp"
#include "picture/scene/palette.hpp"
#include "picture/written/svg_places.hpp"
#include "picture/written/svg_scene.hpp"
#include "picture/written/text.hpp"

namespace orchard::picture {
namespace {

constexpr double margin = 18;

// What a screen reader says of a picture.
std::string description_of(const Scene& scene) {
  std::string text = scene.title;
  for (const Board& board : scene.boards) {
    for (const Spot& spot : board.spots) {
      if (spot.pieces.empty() && !spot.hidden) continue;
      text += fmt::format("{}{}:", text.empty() ? "" : "; ", typed_name(spot));
      if (spot.hidden) text += " covered";
      const std::string contents = contents_of(spot, board, scene.roles);
      if (!contents.empty()) text += " " + contents;
    }
  }
  for (const Counter& counter : scene.counters) {
    text += fmt::format("; {} {}", counter.name, counter.value);
  }
  for (const std::string& caption : scene.captions) text += "; " + caption;
  return text;
}

// The picture is visible for its share of the time, again and again.
void show_in_turn(pugi::xml_node group, std::size_t number, std::size_t count,
                  const SvgStyle& style) {
  constexpr double least = 0.01;  // a second's share; no time at all is no animation
  const double each = std::max(style.seconds, least);
  const double whole = each * static_cast<double>(count - 1) + std::max(style.last_seconds, least);
  const double from = each * static_cast<double>(number) / whole;
  const double to = from + each / whole;
  std::string times = "0";
  std::string values = number == 0 ? "visible" : "hidden";
  if (number > 0) {
    times += fmt::format(";{:.5f}", from);
    values += ";visible";
  }
  if (number + 1 < count) {
    times += fmt::format(";{:.5f}", to);
    values += ";hidden";
  }
  set_attribute(group, {"visibility", number == 0 ? "visible" : "hidden"});
  add_element(group, "animate",
              {{"attributeName", "visibility"},
               {"calcMode", "discrete"},
               {"values", values},
               {"keyTimes", times},
               {"dur", fmt::format("{:.2f}s", whole)},
               {"repeatCount", "indefinite"}});
}

}  // namespace

namespace {

// `least`: the size that a scene has at least.
std::string document_of(const std::vector<Scene>& scenes, const std::string& name,
                        const SvgStyle& style, bool animated, BlockSize least) {
  pugi::xml_document document;
  pugi::xml_node svg = document.append_child("svg");
  add_element(svg, "title", {{"id", "title"}}, name);
  std::string description;
  for (const Scene& scene : scenes) {
    description += (description.empty() ? "" : ". ") + description_of(scene);
  }
  add_element(svg, "desc", {{"id", "description"}}, description);
  add_element(
      svg, "style", {},
      style_sheet(style.light, scenes.empty() ? RoleColours{} : scenes.front().role_colours));
  add_element(svg, "rect", {{"width", "100%"}, {"height", "100%"}, {"class", "paper"}});
  std::vector<pugi::xml_node> blocks;
  double widest_block = least.width;
  double tallest = least.height;
  for (const Scene& scene : scenes) {
    blocks.push_back(svg.append_child("g"));
    const BlockSize size = add_scene(blocks.back(), scene, style.places);
    widest_block = std::max(widest_block, size.width);
    tallest = std::max(tallest, size.height);
  }
  const std::size_t across =
      animated ? 1 : std::max<std::size_t>(1, std::min(style.in_a_row, blocks.size()));
  const std::size_t down = animated ? 1 : (blocks.size() + across - 1) / across;
  constexpr double gap = 34;
  const double width = 2 * margin + static_cast<double>(across) * widest_block +
                       static_cast<double>(across - 1) * gap;
  const double height = 2 * margin + static_cast<double>(std::max<std::size_t>(down, 1)) * tallest +
                        static_cast<double>(down > 0 ? down - 1 : 0) * gap;
  set_attribute(svg, {"xmlns", "http://www.w3.org/2000/svg"});
  set_attribute(svg,
                {"viewBox", fmt::format("0 0 {:.0f} {:.0f}", std::ceil(width), std::ceil(height))});
  set_attribute(svg, {"width", std::ceil(width)});
  set_attribute(svg, {"height", std::ceil(height)});
  set_attribute(svg, {"role", "img"});
  set_attribute(svg, {"aria-labelledby", "title description"});
  for (std::size_t i = 0; i < blocks.size(); ++i) {
    const std::size_t column = animated ? 0 : i % across;
    const std::size_t row = animated ? 0 : i / across;
    const double x = margin + static_cast<double>(column) * (widest_block + gap);
    const double y = margin + static_cast<double>(row) * (tallest + gap);
    set_attribute(blocks[i],
                  {"transform", fmt::format("translate({} {})", short_number(x), short_number(y))});
    if (animated) show_in_turn(blocks[i], i, blocks.size(), style);
  }
  return markup_text(document);
}

}  // namespace

std::string to_svg(const std::vector<Scene>& scenes, const std::string& name, const SvgStyle& style,
                   bool animated) {
  return document_of(scenes, name, style, animated, {});
}

std::vector<std::string> to_svg_each(const std::vector<Scene>& scenes, const std::string& name,
                                     const SvgStyle& style) {
  BlockSize largest;
  for (const Scene& scene : scenes) {
    pugi::xml_document scratch;
    const BlockSize size = add_scene(scratch.append_child("g"), scene);
    largest.width = std::max(largest.width, size.width);
    largest.height = std::max(largest.height, size.height);
  }
  std::vector<std::string> result;
  for (const Scene& scene : scenes) {
    result.push_back(document_of({scene}, name, style, false, largest));
  }
  return result;
}

}  // namespace orchard::picture
