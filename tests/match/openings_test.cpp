#include "orchard/openings.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/chart.hpp"
#include "orchard/json.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

std::vector<Match> random_matches(const Game& game, std::uint64_t count) {
  std::vector<Match> matches;
  for (std::uint64_t number = 0; number < count; ++number) {
    Match& match = matches.emplace_back(game);
    WalkOptions options;
    options.seed = number + 1;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      return !step.joint || match.play(*step.joint).empty();
    });
  }
  return matches;
}

// Every match stands in exactly one branch of each depth, with its result.
TEST(Openings, AreCountedCompletely) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const std::vector<Match> matches = random_matches(game, 60);
  const Opening tree = openings_of(game, matches, {.plies = 3});
  EXPECT_EQ(tree.matches, 60u);
  EXPECT_EQ(tree.results[0].results(), 60u);
  const auto look = [&](auto&& self, const Opening& opening, int depth) -> void {
    if (depth == 3) {
      EXPECT_TRUE(opening.next.empty());
      return;
    }
    std::uint64_t sum = 0;
    Tally tally;
    std::uint64_t before = ~0ULL;
    for (const Opening& next : opening.next) {
      sum += next.matches;
      tally.add(next.results[0]);
      EXPECT_LE(next.matches, before) << "the most frequent first";
      before = next.matches;
      self(self, next, depth + 1);
    }
    EXPECT_EQ(sum, opening.matches);
    EXPECT_EQ(tally, opening.results[0]);
  };
  look(look, tree, 0);
  std::uint64_t first = 0;
  for (const Match& match : matches) {
    first += match.joints()[0][0].to_string() == tree.next.front().moves ? 1 : 0;
  }
  EXPECT_EQ(first, tree.next.front().matches);
}

TEST(Openings, ThatAreRareAreSummedUp) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Opening tree =
      openings_of(game, random_matches(game, 30), {.plies = 1, .least_matches = 31});
  ASSERT_EQ(tree.next.size(), 1u);
  EXPECT_EQ(tree.next[0].moves, "others");
  EXPECT_EQ(tree.next[0].matches, 30u);
}

TEST(Openings, NameRolesWhereSeveralMove) {
  const Game game = Game::load(testing::game_path("market_day")).value();
  const Opening tree = openings_of(game, random_matches(game, 5), {.plies = 1});
  ASSERT_FALSE(tree.next.empty());
  EXPECT_THAT(tree.next[0].moves, HasSubstr(", "));
}

TEST(Openings, AreWrittenAsJson) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const auto matches = random_matches(game, 9);
  const auto tree = nlohmann::json::parse(to_json(game, openings_of(game, matches, {.plies = 1})));
  EXPECT_EQ(tree["matches"], 9);
  std::uint64_t sum = 0;
  for (const auto& next : tree["next"]) sum += next["matches"].get<std::uint64_t>();
  EXPECT_EQ(sum, 9u);
  const auto record = nlohmann::json::parse(to_json(record_of(matches[0])));
  EXPECT_EQ(record["plies"], matches[0].ply());
}

TEST(TreeChart, ShowsWhatFits) {
  const ChartPart whole{"", 10, {}, {}, {{"left", 9, 0.5, "9", {}}, {"tiny", 0.01, 1.0, "", {}}}};
  EXPECT_THAT(
      tree_chart("Title", "scale", whole),
      AllOf(HasSubstr(">left<"), HasSubstr("Title"), HasSubstr("scale"), Not(HasSubstr(">tiny<"))));
  EXPECT_THAT(tree_chart("Nothing", "", {}), HasSubstr("Nothing"));
}

}  // namespace
}  // namespace orchard
