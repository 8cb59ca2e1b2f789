#include "picture/scene/palette.hpp"

#include <fmt/core.h>

#include <array>

namespace orchard::picture {
namespace {

struct ToneColours {
  std::string_view name;
  std::string_view fill, edge, on;       // a thing, its outline, what is written on it
  std::string_view ground, ground_dark;  // of a square
  std::string_view fill_dark;            // in dark surroundings
};
constexpr std::array<ToneColours, 13> colours = {{
    {"none", "#4a4237", "#4a4237", "#ffffff", "#efe6d2", "#332f29", "#d9cfbd"},
    {"first", "#1d5a99", "#0f3560", "#ffffff", "#d3e2f2", "#1d3550", "#3f86cf"},
    {"second", "#f0ab45", "#6b3f05", "#2a1a02", "#fbe6c6", "#54401c", "#f2b457"},
    {"third", "#2f8a66", "#14523a", "#ffffff", "#d2e9de", "#1d4433", "#46a880"},
    {"fourth", "#a3478b", "#5f1f4d", "#ffffff", "#ecd3e5", "#4b2542", "#c56bac"},
    {"leaf", "#5f8f2f", "#38591a", "#ffffff", "#d5e3bb", "#34451f", "#7fb04b"},
    {"soil", "#9a7449", "#5d4527", "#ffffff", "#dbc7aa", "#493a29", "#b98f60"},
    {"water", "#3f95c9", "#1f5f88", "#ffffff", "#c3e1f1", "#1f4459", "#62b2e2"},
    {"sun", "#ecc94b", "#7d6410", "#2a2202", "#f8edbf", "#4d441f", "#f0d264"},
    {"berry", "#b3325a", "#6d1631", "#ffffff", "#f1cdd8", "#522131", "#d55a80"},
    {"stone", "#85858c", "#4d4d54", "#ffffff", "#d9d9dc", "#3f3f44", "#a3a3aa"},
    {"ink", "#2b2620", "#2b2620", "#ffffff", "#cfc8bb", "#5b5446", "#ece5d8"},
    {"quiet", "#9b8f7a", "#7b705d", "#ffffff", "#f4eee0", "#2a2722", "#8d8370"},
}};

const ToneColours& of(Tone tone) {
  return colours[static_cast<std::size_t>(tone)];
}

constexpr std::string_view common =
    "text{font-family:'DejaVu Sans',Verdana,sans-serif}"
    ".middle{text-anchor:middle}.end{text-anchor:end}.strong{font-weight:bold}"
    ".round{stroke-linecap:round;stroke-linejoin:round;fill:none}";

struct Surroundings {
  std::string_view paper, word, quiet, edge, covered, covered_line, accent, deciding, deciding_edge;
};
constexpr Surroundings light_ones = {"#fbf8f1", "#2b2620", "#6f6552", "#b7a98c", "#cdbf9f",
                                     "#a18f68", "#7b3f9b", "#ffe08a", "#2b2620"};
constexpr Surroundings dark_ones = {"#1e1c19", "#ece5d8", "#a99e8a", "#5f5746", "#4a4335",
                                    "#6f6450", "#c99be6", "#7a6420", "#ffe9a8"};

std::string sheet(const Surroundings& with, bool dark, const RoleColours& colours_of_roles) {
  std::string css = fmt::format(
      ".paper{{fill:{}}}.word{{fill:{}}}.quiet{{fill:{}}}.edge{{stroke:{}}}"
      ".covered{{fill:{}}}.hatch{{stroke:{}}}.accent{{stroke:{};fill:none}}.accent-word{{fill:{}}}"
      ".accent-edge{{stroke:{}}}"
      ".deciding{{fill:{}}}.deciding-edge{{stroke:{}}}.deciding-stroke{{stroke:{}}}",
      with.paper, with.word, with.quiet, with.edge, with.covered, with.covered_line, with.accent,
      with.accent, with.accent, with.deciding, with.deciding_edge, with.deciding);
  for (const ToneColours& tone : colours) {
    css += fmt::format(
        ".f-{0}{{fill:{1};stroke:{2}}}.s-{0}{{stroke:{1}}}.o-{0}{{fill:{3}}}"
        ".g-{0}{{fill:{4}}}",
        tone.name, dark ? tone.fill_dark : tone.fill,
        dark && tone.name != "second" ? tone.fill_dark : tone.edge,
        dark ? std::string_view("#14120f") : tone.on, dark ? tone.ground_dark : tone.ground);
  }
  for (std::size_t role = 0; role < colours_of_roles.size(); ++role) {
    const auto& colour = colours_of_roles[role];
    if (!colour) continue;
    css +=
        fmt::format(".f-{0}{{fill:{1};stroke:{2}}}.s-{0}{{stroke:{1}}}.o-{0}{{fill:{3}}}",
                    of(tone_of_role(role)).name, dark ? colour->fill_dark : colour->fill,
                    dark ? colour->edge_dark : colour->edge, dark ? colour->on_dark : colour->on);
  }
  return css;
}

}  // namespace

std::string style_sheet(SvgStyle::Light light, const RoleColours& colours) {
  std::string css(common);
  css += sheet(light == SvgStyle::Light::dark ? dark_ones : light_ones,
               light == SvgStyle::Light::dark, colours);
  if (light == SvgStyle::Light::both) {
    css += "@media (prefers-color-scheme:dark){" + sheet(dark_ones, true, colours) + "}";
  }
  return css;
}

std::string fill_class(Tone tone) {
  return fmt::format("f-{}", of(tone).name);
}
std::string stroke_class(Tone tone) {
  return fmt::format("s-{}", of(tone).name);
}
std::string on_class(Tone tone) {
  return fmt::format("o-{}", of(tone).name);
}
std::string ground_class(Tone tone) {
  return fmt::format("g-{}", of(tone).name);
}

}  // namespace orchard::picture
