// `orchard why` as it is called.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::why_test {
namespace {

using ::testing::HasSubstr;
using ::testing::StartsWith;
using Json = nlohmann::json;
using testing::game_path;
using testing::run_orchard;

TEST(WhyCommand, AnswersInText) {
  const auto result = run_orchard(
      {"why", game_path("espalier_3x3"), "legal west (tie 1 1)", "--after", "(tie 1 1)"});
  EXPECT_EQ(result.status, 0);
  EXPECT_EQ(result.out,
            "✗ (legal west (tie 1 1))   does not hold; one rule could give it\n"
            "└─ (legal west (tie 1 1)) if all of these held   espalier.gdl:69   ?gardener = west, "
            "?row = 1, ?column = 1\n"
            "   ├─ ✓ (true (turn west))   in the position\n"
            "   ├─ ✗ (true (square 1 1 bare))   not in the position\n"
            "   └─ ✓ (within_reach 1 1)   holds\n");
}

TEST(WhyCommand, GivesJsonWhoseReasonsReferToOneAnother) {
  const auto result = run_orchard({"why", game_path("silo"), "not terminal", "--json"});
  ASSERT_EQ(result.status, 0);
  const Json answer = Json::parse(result.out);
  EXPECT_EQ(answer["question"], "(not terminal)");
  EXPECT_EQ(answer["holds"], true);
  const Json& reasons = answer["reasons"];
  EXPECT_EQ(reasons[0]["kind"], "attempts");
  for (const Json& reason : reasons) {
    for (const Json& below : reason.value("conditions", Json::array())) {
      EXPECT_LT(below.get<std::size_t>(), reasons.size());
    }
  }
}

TEST(WhyCommand, AsksTheLastStepAboutWhatDependsOnMoves) {
  const auto result = run_orchard(
      {"why", game_path("espalier_3x3"), "next (square 1 1 east)", "--after", "(tie 1 1)"});
  EXPECT_EQ(result.status, 0);
  EXPECT_THAT(result.out, HasSubstr("(does east (tie 1 1))   is made"));
  const auto none = run_orchard({"why", game_path("espalier_3x3"), "next (square 1 1 east)"});
  EXPECT_EQ(none.status, 2);
  EXPECT_THAT(none.err, HasSubstr("give the moves with --after"));
}

TEST(WhyCommand, WritesAGraph) {
  const testing::TemporaryFolder folder;
  const auto result = run_orchard({"why", game_path("graft"), "legal plum (graft 1 1)", "--dot",
                                   folder.path("why.dot"), "--full"});
  EXPECT_EQ(result.status, 0);
  EXPECT_THAT(testing::read_file(folder.path("why.dot")), StartsWith("digraph why {"));
}

TEST(WhyCommand, RefusesWhatCannotBeAsked) {
  const auto result = run_orchard({"why", game_path("silo"), "wins", "--json"});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.out, HasSubstr("bad-question"));
  const auto line = run_orchard({"why", game_path("silo"), "terminal", "--after", "(load 9)"});
  EXPECT_EQ(line.status, 2);
  EXPECT_THAT(line.err, HasSubstr("ply 1: miller cannot play (load 9) here"));
  const auto long_line = run_orchard({"why", game_path("silo"), "terminal", "--after", "9999999"});
  EXPECT_EQ(long_line.status, 2);
  EXPECT_THAT(long_line.err, HasSubstr("allowed are 0 to 1000000"));
}

}  // namespace
}  // namespace orchard::why_test
