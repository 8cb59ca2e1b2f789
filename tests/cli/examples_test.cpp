// The example programs, and the README's words about them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::examples_test {
namespace {

using ::testing::HasSubstr;

ProcessResult run_example(const std::string& name, const std::string& game,
                          const std::vector<std::string>& more = {}) {
  std::vector<std::string> words{std::string(ORCHARD_EXAMPLES_FOLDER "/") + name, game};
  words.insert(words.end(), more.begin(), more.end());
  return run_process(words);
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

TEST(Examples, BestPlayIsSolved) {
  const auto result = run_example("best_play", game_path("snails"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, HasSubstr("amber: 100, best now: (climb "));
  EXPECT_THAT(result.out, HasSubstr("grey: 0"));
}

TEST(Examples, AClaimIsCheckedWithTheRules) {
  const auto holds =
      run_example("check_a_claim", game_path("snails"), {"(can-force amber (wins amber))"});
  EXPECT_EQ(holds.status, 0) << holds.err;
  EXPECT_THAT(holds.out, HasSubstr("mine: holds, amber can force it\n"));
  const auto fails =
      run_example("check_a_claim", game_path("espalier_3x3"), {"(never (wins west))"});
  EXPECT_EQ(fails.status, 1);
  EXPECT_THAT(fails.out, HasSubstr("mine: fails, fails"));
  EXPECT_THAT(fails.out, HasSubstr("   ((tie "));
  EXPECT_EQ(run_example("check_a_claim", game_path("espalier_3x3"), {"(never"}).status, 2);
}

TEST(Examples, ATreeIsSearched) {
  const auto result = run_example("tree_search", game_path("espalier_3x3"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_EQ(std::ranges::count(result.out, '\n'), 3);  // one for each legal move
  EXPECT_THAT(result.out, ::testing::ContainsRegex("\\(tie 1 2\\): [0-9]"));
}

TEST(Examples, ManyPositionsGoOnAtOnce) {
  const auto result = run_example("many_positions", game_path("espalier_3x3"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::StartsWith("ply 0: 10000 games go on\n"));
  EXPECT_THAT(result.out, ::testing::EndsWith(": 0 games go on\n"));
}

TEST(Examples, TheFirstBoardIsTheOneThatShowDraws) {
  for (const char* const game : {"espalier", "silo", "snails"}) {
    const auto result = run_example("first_board", game_path(game));
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_THAT(result.out, HasSubstr("\u20391\u203a"));  // the first legal move
    EXPECT_THAT(run_orchard({"show", game_path(game)}).out, HasSubstr(result.out));
  }
  EXPECT_EQ(run_example("first_board", "/nonexistent").status, 2);
}

TEST(Examples, ALineIsDrawn) {
  const auto result = run_example("pictures_of_a_line", game_path("silo"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::StartsWith("<svg"));
  EXPECT_THAT(result.out, HasSubstr("ply 8"));
}

TEST(Examples, WhatRolesKnowIsListed) {
  const auto result = run_example("what_a_role_knows", game_path("hedgerow"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::ContainsRegex("ash was told: .holds ash"));
  EXPECT_THAT(result.out, ::testing::ContainsRegex("[0-9]+ positions fit; certain in addition:"));
}

TEST(Examples, ATableLearns) {
  const auto result = run_example("learning", game_path("snails"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::ContainsRegex("amber met [0-9]+ positions in 2000 games"));
  EXPECT_THAT(result.out, HasSubstr("against random it wins "));
}

TEST(Examples, ASeriesIsEndedOnTheWay) {
  const auto result = run_example("series_with_progress", game_path("silo"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, ::testing::StartsWith("stopped after "));
}

TEST(Examples, GamesRunInThreads) {
  const auto result =
      run_example("games_in_threads", game_path("silo"), {game_path("graft"), "/nonexistent"});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, HasSubstr("silo.gdl: "));
  EXPECT_THAT(result.out, HasSubstr("graft.gdl: "));
  EXPECT_THAT(result.out, HasSubstr("there is no such file"));
}

TEST(Examples, RulesMakeAnOpponent) {
  const auto result = run_example("opponent_by_rules", game_path("espalier_3x3"),
                                  {"(<= (prefer ?who (tie 2 2) 9) (role ?who))"});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.out, HasSubstr(" of 200 won\n"));
  EXPECT_EQ(run_example("opponent_by_rules", game_path("espalier_3x3"), {"(prefer"}).status, 2);
}

// No example is without a test.
TEST(Examples, AreAllRun) {
  const std::string tests = read_file(source_path("tests/cli/examples_test.cpp"));
  std::size_t count = 0;
  for (const auto& entry : std::filesystem::directory_iterator(source_path("examples"))) {
    if (entry.path().extension() != ".cpp") continue;
    ++count;
    EXPECT_THAT(tests, HasSubstr("run_example(\"" + entry.path().stem().string() + "\""))
        << entry.path();
  }
  EXPECT_GE(count, 10u);
}

TEST(Examples, ReadmeShowsTheExampleAsItIs) {
  const std::string readme = read_file(source_path("README.md"));
  EXPECT_THAT(readme,
              HasSubstr("```cpp\n" + read_file(source_path("examples/legal_moves.cpp")) + "```"));
}

}  // namespace
}  // namespace orchard::testing::examples_test
