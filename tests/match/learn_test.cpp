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

}  // namespace
}  // namespace orchard
