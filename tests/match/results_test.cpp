// What a match that is over counts as: of a role that plays alone, and where one got stuck. The
// same in sittings, series, learning, their files and their documents.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include <nlohmann/json.hpp>

#include "orchard/learn.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/results_store.hpp"
#include "orchard/series.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::results_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using testing::run_orchard;
using Json = nlohmann::json;

// One walker on steps 1 to 4: at 4 it has all, at 3 something, at 2 nothing.
const char* const walker = R"(
  (role walker) (init (at 1))
  (<= (legal walker (step 2)) (true (at 1)))
  (<= (legal walker (step 3)) (true (at 1)))
  (<= (legal walker (step 4)) (true (at 1)))
  (<= (next (at ?x)) (does walker (step ?x)))
  (<= terminal (not (true (at 1))))
  (<= (goal walker 0) (true (at 2)))
  (<= (goal walker 40) (true (at 3)))
  (<= (goal walker 100) (true (at 4))))";

// Red may go where blue has no move left; goals are the same all the time.
const char* const cul_de_sac = R"(
  (role red) (role blue) (init free)
  (<= (legal red (go ?where)) (place ?where) (true free))
  (<= (legal blue wait) (true free))
  (<= (legal red wait) (not (true free)))
  (place yard) (place lane)
  (<= (next home) (does red (go yard)))
  (<= (next lost) (does red (go lane)))
  (<= terminal (true home))
  (goal red 50) (goal blue 50))";

Game of(const char* rules) {
  return Game::from_text(rules).value();
}

TEST(Results, OfARoleAloneAreWonLostOrBetween) {
  SeriesOptions options;
  options.players = {{"only", "random"}};
  options.games = 60;
  const SeriesResult result = run_series(of(walker), options).value();
  const SeriesTally& tally = result.by_player.front();
  EXPECT_GT(tally.wins, 0u);
  EXPECT_GT(tally.losses, 0u);
  EXPECT_GT(tally.scored, 0u);
  EXPECT_EQ(tally.draws, 0u);
  EXPECT_EQ(tally.results(), 60u);
  EXPECT_DOUBLE_EQ(tally.goals, 100.0 * static_cast<double>(tally.wins) +
                                    40.0 * static_cast<double>(tally.scored));
}

TEST(Results, OfARoleAloneInASitting) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.write("walker.gdl", walker);
  const std::string said =
      run_orchard({"play", file}, "step 2\nagain\nstep 3\nagain\nstep 4\nquit\n").out;
  EXPECT_THAT(said,
              HasSubstr("result: walker loses (walker 0)\n   walker: mean goal 0, 0 won, 1 lost"));
  EXPECT_THAT(
      said,
      HasSubstr("result: walker scores 40\n   walker: mean goal 20, 0 won, 1 lost, 1 in between"));
  EXPECT_THAT(said, HasSubstr("result: walker wins (walker 100)\n   walker: mean goal 46.67, 1 "
                              "won, 1 lost, 1 in between"));
  // And through a file.
  const std::string kept = folder.path("kept");
  (void)run_orchard({"play", file}, "step 3\nsave " + kept + "\nquit\n");
  EXPECT_THAT(run_orchard({"play", file, "--resume", kept}, "again\nstep 4\nquit\n").out,
              HasSubstr("mean goal 70, 1 won, 0 lost, 1 in between"));
}

TEST(Results, OfARoleAloneInTheCommandsOfManyGames) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.write("walker.gdl", walker);
  const std::string series = run_orchard({"series", file, "--games", "50"}).out;
  EXPECT_THAT(series, HasSubstr("between"));
  EXPECT_THAT(series, Not(HasSubstr("drawn")));
  EXPECT_LT(series.find("goal"), series.find("won"));  // the mean goal leads
  EXPECT_THAT(series, Not(HasSubstr("as walker")));    // there is no other seat
  const Json played = Json::parse(run_orchard({"series", file, "--games", "50", "--json"}).out);
  const Json& player = played["players"][0];
  EXPECT_GT(player["scored"], 0);
  EXPECT_LT(player["wins"], 50);
  EXPECT_GT(player["losses"], 0);
  const Json learnt =
      Json::parse(run_orchard({"learn", file, "--games", "60", "--block", "60", "--json"}).out);
  const Json& block = learnt["blocks"][0];
  EXPECT_EQ(block["draws"], 0);
  EXPECT_EQ(block["wins"].get<int>() + block["losses"].get<int>() + block["scored"].get<int>(), 60);
  EXPECT_GT(block["mean_goal"], 0);
}

TEST(Results, AStuckMatchIsCountedApart) {
  SeriesOptions options;
  options.players = {{"a", "random"}, {"b", "random"}};
  options.games = 60;
  const testing::TemporaryFolder folder;
  const Game game = of(cul_de_sac);
  const SeriesResult result = run_series(game, options).value();
  EXPECT_GT(result.stuck, 10u);
  EXPECT_LT(result.stuck, 50u);
  EXPECT_EQ(result.unfinished, 0u);
  EXPECT_EQ(result.by_player[0].stuck, result.stuck);
  EXPECT_EQ(result.by_player[0].draws, 60 - result.stuck);
  EXPECT_DOUBLE_EQ(result.by_player[0].mean_goal(), 50);
  EXPECT_DOUBLE_EQ(result.better[0][1] + result.better[1][0],
                   static_cast<double>(60 - result.stuck));
  // From a store it is the same.
  options.store = ResultsStore::open(folder.path("store")).value();
  (void)run_series(game, options);
  const SeriesResult stored = run_series(game, options).value();
  EXPECT_EQ(stored.stored, 60u);
  EXPECT_EQ(stored.stuck, result.stuck);
  EXPECT_EQ(stored.by_player[1].draws, result.by_player[1].draws);
}

TEST(Results, AStuckMatchIsSaidToBeStuck) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.write("cul_de_sac.gdl", cul_de_sac);
  const std::string said =
      run_orchard({"play", file, "--seat", "blue=random"}, "go lane\nquit\n").out;
  EXPECT_THAT(said, HasSubstr("result: stuck: blue has no legal move, and the game is not over\n"
                              "   red: 0 won, 0 drawn, 0 lost, 1 stuck\n"));
  EXPECT_THAT(said, Not(HasSubstr("result: draw")));
  const auto series = run_orchard({"series", file, "--games", "40"});
  EXPECT_THAT(series.out, HasSubstr("a role had no legal move, and the game was not over"));
  const auto learn = run_orchard({"learn", file, "--games", "40", "--block", "40", "--json"});
  EXPECT_GT(Json::parse(learn.out)["blocks"][0]["stuck"], 0);
}

TEST(Results, AStuckMatchTeachesNothing) {
  const Game game = of(cul_de_sac);
  const Role& red = game.roles()[0];
  const Move lane = game.move(Term::parse("(go lane)").value());
  TokenTable tokens(game, red, {.initial = 5, .win = 1, .draw = -1, .loss = -1});
  LearnOptions options;
  options.games = 3;
  options.block = 3;
  for (options.seed = 1; options.seed < 20; ++options.seed)
    ASSERT_TRUE(learn(game, tokens, options));
  EXPECT_EQ(tokens.tokens(game.initial(), lane), 5);
  ValueTable values(game, red);
  const double before = values.value(game.initial(), lane);
  ASSERT_TRUE(learn(game, values, options));
  EXPECT_DOUBLE_EQ(values.value(game.initial(), lane), before);
}

TEST(Results, AddUpInEveryKindOfGame) {
  for (const std::string& path : testing::demo_games()) {
    const Game game = Game::load(path).value();
    SeriesOptions options;
    for (const Role& role : game.roles()) {
      if (!role.is_chance()) options.players.push_back({role.name(), "random"});
    }
    options.games = 6;
    options.plies = 60;  // some are broken off
    const auto result = run_series(game, options);
    ASSERT_TRUE(result) << result.diagnostics().render();
    for (const SeriesTally& tally : result->by_player) {
      EXPECT_EQ(tally.results() + result->stuck + result->unfinished + result->without_goals, 6u)
          << path;
      EXPECT_EQ(tally.stuck, result->stuck);
      EXPECT_TRUE(tally.scored == 0 || options.players.size() == 1) << path;
    }
  }
}

TEST(LearnCommand, LookingAtATableChangesNothing) {
  const testing::TemporaryFolder folder;
  const std::string game = testing::game_path("snails");
  const std::string table = folder.path("table");
  const std::vector<std::string> call{"learn", game, "--table", table};
  const auto with = [&](std::vector<std::string> more) {
    std::vector<std::string> words = call;
    words.insert(words.end(), more.begin(), more.end());
    return run_orchard(words);
  };
  EXPECT_THAT(with({"--games", "200"}).out, HasSubstr("1-100"));
  const std::string kept = testing::read_file(table);
  EXPECT_THAT(with({"--show"}).out, HasSubstr("learnt from 200 games"));
  EXPECT_EQ(with({"--games", "0"}).status, 0);
  // There is no curve to draw then.
  EXPECT_EQ(with({"--games", "0", "--svg", folder.path("none.svg")}).status, 2);
  EXPECT_FALSE(std::filesystem::exists(folder.path("none.svg")));
  EXPECT_EQ(testing::read_file(table), kept);
  // Games are counted on, and there are some if they are asked for.
  EXPECT_THAT(with({"--games", "100", "--show"}).out, HasSubstr("201-300"));
  EXPECT_NE(testing::read_file(table), kept);
}

TEST(SeriesCommand, NamedSeatsStay) {
  const std::vector<std::string> call{"series",  testing::game_path("snails"),
                                      "--games", "6",
                                      "--seat",  "amber=greedy",
                                      "--seat",  "grey=random"};
  EXPECT_THAT(run_orchard(call).out, HasSubstr("all in the same seats"));
  EXPECT_THAT(run_orchard(call).out, HasSubstr("greedy as amber"));
  EXPECT_THAT(run_orchard({"series", testing::game_path("snails"), "--games", "6", "--player",
                           "greedy", "--player", "random"})
                  .out,
              HasSubstr("seats changing from match to match"));
}

}  // namespace
}  // namespace orchard::results_test
