// Charts as SVG: values with their intervals, and curves. For light and dark surroundings alike;
// to_png makes a PNG of one. Any thread may call.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace orchard {

// A row of an interval chart: a value and its confidence interval.
struct ChartRow {
  // The label to the left of the row.
  std::string label;
  // The value at which the dot is drawn.
  double value = 0;
  double least = 0;  // of the interval
  // The upper end of the interval.
  double most = 0;
  std::string text{};  // written beside it; the value if empty
};

// A dot and its interval for each row, in their order; `mark` is a value with a line of its own.
std::string interval_chart(const std::string& title, const std::string& axis,
                           const std::vector<ChartRow>& rows, std::optional<double> mark = {});

// A named curve.
struct ChartCurve {
  // The name of the curve in the key.
  std::string label;
  // The points of the curve as (x, y), in ascending order of x.
  std::vector<std::pair<double, double>> points;
};

// Curves over one axis; values go from 0 to `top`.
std::string curve_chart(const std::string& title, const std::string& across, const std::string& up,
                        double top, const std::vector<ChartCurve>& curves);

// A part of a whole, and how it is divided further.
struct ChartPart {
  // What stands in it.
  std::string label;
  // How large it is, in whatever unit.
  double size = 0;
  // A share from 0 to 1 that its shade tells; none: no shade.
  std::optional<double> shade{};
  // What is said beside the label.
  std::string note{};
  // The parts that it is divided into; their sizes sum up to no more than its own.
  std::vector<ChartPart> parts{};
};

// A tree as columns of bars from left to right: each part as high as it is large, its parts to the
// right of it. `scale` says what the shade means, from its least to its most.
std::string tree_chart(const std::string& title, const std::string& scale, const ChartPart& whole);

}  // namespace orchard
