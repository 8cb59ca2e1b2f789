// A solution kept in a file says what it said before.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "orchard/playouts.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::kept_solution_test {
namespace {

using ::testing::HasSubstr;

Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::game_path(name), options).value();
}

std::vector<std::pair<std::string, double>> texts(const std::vector<GoodMove>& moves) {
  std::vector<std::pair<std::string, double>> result;
  for (const GoodMove& good : moves) result.emplace_back(good.move.to_string(), good.share);
  return result;
}

class Kept : public ::testing::Test {
 protected:
  testing::TemporaryFolder folder_;
  std::string file_ = folder_.path("kept.solved");
};

TEST_F(Kept, SaysWhatItSaidBefore) {
  const struct {
    const char* name;
    std::map<std::string, std::int64_t> sizes;
  } games[] = {{"espalier_3x3", {}},
               {"barrow_lane", {{"rounds", 1}}},
               {"market_day", {{"days", 2}}},
               {"pickers", {{"rows", 2}, {"columns", 2}, {"turns", 1}}}};
  for (const auto& [name, sizes] : games) {
    SCOPED_TRACE(name);
    const Game game = load(name, sizes);
    const Solution solution = solve(game).value();
    ASSERT_TRUE(solution.keep(file_).empty());
    const Solution kept = Solution::kept(file_, game).value();
    EXPECT_EQ(kept.complete(), solution.complete());
    EXPECT_EQ(kept.positions(), solution.positions());
    EXPECT_EQ(kept.mixes(), solution.mixes());
    EXPECT_EQ(kept.secures(), solution.secures());
    EXPECT_EQ(kept.assumes_selfish(), solution.assumes_selfish());
    EXPECT_EQ(kept.line().joints.size(), solution.line().joints.size());
    for (std::uint64_t number = 0; number < 10; ++number) {
      WalkOptions walk;
      walk.game = number;
      (void)random_walk(game, walk, [&](const WalkStep& step) {
        for (const Role& role : game.roles()) {
          EXPECT_EQ(kept.value(step.position, role), solution.value(step.position, role));
          EXPECT_EQ(kept.plies(step.position), solution.plies(step.position));
          EXPECT_EQ(texts(kept.best(step.position, role)),
                    texts(solution.best(step.position, role)));
        }
        return true;
      });
    }
  }
}

TEST_F(Kept, IsRefusedForOtherRulesOrWhenDamaged) {
  const Game game = load("espalier_3x3");
  ASSERT_TRUE(solve(game)->keep(file_).empty());
  EXPECT_THAT(Solution::kept(file_, load("snails")).diagnostics().render(),
              HasSubstr("other-state"));
  EXPECT_THAT(Solution::kept(folder_.path("none"), game).diagnostics().render(),
              HasSubstr("there is no file"));
  std::fstream(file_, std::ios::in | std::ios::out | std::ios::binary)
      .seekp(2000)
      .write("apple", 5);
  EXPECT_THAT(Solution::kept(file_, game).diagnostics().render(), HasSubstr("damaged-state"));
  EXPECT_THAT(solve(game)->keep("/nowhere/at/all").render(), HasSubstr("cannot-write"));
}

TEST_F(Kept, OnlyWhatSaysSomethingOfEveryPosition) {
  const Game game = load("scarecrow");
  SolveOptions options;
  options.way = SolveOptions::Way::search;
  EXPECT_THAT(solve(game, options)->keep(file_).render(), HasSubstr("nothing-to-keep"));
  options.way = SolveOptions::Way::all;
  options.budget.positions = 1000;
  EXPECT_THAT(solve(game, options)->keep(file_).render(), HasSubstr("nothing-to-keep"));
  EXPECT_FALSE(std::filesystem::exists(file_));
}

}  // namespace
}  // namespace orchard::kept_solution_test
