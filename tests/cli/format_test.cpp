// format through the built command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::format_test {
namespace {

using ::testing::HasSubstr;

TEST(FormatCommand, LaysOutConvertsAndExpands) {
  const TemporaryFolder folder;
  const std::string file =
      folder.write("a.gdl", "(#let n 2)(#for ?x 1 n (row ?x)) ; two\n(role bee)");
  EXPECT_EQ(run_orchard({"format", file}).out,
            "(#let n 2)\n(#for ?x 1 n\n  (row ?x)) ; two\n(role bee)\n");
  EXPECT_EQ(run_orchard({"format", file, "--to", "infix"}).out,
            "#let(n, 2).\n#for(X, 1, n,\n    row(X)). % two\nrole(bee).\n");
  EXPECT_EQ(run_orchard({"format", file, "--expand", "--set", "n=3"}).out,
            "(row 1)\n(row 2)\n(row 3)\n(role bee)\n");
  EXPECT_EQ(nlohmann::json::parse(run_orchard({"format", file, "--json", "--expand"}).out)["text"],
            "(row 1)\n(row 2)\n(role bee)\n");
}

TEST(FormatCommand, WritesInPlaceAndByTheNameOfTheOutput) {
  const TemporaryFolder folder;
  const std::string file = folder.write("a.gdl", "(role   bee)");
  EXPECT_EQ(run_orchard({"format", file, "--output", file}).status, 0);
  EXPECT_EQ(read_file(file), "(role bee)\n");
  EXPECT_EQ(run_orchard({"format", file, "--output", folder.path("a.gdli")}).status, 0);
  EXPECT_EQ(read_file(folder.path("a.gdli")), "role(bee).\n");
  EXPECT_EQ(run_orchard({"format", file, "--output", "/nonexistent/a.gdl"}).status, 2);
}

TEST(FormatCommand, AMistakeLeavesTheFileAsItIs) {
  const TemporaryFolder folder;
  const std::string file = folder.write("a.gdl", "(role bee");
  const auto result = run_orchard({"format", file, "--output", file});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("a.gdl:1:1: error: this list is never closed"));
  EXPECT_EQ(read_file(file), "(role bee");
  EXPECT_EQ(run_orchard({"format", file, "--to", "postfix"}).status, 2);
}

// The whole way: a game in the infix syntax checks, runs its cases and plays the same games.
TEST(FormatCommand, AGameInTheInfixSyntaxIsTheSameGame) {
  const TemporaryFolder folder;
  const std::string infix = folder.path("channel.gdli");
  ASSERT_EQ(run_orchard({"format", game_path("channel"), "--output", infix}).status, 0);
  folder.write("channel.cases", read_file(source_path("games/channel.cases")));
  EXPECT_EQ(run_orchard({"check", infix, "--text-only"}).status, 0);
  EXPECT_EQ(run_orchard({"cases", infix}).status, 0);
  EXPECT_EQ(run_orchard({"walk", infix, "--games", "3", "--json"}).out,
            run_orchard({"walk", game_path("channel"), "--games", "3", "--json"}).out);
}

}  // namespace
}  // namespace orchard::testing::format_test
