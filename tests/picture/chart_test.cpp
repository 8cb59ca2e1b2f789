// Charts are well-formed pictures that show every row at its place.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <pugixml.hpp>

#include "orchard/chart.hpp"
#include "orchard/picture.hpp"
#include "orchard/png.hpp"

namespace orchard::chart_test {
namespace {

pugi::xml_document parsed(const std::string& svg) {
  pugi::xml_document document;
  const auto result = document.load_string(svg.c_str());
  EXPECT_TRUE(result) << result.description();
  return document;
}

TEST(Chart, IntervalsStandInOrderOnOneScale) {
  const std::string svg = interval_chart(
      "a < b & c", "per cent", {{"low", 10, 5, 20}, {"\"high\"", 90, 80, 95, "much"}}, 50);
  const auto document = parsed(svg);
  std::vector<double> dots;
  for (const auto& circle : document.child("svg").children("circle")) {
    dots.push_back(circle.attribute("cx").as_double());
  }
  ASSERT_EQ(dots.size(), 2u);
  EXPECT_LT(dots[0], dots[1]);
  EXPECT_THAT(svg, ::testing::HasSubstr("a &lt; b &amp; c"));
  EXPECT_THAT(svg, ::testing::HasSubstr(">much<"));
  const double middle = [&] {
    for (const auto& line : document.child("svg").children("line")) {
      if (line.attribute("stroke-dasharray")) return line.attribute("x1").as_double();
    }
    return 0.0;
  }();
  EXPECT_NEAR(middle, (dots[0] + dots[1]) / 2, 0.2);
  EXPECT_TRUE(to_png(svg).ok());
}

TEST(Chart, CurvesGoThroughTheirPoints) {
  const std::string svg = curve_chart("learning", "games", "won", 100,
                                      {{"won", {{100, 0}, {200, 100}}}, {"lost", {{100, 50}}}});
  const auto document = parsed(svg);
  const std::string points =
      document.child("svg").child("polyline").attribute("points").as_string();
  double x1 = 0;
  double y1 = 0;
  double x2 = 0;
  double y2 = 0;
  ASSERT_EQ(std::sscanf(points.c_str(), "%lf,%lf %lf,%lf", &x1, &y1, &x2, &y2), 4);
  EXPECT_LT(x1, x2);
  EXPECT_GT(y1, y2);  // upwards is less
}

TEST(Chart, NothingToShowIsNoFault) {
  parsed(interval_chart("none", "x", {}));
  parsed(curve_chart("none", "x", "y", 1, {}));
}

}  // namespace
}  // namespace orchard::chart_test
