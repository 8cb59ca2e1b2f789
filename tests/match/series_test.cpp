// Series: sums that add up, the same whatever the threads, intervals that are right.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <chrono>
#include <thread>

#include <nlohmann/json.hpp>

#include "orchard/series.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::series_test {
namespace {

using ::testing::HasSubstr;
using Json = nlohmann::json;

TEST(Series, AddsUpAndDoesNotDependOnThreads) {
  const Game game = Game::load(testing::game_path("pickers")).value();
  SeriesOptions options;
  options.players = {{"a", "random"}, {"b", "greedy"}, {"c", "random"}};
  options.games = 30;
  const SeriesResult one = run_series(game, options).value();
  options.threads = 3;
  const SeriesResult three = run_series(game, options).value();
  EXPECT_EQ(one.lengths, three.lengths);
  for (std::size_t p = 0; p < 3; ++p) {
    const SeriesTally& tally = one.by_player[p];
    EXPECT_EQ(tally.games, 30u);
    EXPECT_EQ(tally.wins + tally.draws + tally.losses, 30u);
    EXPECT_EQ(tally.wins, three.by_player[p].wins);
    EXPECT_EQ(tally.goals, three.by_player[p].goals);
    std::uint64_t in_seats = 0;
    for (const SeriesTally& seat : one.by_seat[p]) {
      EXPECT_EQ(seat.games, 10u);  // seats change from match to match
      in_seats += seat.wins;
    }
    EXPECT_EQ(in_seats, tally.wins);
  }
}

TEST(Series, CountsMatchesThatDoNotEnd) {
  const Game game = Game::load(testing::game_path("silo")).value();
  SeriesOptions options;
  options.players = {{"a", "random"}, {"b", "random"}};
  options.games = 5;
  options.plies = 3;
  options.fixed_seats = true;
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.unfinished, 5u);
  EXPECT_EQ(result.by_seat[0][1].games, 0u);
}

// Makes a move that is none of its legal ones at its third choice.
class Cheat : public Opponent {
 public:
  std::string name() const override { return "cheat"; }
  Move choose(const Situation& at) override {
    return ++choices_ == 3 ? at.game.move(Term::constant("cheat")) : at.legal.front();
  }

 private:
  int choices_ = 0;
};

TEST(Series, AnIllegalMoveForfeitsTheMatch) {
  const Game game = Game::load(testing::game_path("silo")).value();
  SeriesOptions options;
  options.players = {{"cheat", "", [](std::uint64_t) { return std::make_unique<Cheat>(); }},
                     {"honest", "random", {}}};
  options.games = 6;
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.forfeits, 6u);
  EXPECT_EQ(result.by_player[0].losses, 6u);
  EXPECT_EQ(result.by_player[1].wins, 6u);
  EXPECT_LE(result.lengths.rbegin()->first, 5u);
}

TEST(Series, EndsWithItsBudget) {
  const Game game = Game::load(testing::game_path("graft")).value();
  SeriesOptions options;
  options.players = {{"a", "lookahead:1", {}}, {"b", "lookahead:1", {}}};
  options.games = 100'000;
  options.budget.seconds = 0.2;
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.ending, Ending::time);
  EXPECT_LT(result.games, options.games);
}

TEST(Series, NeedsAPlayerForEveryRole) {
  const Game game = Game::load(testing::game_path("silo")).value();
  SeriesOptions options;
  options.players = {{"a", "random"}};
  EXPECT_THAT(run_series(game, options).diagnostics().render(), HasSubstr("1 players for 2 roles"));
}

// Against the published example of the score interval: 81 of 263 gives 0.2553 to 0.3662.
TEST(Series, WilsonIntervals) {
  const Share share = wilson(81, 263);
  EXPECT_NEAR(share.least, 0.2553, 5e-5);
  EXPECT_NEAR(share.most, 0.3662, 5e-5);
  EXPECT_EQ(wilson(0, 10).least, 0);
  EXPECT_EQ(wilson(0, 0).most, 1);
}

TEST(SeriesCommand, PrintsJsonCsvAndText) {
  const testing::TemporaryFolder folder;
  const std::vector<std::string> call = {"series",  testing::game_path("espalier"),
                                         "--seat",  "east=careful",
                                         "--seat",  "west=random",
                                         "--games", "20",
                                         "--name",  "east=Ada",
                                         "--csv",   folder.path("s.csv")};
  auto json_call = call;
  json_call.emplace_back("--json");
  const auto result = testing::run_orchard(json_call);
  ASSERT_EQ(result.status, 0) << result.err;
  const Json series = Json::parse(result.out);
  EXPECT_EQ(series["games"], 20);
  EXPECT_EQ(series["players"][0]["name"], "Ada");
  EXPECT_GT(series["players"][0]["wins"], 10);
  EXPECT_EQ(series["players"][0]["seats"]["east"]["games"], 20);
  EXPECT_THAT(testing::read_file(folder.path("s.csv")), HasSubstr("Ada,careful,east,20,"));
  const auto text = testing::run_orchard(call);
  EXPECT_THAT(text.out, HasSubstr("20 matches of espalier.gdl, all in the same seats"));
  const auto wrong =
      testing::run_orchard({"series", testing::game_path("silo"), "--seat", "miller=carefull"});
  EXPECT_EQ(wrong.status, 2);
  EXPECT_THAT(wrong.err, HasSubstr("did you mean careful?"));
}

TEST(SolveCommand, TellsTheValueAndTheLine) {
  const auto result = testing::run_orchard({"solve", testing::game_path("snails"), "--json"});
  ASSERT_EQ(result.status, 0);
  const Json solution = Json::parse(result.out);
  EXPECT_EQ(solution["value"]["amber"], 100);
  EXPECT_EQ(solution["complete"], true);
  EXPECT_EQ(solution["best"]["amber"][0]["move"], "(climb 2)");
  const auto text = testing::run_orchard({"solve", testing::game_path("espalier_3x3"), "--after",
                                          "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3)"});
  EXPECT_THAT(text.out, HasSubstr("best for east: "));
  EXPECT_THAT(text.out, HasSubstr("over: "));
  const auto cut =
      testing::run_orchard({"solve", testing::game_path("silo"), "--positions", "100"});
  EXPECT_EQ(cut.status, 3);
  EXPECT_THAT(cut.out, HasSubstr("not solved: the search ended"));
  const auto searched =
      testing::run_orchard({"solve", testing::game_path("scarecrow"), "--search", "--json"});
  EXPECT_EQ(searched.status, 0);
  EXPECT_EQ(Json::parse(searched.out)["value"]["ida"], 50);
  EXPECT_EQ(Json::parse(searched.out)["assumes"], "nothing");
  const auto crowd = testing::run_orchard({"solve", testing::game_path("pickers"), "--set",
                                           "rows=2", "--set", "columns=2", "--set", "turns=1"});
  EXPECT_EQ(crowd.status, 0);
  EXPECT_THAT(crowd.out,
              HasSubstr("what each role can guarantee itself against all others together"));
}

// Thinks for a long time, then plays the first legal move.
class SlowOpponent : public Opponent {
 public:
  std::string name() const override { return "slow"; }
  Move choose(const Situation& situation) override {
    std::this_thread::sleep_for(std::chrono::milliseconds(700));
    return situation.legal.front();
  }
};

TEST(Series, ALateMoveForfeits) {
  SeriesOptions options;
  options.players = {
      {"slow", "slow", [](std::uint64_t) { return std::make_unique<SlowOpponent>(); }},
      {"quick", "random", {}}};
  options.games = 2;
  options.move_seconds = 0.5;
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.forfeits, 2u);
  EXPECT_EQ(result.late, 2u);
  EXPECT_EQ(result.by_player[0].losses, 2u);
  EXPECT_EQ(result.by_player[1].wins, 2u);
  EXPECT_EQ(result.better[1][0], 2);
}

}  // namespace
}  // namespace orchard::series_test
