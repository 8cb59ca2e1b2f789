// Scenes put side by side, or one over another in time, in one document.
#include "picture/written/svg.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>

#include "picture/scene/palette.hpp"
#include "picture/written/shapes.hpp"
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
      for (const Piece& piece : spot.pieces) {
        std::string meaning;
        for (const Piece& known : board.legend) {
          if (glyph_of(known, true, scene.roles) == glyph_of(piece, true, scene.roles)) {
            meaning = known.meaning;
          }
        }
        text += " " + (meaning.empty() ? glyph_of(piece, true, scene.roles) : meaning);
      }
    }
  }
  for (const Counter& counter : scene.counters) {
    text += fmt::format("; {} {}", counter.name, counter.value);
  }
  for (const std::string& caption : scene.captions) text += "; " + caption;
  return text;
}

// Each picture is seen for its share of the time, again and again.
std::string in_turn(const Block& block, std::size_t number, std::size_t count, double seconds) {
  const double share = 1.0 / static_cast<double>(count);
  const double from = share * static_cast<double>(number);
  const double to = from + share;
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
  return fmt::format(
      "<g transform=\"translate({0} {0})\" visibility=\"{1}\">{2}<animate "
      "attributeName=\"visibility\" calcMode=\"discrete\" values=\"{3}\" keyTimes=\"{4}\" "
      "dur=\"{5:.2f}s\" repeatCount=\"indefinite\"/></g>\n",
      margin, number == 0 ? "visible" : "hidden", block.svg, values, times,
      seconds * static_cast<double>(count));
}

}  // namespace

std::string to_svg(const std::vector<Scene>& scenes, const std::string& name, const SvgStyle& style,
                   bool animated) {
  std::vector<Block> blocks;
  double widest_block = 0;
  double tallest = 0;
  for (const Scene& scene : scenes) {
    blocks.push_back(write_scene(scene));
    widest_block = std::max(widest_block, blocks.back().width);
    tallest = std::max(tallest, blocks.back().height);
  }
  const std::size_t across =
      animated ? 1 : std::max<std::size_t>(1, std::min(style.in_a_row, blocks.size()));
  const std::size_t down = animated ? 1 : (blocks.size() + across - 1) / across;
  constexpr double gap = 34;
  const double width = 2 * margin + static_cast<double>(across) * widest_block +
                       static_cast<double>(across - 1) * gap;
  const double height = 2 * margin + static_cast<double>(std::max<std::size_t>(down, 1)) * tallest +
                        static_cast<double>(down > 0 ? down - 1 : 0) * gap;
  std::string description;
  for (const Scene& scene : scenes) {
    description += (description.empty() ? "" : ". ") + description_of(scene);
  }
  std::string svg = fmt::format(
      "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {0:.0f} {1:.0f}\" width=\"{0:.0f}\" "
      "height=\"{1:.0f}\" role=\"img\" aria-labelledby=\"title description\">\n"
      "<title id=\"title\">{2}</title>\n<desc id=\"description\">{3}</desc>\n<style>{4}</style>\n"
      "<rect width=\"100%\" height=\"100%\" class=\"paper\"/>\n",
      std::ceil(width), std::ceil(height), escaped(name), escaped(description),
      style_sheet(style.light));
  for (std::size_t i = 0; i < blocks.size(); ++i) {
    if (animated) {
      svg += in_turn(blocks[i], i, blocks.size(), style.seconds);
      continue;
    }
    const double x = margin + static_cast<double>(i % across) * (widest_block + gap);
    const double y = margin + static_cast<double>(i / across) * (tallest + gap);
    svg += fmt::format("<g transform=\"translate({:.1f} {:.1f})\">{}</g>\n", x, y, blocks[i].svg);
  }
  return svg + "</svg>\n";
}

}  // namespace orchard::picture
