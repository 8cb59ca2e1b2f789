#include "orchard/report.hpp"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/game.hpp"

namespace orchard::sarif_test {
namespace {

using Json = nlohmann::json;

// The properties that the standard requires of the objects used here (sections 3.13, 3.14, 3.18,
// 3.19, 3.27, 3.49 of SARIF 2.1.0), and the values it allows where it lists them.
struct Required {
  const char* object;  // JSON pointer, with the first element of arrays
  const char* property;
};
const Required all_required[] = {
    {"", "version"},
    {"", "runs"},
    {"/runs/0", "tool"},
    {"/runs/0/tool", "driver"},
    {"/runs/0/tool/driver", "name"},
    {"/runs/0/tool/driver/rules/0", "id"},
    {"/runs/0/results/0", "message"},
    {"/runs/0/results/0/message", "text"},
    {"/runs/0/results/0/locations/0", "physicalLocation"},
    {"/runs/0/results/0/locations/0/physicalLocation", "artifactLocation"},
    {"/runs/0/results/0/locations/0/physicalLocation/artifactLocation", "uri"},
    {"/runs/0/results/0/locations/0/physicalLocation/region", "startLine"},
};

TEST(Sarif, HasWhatTheStandardRequires) {
  const auto faulty = Game::from_text(
      "(role a) (role b)\n(<= (p ?x) (q 1))\n(q 1)\n(<= (r) (not (s)))\n(<= (s) (r))",
      "my games/pear.gdl");
  ASSERT_FALSE(faulty.ok());
  const Json log = Json::parse(to_sarif(faulty.diagnostics(), "0.1"));
  for (const Required& required : all_required) {
    EXPECT_TRUE(log.at(Json::json_pointer(required.object)).contains(required.property))
        << required.object << " " << required.property;
  }
  EXPECT_EQ(log["version"], "2.1.0");
  const Json& result = log["runs"][0]["results"][0];
  EXPECT_EQ(result["ruleId"], "unsafe-variable");
  EXPECT_EQ(result["level"], "error");
  EXPECT_EQ(result["locations"][0]["physicalLocation"]["artifactLocation"]["uri"],
            "my%20games/pear.gdl");
  const Json region = result["locations"][0]["physicalLocation"]["region"];
  EXPECT_EQ(region, (Json{{"startLine", 2}, {"startColumn", 8}, {"endColumn", 10}}));
  for (const Json& each : log["runs"][0]["results"]) {
    EXPECT_EQ(log["runs"][0]["tool"]["driver"]["rules"][each["ruleIndex"].get<std::size_t>()]["id"],
              each["ruleId"]);
  }
  EXPECT_EQ(log["runs"][0]["results"][1]["relatedLocations"].size(), 2u);
}

TEST(Sarif, IsEmptyWithoutFindings) {
  const Json log = Json::parse(to_sarif({}, "0.1"));
  EXPECT_EQ(log["runs"][0]["results"], Json::array());
}

}  // namespace
}  // namespace orchard::sarif_test
