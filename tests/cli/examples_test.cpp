// The example programs, and the README's words about them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing {
namespace {

using ::testing::HasSubstr;

ProcessResult run_example(const std::string& name, const std::string& game) {
  return run_process({std::string(ORCHARD_EXAMPLES_FOLDER "/") + name, game});
}

TEST(Examples, LegalMovesListsThem) {
  const auto result = run_example("legal_moves", game_path("espalier"));
  EXPECT_EQ(result.status, 0);
  EXPECT_THAT(result.out,
              ::testing::EndsWith("east may play (tie 1 4)\neast may play (tie 1 5)\n"));
  EXPECT_EQ(run_example("legal_moves", "/nonexistent").status, 2);
}

TEST(Examples, RandomGamesAddUpToAHundred) {
  const auto result = run_example("random_games", game_path("espalier_3x3"));
  EXPECT_EQ(result.status, 0);
  double sum = 0;
  for (std::size_t at = result.out.find(" %"); at != std::string::npos;
       at = result.out.find(" %", at + 1)) {
    sum += std::stod(result.out.substr(result.out.rfind("  ", at)));
  }
  EXPECT_NEAR(sum, 100, 1e-6) << result.out;
}

TEST(Examples, AnOpponentOfOnesOwnEntersASeries) {
  const auto result = run_example("own_opponent", game_path("graft"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::ContainsRegex("hemming in: [0-9]+ won, [0-9]+ drawn"));
  EXPECT_EQ(run_example("own_opponent", game_path("sprinklers")).status, 2);
}

TEST(Examples, ReadmeShowsTheExampleAsItIs) {
  const std::string readme = read_file(source_path("README.md"));
  EXPECT_THAT(readme,
              HasSubstr("```cpp\n" + read_file(source_path("examples/legal_moves.cpp")) + "```"));
}

}  // namespace
}  // namespace orchard::testing
