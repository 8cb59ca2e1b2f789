// The table of tokens: how it counts, what it learns, and how it is kept.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/learn.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard {
namespace {

using ::testing::HasSubstr;
using Json = nlohmann::json;

// Left loses, right wins; before it a choice that leads to a place where everything loses.
Game fork() {
  return Game::from_text(R"(
    (role r) (init (at start))
    (<= (legal r (go left)) (true (at start))) (<= (legal r (go right)) (true (at start)))
    (<= (legal r (go up)) (true (at left))) (<= (legal r (go down)) (true (at left)))
    (<= (next (at ?x)) (does r (go ?x)))
    (<= terminal (true (at right))) (<= terminal (true (at up))) (<= terminal (true (at down)))
    (<= (goal r 100) (true (at right))) (<= (goal r 0) (not (true (at right)))))")
      .value();
}

TEST(Tokens, TheLastMoveGainsAndLoses) {
  const Game game = fork();
  const Role& role = game.roles()[0];
  TokenTable table(game, role, {2, 1, 0, -1});
  LearnOptions options;
  options.games = 200;
  options.block = 50;
  const LearningCurve curve = learn(game, table, options).value();
  EXPECT_EQ(table.games(), 200u);
  ASSERT_EQ(curve.blocks.size(), 4u);
  EXPECT_EQ(curve.blocks[3].wins, 50u);  // it has learnt
  // Below the wrong turn nothing is left, and the turn itself was taken away by and by.
  const auto entries = table.entries();
  ASSERT_EQ(entries.size(), 2u);
  EXPECT_TRUE(entries[0].is_hopeless()) << entries[0].position;
  const Position& start = game.initial();
  EXPECT_EQ(table.tokens(start, game.move(Term::parse("(go left)").value())), 0);
  EXPECT_GT(table.tokens(start, game.move(Term::parse("(go right)").value())), 100);
}

TEST(Tokens, LosingBeforeEverHavingChosenDoesNoHarm) {
  const Game game = Game::from_text(R"(
    (role r) (init (at 0)) (<= (legal r on) (true (at ?x))) (<= (next (at 1)) (does r on))
    (<= terminal (true (at 1))) (goal r 0))")
                        .value();
  TokenTable table(game, game.roles()[0]);
  EXPECT_TRUE(learn(game, table, {}));
  EXPECT_TRUE(table.entries().empty());
  EXPECT_EQ(table.games(), 1000u);
}

TEST(Tokens, LearnsASmallGame) {
  const Game game = Game::load(testing::game_path("snails")).value();
  TokenTable table(game, game.roles()[0]);
  LearnOptions options;
  options.games = 2000;
  options.block = 500;
  options.random_plies = 3;  // off the usual path
  const LearningCurve curve = learn(game, table, options).value();
  EXPECT_GT(curve.blocks[3].wins, curve.blocks[0].wins);
  EXPECT_GT(curve.blocks[3].wins, 400u);
  // The same again for the same seed.
  TokenTable again(game, game.roles()[0]);
  EXPECT_TRUE(learn(game, again, options));
  EXPECT_EQ(again.to_json(), table.to_json());
}

TEST(Tokens, AreKeptAndMerged) {
  const Game game = fork();
  const Role& role = game.roles()[0];
  TokenTable table(game, role);
  LearnOptions options;
  options.games = 40;
  ASSERT_TRUE(learn(game, table, options));
  const auto read = TokenTable::from_json(game, table.to_json());
  ASSERT_TRUE(read) << read.diagnostics().render();
  EXPECT_EQ(read->to_json(), table.to_json());
  TokenTable both = *read;
  EXPECT_TRUE(both.merge(table).empty());
  EXPECT_EQ(both.games(), 80u);
  const Move right = game.move(Term::parse("(go right)").value());
  EXPECT_EQ(both.tokens(game.initial(), right), 2 * table.tokens(game.initial(), right) - 3);

  const Game other = Game::load(testing::game_path("snails")).value();
  EXPECT_THAT(TokenTable::from_json(other, table.to_json()).diagnostics().render(),
              HasSubstr("learnt by other rules"));
  EXPECT_THAT(TokenTable::from_json(game, "[1]").diagnostics().render(), HasSubstr("bad-table"));
  EXPECT_THAT(TokenTable::from_json(game, "{\"version\":1}").diagnostics().render(),
              HasSubstr("bad-table"));
  TokenTable stranger(game, role, {7, 1, 0, -1});
  EXPECT_FALSE(both.merge(stranger).empty());
}

TEST(LearnCommand, KeepsItsTableAndGoesOnFromIt) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.path("amber.tokens");
  const std::vector<std::string> call = {
      "learn", testing::game_path("snails"), "--games", "400", "--table", file, "--block", "200"};
  auto json = call;
  json.emplace_back("--json");
  const auto first = testing::run_orchard(json);
  ASSERT_EQ(first.status, 0) << first.err;
  EXPECT_EQ(Json::parse(first.out)["games"], 400);
  EXPECT_EQ(Json::parse(testing::run_orchard(json).out)["games"], 800);
  auto shown = call;
  shown.insert(shown.end(), {"--show", "--role", "amber"});
  const auto text = testing::run_orchard(shown);
  EXPECT_THAT(text.out, HasSubstr("amber learns snails.gdl"));
  EXPECT_THAT(text.out, HasSubstr("every move is bad here"));
  EXPECT_THAT(text.out, HasSubstr("1200 games learnt from"));
  const auto play = testing::run_orchard({"play", testing::game_path("snails"), "--seat",
                                          "amber=learned:" + file, "--seat", "grey=random"});
  EXPECT_THAT(play.out, HasSubstr("result: "));
  EXPECT_EQ(
      testing::run_orchard({"learn", testing::game_path("snails"), "--role", "nobody"}).status, 2);
  EXPECT_THAT(testing::run_orchard({"learn", testing::game_path("silo"), "--table", file}).err,
              HasSubstr("learnt by other rules"));
}

TEST(LearnCommand, BeginsWhereItIsToldAndAddsOtherTables) {
  const testing::TemporaryFolder folder;
  const std::string starts = folder.write(
      "starts.position",
      "(position \"low\" (sits amber 3) (sits grey 5) (last amber 3) (last grey 1) (turn amber))\n"
      "(position \"high\" (sits amber 9) (sits grey 7) (last amber 2) (last grey 3) (turn "
      "amber))\n");
  const std::string game = testing::game_path("snails");
  const std::string one = folder.path("one.tokens");
  const auto first =
      testing::run_orchard({"learn", game, "--games", "50", "--starts", starts, "--table", one,
                            "--csv", folder.path("c.csv"), "--block", "25", "--json"});
  ASSERT_EQ(first.status, 0) << first.err;
  EXPECT_THAT(testing::read_file(folder.path("c.csv")),
              HasSubstr("block,games,wins,draws,losses\n1,25,"));
  // Nothing but what can follow from those two was met.
  EXPECT_EQ(testing::read_file(one).find("(sits amber 0)"), std::string::npos);
  const auto merged = testing::run_orchard(
      {"learn", game, "--games", "10", "--merge", one, "--merge", one, "--json"});
  ASSERT_EQ(merged.status, 0) << merged.err;
  EXPECT_EQ(Json::parse(merged.out)["games"], 110);
  const auto missing = testing::run_orchard({"learn", game, "--merge", folder.path("none")});
  EXPECT_EQ(missing.status, 2);
  EXPECT_THAT(missing.err, HasSubstr("cannot read"));
  const auto broken = testing::run_orchard(
      {"learn", game, "--table", folder.write("broken.tokens", "{\"version\": 2}")});
  EXPECT_EQ(broken.status, 2);
  EXPECT_THAT(broken.err, HasSubstr("its version is not 1"));
}

}  // namespace
}  // namespace orchard
