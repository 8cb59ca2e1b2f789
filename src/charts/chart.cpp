#include "orchard/chart.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/markup.hpp"

namespace orchard {
namespace {

constexpr double width = 760;
constexpr std::string_view style =
    "text{font:13px system-ui,'DejaVu Sans',sans-serif;fill:#1d2b24}.soft{fill:#5c6b62}"
    ".title{font-size:16px;font-weight:600}.grid{stroke:#d5ded8}.back{fill:#fbfcfa}"
    "@media(prefers-color-scheme:dark){text{fill:#e3ebe5}.soft{fill:#a3b3a9}.grid{stroke:#38443d}"
    ".back{fill:#161c18}}";
// Apart for colour-blind eyes, on light and dark.
constexpr std::array<std::string_view, 6> colours{"#2f7fc1", "#d9822b", "#8a63b8",
                                                  "#5f8f3e", "#c1497d", "#7a7a7a"};

// A chart that has its title and nothing else yet.
class Chart {
 public:
  Chart(const std::string& title, double height) {
    svg_ = add_element(document_, "svg",
                       {{"xmlns", "http://www.w3.org/2000/svg"},
                        {"viewBox", fmt::format("0 0 {} {}", width, height)},
                        {"width", width},
                        {"height", height},
                        {"role", "img"},
                        {"aria-label", title}});
    add("title", {}, title);
    add("style", {}, style);
    add("rect", {{"class", "back"}, {"width", width}, {"height", height}});
    add("text", {{"class", "title"}, {"x", 20}, {"y", 28}}, title);
  }

  pugi::xml_node add(const char* name, std::initializer_list<Attribute> attributes,
                     std::string_view text = {}) {
    return add_element(svg_, name, attributes, text);
  }

  // Words in the soft colour; `anchor` as SVG has it.
  pugi::xml_node add_words(double x, double y, const char* anchor, std::string_view text) {
    return add("text", {{"class", "soft"}, {"x", x}, {"y", y}, {"text-anchor", anchor}}, text);
  }

  std::string text() const { return markup_text(document_); }

 private:
  pugi::xml_document document_;
  pugi::xml_node svg_;
};

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
  Chart chart(title, bottom + 56);
  for (double at = least; at <= most + step / 2; at += step) {
    chart.add("line",
              {{"class", "grid"}, {"x1", x(at)}, {"x2", x(at)}, {"y1", top}, {"y2", bottom}});
    chart.add_words(x(at), bottom + 18, "middle", number(at));
  }
  if (mark) {
    chart.add("line", {{"stroke", colours[5]},
                       {"stroke-dasharray", "4 4"},
                       {"x1", x(*mark)},
                       {"x2", x(*mark)},
                       {"y1", top},
                       {"y2", bottom}});
  }
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const ChartRow& row = rows[i];
    const double y = top + row_height * (static_cast<double>(i) + 0.5);
    chart.add("text", {{"x", left - 14}, {"y", y + 4}, {"text-anchor", "end"}}, row.label);
    chart.add("line", {{"stroke", colours[0]},
                       {"stroke-width", 3},
                       {"stroke-linecap", "round"},
                       {"x1", x(row.least)},
                       {"x2", x(row.most)},
                       {"y1", y},
                       {"y2", y}});
    chart.add("circle", {{"fill", colours[0]}, {"cx", x(row.value)}, {"cy", y}, {"r", 6}});
    chart.add("text", {{"class", "soft"}, {"x", right + 14}, {"y", y + 4}},
              row.text.empty() ? number(row.value) : row.text);
  }
  chart.add_words((left + right) / 2, bottom + 42, "middle", axis);
  return chart.text();
}

std::string curve_chart(const std::string& title, const std::string& across, const std::string& up,
                        double top_value, const std::vector<ChartCurve>& curves) {
  constexpr double height = 420;
  constexpr double left = 70;
  constexpr double right = width - 30;
  constexpr double top = 72;
  constexpr double bottom = height - 60;
  double furthest = 1;
  for (const ChartCurve& curve : curves) {
    for (const auto& point : curve.points) furthest = std::max(furthest, point.first);
  }
  const auto x = [&](double value) { return left + (right - left) * value / furthest; };
  const auto y = [&](double value) { return bottom - (bottom - top) * value / top_value; };
  Chart chart(title, height);
  for (double at = 0; at <= top_value * 1.001; at += step_of(top_value)) {
    chart.add("line",
              {{"class", "grid"}, {"x1", left}, {"x2", right}, {"y1", y(at)}, {"y2", y(at)}});
    chart.add_words(left - 8, y(at) + 4, "end", number(at));
  }
  for (double at = 0; at <= furthest * 1.001; at += step_of(furthest)) {
    chart.add_words(x(at), bottom + 20, "middle", number(at));
  }
  for (std::size_t c = 0; c < curves.size(); ++c) {
    const std::string_view colour = colours[c % colours.size()];
    std::string points;
    for (const auto& [at, value] : curves[c].points) {
      points += fmt::format("{},{} ", short_number(x(at)), short_number(y(value)));
    }
    chart.add("polyline", {{"fill", "none"},
                           {"stroke", colour},
                           {"stroke-width", 2.5},
                           {"stroke-linejoin", "round"},
                           {"points", points}});
    const double key = left + 150 * static_cast<double>(c);
    chart.add("rect", {{"fill", colour}, {"x", key}, {"y", 46}, {"width", 14}, {"height", 4}});
    chart.add("text", {{"x", key + 20}, {"y", 53}}, curves[c].label);
  }
  constexpr double middle = (top + bottom) / 2;
  chart.add_words((left + right) / 2, height - 16, "middle", across);
  set_attribute(chart.add_words(18, middle, "middle", up),
                {"transform", fmt::format("rotate(-90 18 {})", short_number(middle))});
  return chart.text();
}

namespace {

std::size_t depth_of(const ChartPart& part) {
  std::size_t deepest = 0;
  for (const ChartPart& one : part.parts) deepest = std::max(deepest, 1 + depth_of(one));
  return deepest;
}

// The columns of a tree chart.
class TreeColumns {
 public:
  static constexpr double left = 20;
  static constexpr double top = 70;
  static constexpr double height = 460;

  TreeColumns(Chart& chart, std::size_t columns)
      : chart_(chart),
        column_((width - 2 * left) / static_cast<double>(std::max<std::size_t>(1, columns))) {}

  void draw(const ChartPart& whole, double y, double a_unit, std::size_t column) {
    for (const ChartPart& part : whole.parts) {
      const double high = part.size * a_unit;
      const double x = left + column_ * static_cast<double>(column);
      constexpr double gap = 1.5;
      chart_.add("rect", {{"x", x},
                          {"y", y},
                          {"width", column_ - gap},
                          {"height", std::max(0.5, high - gap)},
                          {"rx", 2},
                          {"fill", colours[0]},
                          {"fill-opacity", part.shade ? 0.12 + 0.68 * *part.shade : 0.1}});
      write(part, x, y, high);
      draw(part, y, a_unit, column + 1);
      y += high;
    }
  }

 private:
  // What does not fit is left out.
  void write(const ChartPart& part, double x, double y, double high) {
    constexpr double line = 16;
    constexpr double a_letter = 7.4;
    constexpr double inset = 6;
    const auto fits = [&](const std::string& text) {
      const auto most = static_cast<std::size_t>((column_ - 2 * inset) / a_letter);
      return text.size() <= most ? text : text.substr(0, most > 1 ? most - 1 : 0) + "…";
    };
    if (high < line) return;
    const bool both = high >= 2 * line + 4;
    const std::string one_line = part.note.empty() ? part.label : part.label + "  " + part.note;
    const double at = y + (both ? line : std::min(line - 3, high / 2 + 5));
    chart_.add("text", {{"x", x + inset}, {"y", at}}, fits(both ? part.label : one_line));
    if (both) chart_.add_words(x + inset, at + line, "start", fits(part.note));
  }

  Chart& chart_;
  double column_;
};

}  // namespace

std::string tree_chart(const std::string& title, const std::string& scale, const ChartPart& whole) {
  constexpr double below = 30;
  Chart chart(title, TreeColumns::top + TreeColumns::height + below);
  chart.add_words(TreeColumns::left, 52, "start", scale);
  TreeColumns columns(chart, depth_of(whole));
  if (whole.size > 0) columns.draw(whole, TreeColumns::top, TreeColumns::height / whole.size, 0);
  return chart.text();
}

}  // namespace orchard
