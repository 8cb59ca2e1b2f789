#include "picture/scene/role_colours.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>

namespace orchard::picture {
namespace {

struct NamedColour {
  std::string_view name, fill, edge, on, fill_dark, edge_dark, on_dark, terminal;
};
constexpr std::string_view dark_on = "#14120f";
constexpr NamedColour colours_by_name[] = {
    {"white", "#ffffff", "#4a4237", "#2b2620", "#f4f0e8", "#f4f0e8", dark_on, "1"},
    {"black", "#1f1d1a", "#000000", "#ffffff", "#0c0b0a", "#b8b0a2", "#f4f0e8", "38;5;244"},
    {"red", "#b3261e", "#6d1410", "#ffffff", "#e06a5f", "#e06a5f", dark_on, "1;38;5;203"},
    {"gold", "#e8bf2e", "#6f5607", "#2a2202", "#f0d264", "#f0d264", dark_on, "1;38;5;220"},
    {"yellow", "#f0d23c", "#6f5f07", "#2a2202", "#f4df72", "#f4df72", dark_on, "1;38;5;227"},
    {"orange", "#e8852a", "#7a3d05", "#2a1402", "#f2a25a", "#f2a25a", dark_on, "1;38;5;208"},
    {"green", "#3d8b37", "#1f4f1b", "#ffffff", "#77c46f", "#77c46f", dark_on, "1;38;5;77"},
    {"blue", "#1f5fb0", "#0f3560", "#ffffff", "#5b9bea", "#5b9bea", dark_on, "1;38;5;75"},
    {"purple", "#6b3fa0", "#3f2066", "#ffffff", "#a87fdc", "#a87fdc", dark_on, "1;38;5;141"},
    {"violet", "#7a45b0", "#472470", "#ffffff", "#b48be2", "#b48be2", dark_on, "1;38;5;141"},
    {"pink", "#d9679a", "#7d2650", "#2a0214", "#ee92ba", "#ee92ba", dark_on, "1;38;5;212"},
    {"brown", "#7a4a24", "#482a12", "#ffffff", "#b98355", "#b98355", dark_on, "1;38;5;137"},
    {"grey", "#8c8c92", "#4d4d54", "#ffffff", "#b4b4ba", "#b4b4ba", dark_on, "1;38;5;250"},
    {"gray", "#8c8c92", "#4d4d54", "#ffffff", "#b4b4ba", "#b4b4ba", dark_on, "1;38;5;250"},
    {"silver", "#c3c3c9", "#5b5b62", "#2b2620", "#d2d2d8", "#d2d2d8", dark_on, "1;38;5;252"},
};

// "red", "red_team" and "team_red".
const NamedColour* colour_in(std::string_view role) {
  for (const NamedColour& colour : colours_by_name) {
    const bool first = role.starts_with(colour.name);
    const bool last = role.ends_with(colour.name);
    if (role == colour.name || (first && role[colour.name.size()] == '_') ||
        (last && role[role.size() - colour.name.size() - 1] == '_')) {
      return &colour;
    }
  }
  return nullptr;
}

std::array<int, 3> channels(std::string_view colour) {
  std::array<int, 3> result{};
  for (std::size_t i = 0; i < 3; ++i) {
    result[i] = std::stoi(std::string(colour.substr(1 + 2 * i, 2)), nullptr, 16);
  }
  return result;
}

// As the Web Content Accessibility Guidelines 2.1 define it.
double contrast(std::string_view a, std::string_view b) {
  const auto luminance = [](std::string_view colour) {
    constexpr std::array weights = {0.2126, 0.7152, 0.0722};
    double sum = 0;
    for (std::size_t i = 0; i < 3; ++i) {
      const double c = channels(colour)[i] / 255.0;
      sum += weights[i] * (c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4));
    }
    return sum + 0.05;
  };
  return std::max(luminance(a), luminance(b)) / std::min(luminance(a), luminance(b));
}

std::string mixed(std::string_view colour, std::string_view with, double share) {
  std::array<int, 3> result{};
  for (std::size_t i = 0; i < 3; ++i) {
    result[i] = static_cast<int>(
        std::lround(channels(colour)[i] * (1 - share) + channels(with)[i] * share));
  }
  return fmt::format("#{:02x}{:02x}{:02x}", result[0], result[1], result[2]);
}

constexpr double least_contrast = 1.8;  // between the first two roles

// The fill becomes paler or darker, by as little as tells it apart.
void set_apart(std::string_view from, std::string& fill, std::string& on) {
  if (contrast(from, fill) >= least_contrast) return;
  constexpr double step = 0.05;
  for (double share = step; share < 1; share += step) {
    for (const bool paler : {true, false}) {
      const std::string next = mixed(fill, paler ? "#ffffff" : "#000000", share);
      if (contrast(from, next) < least_contrast) continue;
      fill = next;
      on = contrast("#ffffff", next) > contrast("#14120f", next) ? "#ffffff" : "#14120f";
      return;
    }
  }
}

}  // namespace

RoleColours role_colours(const Game& game) {
  RoleColours result;
  if (game.roles().size() > role_tones) return result;
  for (const Role& role : game.roles()) {
    if (const NamedColour* colour = colour_in(role.name())) {
      result[role.index()] = RoleColour{std::string(colour->fill),
                                        std::string(colour->edge),
                                        std::string(colour->on),
                                        std::string(colour->fill_dark),
                                        std::string(colour->edge_dark),
                                        std::string(colour->on_dark),
                                        colour->terminal};
    }
  }
  if (result[0] && result[1]) {
    set_apart(result[0]->fill, result[1]->fill, result[1]->on);
    set_apart(result[0]->fill_dark, result[1]->fill_dark, result[1]->on_dark);
  }
  return result;
}

}  // namespace orchard::picture
