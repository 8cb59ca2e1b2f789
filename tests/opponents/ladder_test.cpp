// Opponents for any game: fair, repeatable, and each better than the one below.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/line.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent.hpp"
#include "orchard/series.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"

namespace orchard {
namespace {

using ::testing::AnyOf;
using ::testing::HasSubstr;

const std::vector<std::string> cheap = {"random",      "greedy",      "careful",
                                        "lookahead:1", "playouts:64", "perfect"};

TEST(Ladder, PlaysEveryGameByItsRules) {
  for (const std::string& path : testing::demo_games()) {
    const Game game = Game::load(path).value();
    for (const std::string& who : cheap) {
      if (who == "perfect" && path.find("3x3") == std::string::npos) continue;
      SCOPED_TRACE(path + " " + who);
      Match match(game);
      std::vector<std::unique_ptr<Opponent>> opponents;
      std::vector<Opponent*> seats;
      for (const Role& role : game.roles()) {
        opponents.push_back(make_opponent(role.is_chance() ? "random" : who, role.index()).value());
        seats.push_back(opponents.back().get());
      }
      const Diagnostics faults = play_on(match, seats, 8);
      EXPECT_TRUE(faults.empty()) << faults.render();
      EXPECT_GT(match.ply(), 0u);
    }
  }
}

TEST(Ladder, MakesTheSameMovesForTheSameSeed) {
  const Game game = Game::load(testing::game_path("silo")).value();
  for (const char* who : {"careful", "lookahead:2", "playouts:200"}) {
    SCOPED_TRACE(who);
    const std::vector<Move> legal = game.legal(game.initial(), game.roles()[0]);
    std::set<std::string> chosen;
    for (int again = 0; again < 3; ++again) {
      Match match(game);
      const auto opponent = make_opponent(who, 9).value();
      chosen.insert(opponent->choose(match.situation(game.roles()[0], legal)).to_string());
    }
    EXPECT_EQ(chosen.size(), 1u);
  }
}

std::string choice(const Game& game, const std::string& line, const std::string& who) {
  Match match(game, play_line(game, game.initial(), line).value().last());
  const Role role = game.to_move(match.position()).front();
  const std::vector<Move> legal = game.legal(match.position(), role);
  return make_opponent(who, 5).value()->choose(match.situation(role, legal)).to_string();
}

TEST(Ladder, TakesAWinAndBlocksOne) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  // East has three corners of a square; then it is west that must take the fourth.
  const std::string three = "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1)";
  for (const char* who :
       {"careful", "lookahead:2", "lookahead", "lookahead:0.5s", "playouts:1000", "perfect"}) {
    SCOPED_TRACE(who);
    EXPECT_EQ(choice(game, three + " (tie 3 3)", who), "(tie 2 2)");
    EXPECT_EQ(choice(game, three, who), "(tie 2 2)");
  }
  EXPECT_EQ(choice(game, three + " (tie 3 3)", "greedy"), "(tie 2 2)");
}

TEST(Ladder, EachRungIsBetterThanTheOneBelow) {
  const struct {
    const char* game;
    const char* upper;
    const char* lower;
  } pairs[] = {{"espalier", "greedy", "random"},        {"espalier", "careful", "greedy"},
               {"espalier", "lookahead:2", "careful"},  {"silo", "lookahead:2", "careful"},
               {"graft", "greedy", "random"},           {"scarecrow", "careful", "greedy"},
               {"espalier", "playouts:1000", "careful"}};
  for (const auto& [name, upper, lower] : pairs) {
    SCOPED_TRACE(std::string(name) + ": " + upper + " against " + lower);
    const Game game = Game::load(testing::game_path(name)).value();
    SeriesOptions options;
    options.players = {{"upper", upper}, {"lower", lower}};
    options.games = 60;
    const SeriesResult result = run_series(game, options).value();
    const SeriesTally& tally = result.by_player[0];
    const Share share =
        wilson(static_cast<double>(tally.wins) + 0.5 * static_cast<double>(tally.draws), 60);
    EXPECT_GT(share.least, 0.5) << share.share;
  }
}

TEST(Ladder, PerfectNeverLosesWhatCanBeHeld) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  SeriesOptions options;
  options.players = {{"perfect", "perfect"}, {"random", "random"}};
  options.games = 40;
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.by_player[0].losses, 0u);
  EXPECT_GT(result.by_player[0].wins, 10u);
}

// With hidden information nobody looks at the true position: where the same was seen, the same is
// done, whatever is hidden.
TEST(Ladder, PlaysFairWithHiddenInformation) {
  const Game game = Game::load(testing::game_path("cellar")).value();
  const Role mouse = *game.role("mouse");
  for (const std::string& who : cheap) {
    SCOPED_TRACE(who);
    std::set<std::string> chosen;
    for (const char* shelf :
         {"(random (shelve 1)) (random (shelve 2)) (random (shelve 3)) (random (shelve 4))",
          "(random (shelve 5)) (random (shelve 4)) (random (shelve 2)) (random (shelve 1))"}) {
      const Line line = play_line(game, game.initial(), shelf).value();
      Match match(game);
      for (const JointMove& joint : line.joints) ASSERT_TRUE(match.play(joint).empty());
      const std::vector<Move> legal = game.legal(match.position(), mouse);
      const Situation situation = match.situation(mouse, legal);
      ASSERT_NE(situation.view, nullptr);
      chosen.insert(make_opponent(who, 3).value()->choose(situation).to_string());
    }
    EXPECT_EQ(chosen.size(), 1u);
  }
}

TEST(Ladder, NamesAreCheckedWithARemedy) {
  const auto refusal = [](std::string_view who) {
    return make_opponent(who, 1).diagnostics().render();
  };
  EXPECT_THAT(refusal("carefull"), HasSubstr("did you mean careful?"));
  EXPECT_THAT(refusal("lookahead:0"), HasSubstr("lookahead:PLIES"));
  EXPECT_THAT(refusal("lookahead:0s"), HasSubstr("lookahead:SECONDSs"));
  EXPECT_EQ(make_opponent("lookahead:0.5s", 1).value()->name(), "lookahead:0.5s");
  EXPECT_THAT(refusal("playouts:fast"), HasSubstr("playouts:COUNT"));
  EXPECT_THAT(refusal("playouts:-1s"), HasSubstr("playouts:SECONDSs"));
  EXPECT_THAT(refusal("oracle"), HasSubstr("there are: random, greedy"));
  EXPECT_TRUE(make_opponent("playouts:0.05s", 1));
}

}  // namespace
}  // namespace orchard
