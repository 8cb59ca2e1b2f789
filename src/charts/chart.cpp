#include "orchard/chart.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "picture/written/shapes.hpp"

namespace orchard {
namespace {

constexpr double width = 760;
constexpr std::string_view style =
    "<style>text{font:13px system-ui,'DejaVu Sans',sans-serif;fill:#1d2b24}.soft{fill:#5c6b62}"
    ".title{font-size:16px;font-weight:600}.grid{stroke:#d5ded8}.back{fill:#fbfcfa}"
    "@media(prefers-color-scheme:dark){text{fill:#e3ebe5}.soft{fill:#a3b3a9}.grid{stroke:#38443d}"
    ".back{fill:#161c18}}</style>";
// Apart for colour-blind eyes, on light and dark.
constexpr std::array<std::string_view, 6> colours{"#2f7fc1", "#d9822b", "#8a63b8",
                                                  "#5f8f3e", "#c1497d", "#7a7a7a"};

std::string begun(const std::string& title, double height) {
  return fmt::format(
      "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {0} {1}\" width=\"{0}\" "
      "height=\"{1}\" role=\"img\" aria-label=\"{2}\">\n<title>{2}</title>\n{3}\n"
      "<rect class=\"back\" width=\"{0}\" height=\"{1}\"/>\n"
      "<text class=\"title\" x=\"20\" y=\"28\">{2}</text>\n",
      width, height, picture::escaped(title), style);
}

// Round steps, at most eight of them.
double step_of(double range) {
  const double rough = std::max(range, 1e-9) / 8;
  const double power = std::pow(10, std::floor(std::log10(rough)));
  for (const double factor : {1.0, 2.0, 5.0}) {
    if (factor * power >= rough) return factor * power;
  }
  return 10 * power;
}

std::string number(double value) {
  if (std::abs(value) < 1e-9) return "0";
  return fmt::format("{:.6g}", value);
}

}  // namespace

std::string interval_chart(const std::string& title, const std::string& axis,
                           const std::vector<ChartRow>& rows, std::optional<double> mark) {
  constexpr double row_height = 34;
  constexpr double left = 190;
  constexpr double right = width - 90;
  constexpr double top = 48;
  const double bottom = top + row_height * static_cast<double>(rows.size());
  std::string text = begun(title, bottom + 56);
  double least = mark.value_or(rows.empty() ? 0 : rows.front().least);
  double most = mark.value_or(rows.empty() ? 1 : rows.front().most);
  for (const ChartRow& row : rows) {
    least = std::min({least, row.least, row.value});
    most = std::max({most, row.most, row.value});
  }
  const double step = step_of(most - least);
  least = std::floor(least / step) * step;
  most = std::ceil(most / step) * step;
  const auto x = [&](double value) {
    return left + (right - left) * (value - least) / std::max(most - least, 1e-9);
  };
  for (double at = least; at <= most + step / 2; at += step) {
    text += fmt::format(
        "<line class=\"grid\" x1=\"{0:.1f}\" x2=\"{0:.1f}\" y1=\"{1}\" y2=\"{2}\"/>"
        "<text class=\"soft\" x=\"{0:.1f}\" y=\"{3}\" text-anchor=\"middle\">{4}</text>\n",
        x(at), top, bottom, bottom + 18, number(at));
  }
  if (mark) {
    text += fmt::format(
        "<line stroke=\"{0}\" stroke-dasharray=\"4 4\" x1=\"{1:.1f}\" x2=\"{1:.1f}\" y1=\"{2}\" "
        "y2=\"{3}\"/>\n",
        colours[5], x(*mark), top, bottom);
  }
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const ChartRow& row = rows[i];
    const double y = top + row_height * (static_cast<double>(i) + 0.5);
    text += fmt::format(
        "<text x=\"{0}\" y=\"{1}\" text-anchor=\"end\">{2}</text>"
        "<line stroke=\"{3}\" stroke-width=\"3\" stroke-linecap=\"round\" x1=\"{4:.1f}\" "
        "x2=\"{5:.1f}\" y1=\"{6}\" y2=\"{6}\"/>"
        "<circle fill=\"{3}\" cx=\"{7:.1f}\" cy=\"{6}\" r=\"6\"/>"
        "<text class=\"soft\" x=\"{8}\" y=\"{1}\">{9}</text>\n",
        left - 14, y + 4, picture::escaped(row.label), colours[0], x(row.least), x(row.most), y,
        x(row.value), right + 14,
        picture::escaped(row.text.empty() ? number(row.value) : row.text));
  }
  return text + fmt::format(
                    "<text class=\"soft\" x=\"{}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n"
                    "</svg>\n",
                    (left + right) / 2, bottom + 42, picture::escaped(axis));
}

std::string curve_chart(const std::string& title, const std::string& across, const std::string& up,
                        double top_value, const std::vector<ChartCurve>& curves) {
  constexpr double height = 420;
  constexpr double left = 70;
  constexpr double right = width - 30;
  constexpr double top = 72;
  constexpr double bottom = height - 60;
  std::string text = begun(title, height);
  double furthest = 1;
  for (const ChartCurve& curve : curves) {
    for (const auto& point : curve.points) furthest = std::max(furthest, point.first);
  }
  const auto x = [&](double value) { return left + (right - left) * value / furthest; };
  const auto y = [&](double value) { return bottom - (bottom - top) * value / top_value; };
  for (double at = 0; at <= top_value * 1.001; at += step_of(top_value)) {
    text += fmt::format(
        "<line class=\"grid\" x1=\"{0}\" x2=\"{1}\" y1=\"{2:.1f}\" y2=\"{2:.1f}\"/>"
        "<text class=\"soft\" x=\"{3}\" y=\"{4:.1f}\" text-anchor=\"end\">{5}</text>\n",
        left, right, y(at), left - 8, y(at) + 4, number(at));
  }
  for (double at = 0; at <= furthest * 1.001; at += step_of(furthest)) {
    text +=
        fmt::format("<text class=\"soft\" x=\"{:.1f}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n",
                    x(at), bottom + 20, number(at));
  }
  for (std::size_t c = 0; c < curves.size(); ++c) {
    const std::string_view colour = colours[c % colours.size()];
    std::string points;
    for (const auto& [at, value] : curves[c].points)
      points += fmt::format("{:.1f},{:.1f} ", x(at), y(value));
    text += fmt::format(
        "<polyline fill=\"none\" stroke=\"{}\" stroke-width=\"2.5\" stroke-linejoin=\"round\" "
        "points=\"{}\"/>\n"
        "<rect fill=\"{}\" x=\"{}\" y=\"46\" width=\"14\" height=\"4\"/>"
        "<text x=\"{}\" y=\"53\">{}</text>\n",
        colour, points, colour, left + 150 * static_cast<double>(c),
        left + 20 + 150 * static_cast<double>(c), picture::escaped(curves[c].label));
  }
  return text + fmt::format(
                    "<text class=\"soft\" x=\"{}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n"
                    "<text class=\"soft\" x=\"18\" y=\"{}\" text-anchor=\"middle\" "
                    "transform=\"rotate(-90 18 {})\">{}</text>\n</svg>\n",
                    (left + right) / 2, height - 16, picture::escaped(across), (top + bottom) / 2,
                    (top + bottom) / 2, picture::escaped(up));
}

}  // namespace orchard
