// The table of tokens: how it counts, what it learns, and how it is kept.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/learn_values.hpp"
#include "orchard/playouts.hpp"
#include "orchard/solve.hpp"
#include "support/explored_by_hand.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::learn_test {
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

// The trellis from behind: column c becomes 4 - c.
Term mirrored(const Term& term) {
  std::vector<Term> arguments = term.arguments();
  if (arguments.size() < 2 || !arguments[1].number()) return term;
  arguments[1] = Term::constant(std::to_string(4 - *arguments[1].number()));
  return Term::function(term.name(), arguments);
}

TEST(Learning, PositionsThatAreAlikeShareARow) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Role& east = game.roles()[0];
  LearnOptions options;
  options.games = 300;
  ValueRules rules;
  ValueTable alike(game, east, rules);
  rules.alike = false;
  ValueTable apart(game, east, rules);
  ASSERT_TRUE(learn(game, alike, options));
  ASSERT_TRUE(learn(game, apart, options));
  EXPECT_LT(alike.entries().size(), apart.entries().size());
  const ValueTable read = ValueTable::from_json(game, alike.to_json()).value();
  std::size_t learnt = 0;
  std::size_t differs_apart = 0;
  for (std::uint64_t number = 0; number < 40; ++number) {
    WalkOptions walk;
    walk.game = number;
    (void)random_walk(game, walk, [&](const WalkStep& step) {
      if (game.terminal(step.position) || game.to_move(step.position).front() != east) return true;
      std::vector<Term> fluents;
      for (const Term& fluent : step.position.fluents()) fluents.push_back(mirrored(fluent));
      const Position other = game.position(fluents).value();
      for (const Move& move : game.legal(step.position, east)) {
        const Move other_move = game.move(mirrored(move.term()));
        const double value = alike.value(step.position, move);
        EXPECT_EQ(alike.value(other, other_move), value);
        EXPECT_EQ(read.value(other, other_move), value);
        learnt += value != rules.initial ? 1 : 0;
        differs_apart += apart.value(other, other_move) != apart.value(step.position, move) ? 1 : 0;
      }
      return true;
    });
  }
  EXPECT_GT(learnt, 30u);
  EXPECT_GT(differs_apart, 30u);
  EXPECT_THAT(alike.merge(apart).render(), HasSubstr("other-table"));
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
              HasSubstr("learnt with other rules"));
  EXPECT_THAT(TokenTable::from_json(game, "[1]").diagnostics().render(), HasSubstr("bad-table"));
  EXPECT_THAT(TokenTable::from_json(game, "{\"version\":1}").diagnostics().render(),
              HasSubstr("bad-table"));
  // A move that a damaged file has changed.
  std::string damaged = table.to_json();
  damaged.replace(damaged.find("(go right)"), 10, "(go right!");
  EXPECT_THAT(TokenTable::from_json(game, damaged).diagnostics().render(),
              HasSubstr("`(go right!` is no legal move of its position"));
  TokenTable stranger(game, role, {7, 1, 0, -1});
  EXPECT_FALSE(both.merge(stranger).empty());
}

// Of all positions in which amber can go wrong, the share in which the table's best move keeps the
// value.
double share_of_best(const Game& game, const ValueTable& table) {
  const Solution solution = solve(game).value();
  double best = 0;
  double all = 0;
  for (const testing::ByHand& one : testing::explore_by_hand(game, 10'000)) {
    const std::vector<Move> legal = game.legal(one.position, table.role());
    if (one.terminal || legal.size() < 2) continue;
    const auto good = solution.best(one.position, table.role());
    if (good.size() == legal.size()) continue;
    const auto chosen = *std::ranges::max_element(
        legal, {}, [&](const Move& move) { return table.value(one.position, move); });
    ++all;
    best += std::ranges::find(good, chosen, &GoodMove::move) != good.end() ? 1 : 0;
  }
  return best / all;
}

TEST(Values, LearnBestPlayFromVariedStarts) {
  const Game game = Game::load(testing::game_path("snails")).value();
  ValueTable table(game, *game.role("amber"));
  LearnOptions options;
  options.games = 3000;
  options.random_plies = 10;
  options.seed = 2;
  const double before = share_of_best(game, table);
  EXPECT_LT(before, 0.8);
  ASSERT_TRUE(learn(game, table, options).ok());
  EXPECT_GE(share_of_best(game, table), 0.97);
}

TEST(Values, MoveAStepTowardsTheResult) {
  const Game game = Game::from_text(R"(
    (role bee) (init (at hive)) (legal bee left) (legal bee right)
    (<= (next (at field)) (does bee left)) (<= (next (at moor)) (does bee right))
    (<= terminal (not (true (at hive))))
    (<= (goal bee 100) (true (at field))) (<= (goal bee 20) (true (at moor)))
  )")
                        .value();
  const auto table = std::make_shared<ValueTable>(game, game.roles()[0], ValueRules{0.5, 0, 0.6});
  const auto player = value_player(table, 1, true);
  const Move left = game.move(Term::constant("left"));
  const Move right = game.move(Term::constant("right"));
  // Told by hand which move was made: until both are known to it.
  std::vector<Opponent*> seats{player.get()};
  double left_before = 0.6;
  double right_before = 0.6;
  for (int i = 0; i < 6; ++i) {
    Match match(game);
    ASSERT_TRUE(play_on(match, seats, 10).empty());
    const double left_now = table->value(game.initial(), left);
    const double right_now = table->value(game.initial(), right);
    const bool went_left = match.position().holds(Term::parse("(at field)").value());
    EXPECT_DOUBLE_EQ(left_now, went_left ? left_before + 0.5 * (1 - left_before) : left_before);
    EXPECT_DOUBLE_EQ(right_now,
                     went_left ? right_before : right_before + 0.5 * (0.2 - right_before));
    left_before = left_now;
    right_before = right_now;
  }
  EXPECT_GT(left_before, 0.9);
  EXPECT_EQ(table->games(), 6u);
}

TEST(Values, AreKeptMergedAndRefused) {
  const Game game = Game::load(testing::game_path("snails")).value();
  ValueTable table(game, *game.role("amber"), {0.3, 0.2, 0.5});
  LearnOptions options;
  options.games = 200;
  ASSERT_TRUE(learn(game, table, options).ok());
  const ValueTable read = ValueTable::from_json(game, table.to_json()).value();
  EXPECT_EQ(read.to_json(), table.to_json());
  EXPECT_EQ(read.games(), 200u);
  ValueTable other(game, *game.role("amber"));
  EXPECT_TRUE(other.merge(table).empty());
  EXPECT_EQ(other.entries().size(), table.entries().size());
  EXPECT_TRUE(other.merge(table).empty());
  const auto entry = table.entries().front();
  EXPECT_NEAR(other.entries().front().values.begin()->second, entry.values.begin()->second, 1e-12);
  const Game espalier = Game::load(testing::game_path("espalier_3x3")).value();
  EXPECT_EQ(ValueTable::from_json(espalier, table.to_json()).diagnostics().items()[0].code,
            "other-table");
  EXPECT_EQ(TokenTable::from_json(game, table.to_json()).diagnostics().items()[0].code,
            "bad-table");
  EXPECT_FALSE(learned_player(game, "{}", 1).ok());
  EXPECT_EQ(learned_player(game, table.to_json(), 1).value()->name(), "values");
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
  EXPECT_THAT(text.out, HasSubstr("learnt from 1200 games"));
  const auto play = testing::run_orchard({"play", testing::game_path("snails"), "--seat",
                                          "amber=learned:" + file, "--seat", "grey=random"});
  EXPECT_THAT(play.out, HasSubstr("result: "));
  EXPECT_EQ(
      testing::run_orchard({"learn", testing::game_path("snails"), "--role", "nobody"}).status, 2);
  EXPECT_THAT(testing::run_orchard({"learn", testing::game_path("silo"), "--table", file}).err,
              HasSubstr("learnt with other rules"));
}

TEST(LearnCommand, PlaysAgainstATableOrRulesOfAFile) {
  const testing::TemporaryFolder folder;
  const std::string game = testing::game_path("snails");
  const std::string table = folder.path("grey.tokens");
  ASSERT_EQ(
      testing::run_orchard({"learn", game, "--role", "grey", "--games", "3000", "--table", table})
          .status,
      0);
  const auto wins_against = [&](const std::string& who) {
    const auto result = testing::run_orchard({"learn", game, "--role", "amber", "--games", "300",
                                              "--block", "300", "--seat", "grey=" + who, "--json"});
    EXPECT_EQ(result.status, 0) << result.err;
    return Json::parse(result.out)["blocks"][0]["wins"].get<int>();
  };
  EXPECT_LT(wins_against("learned:" + table), wins_against("random"));
  const std::string rules =
      folder.write("far.rules", "(<= (prefer grey (climb 3) 1) (legal grey (climb 3)))");
  EXPECT_GT(wins_against("rules:" + rules), 0);
  EXPECT_EQ(testing::run_orchard({"learn", game, "--seat", "grey=learned:nowhere"}).status, 2);
  // Nobody sits there to be asked, so the help does not offer it.
  EXPECT_EQ(testing::run_orchard({"learn", game, "--seat", "grey=person"}).status, 2);
  EXPECT_THAT(testing::run_orchard({"learn", "--help"}).out, ::testing::Not(HasSubstr("person")));
  EXPECT_THAT(testing::run_orchard({"play", "--help"}).out, HasSubstr("person"));
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
              HasSubstr("first_game,games,wins,draws,losses,scored,stuck,mean_goal\n1,25,"));
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

// The rows below both tables: mirrored positions share one, copies are independent, and nothing
// hangs on the game object that a position came from.
TEST(LearntRows, AreKeptByPosition) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Role east = *game.role("east");
  const auto move = [&](const char* text) { return game.move(Term::parse(text).value()); };
  const auto after = [&](const char* line) {
    return play_line(game, game.initial(), line).value().last();
  };
  const Position left = after("(tie 1 1) (tie 1 2)");
  const Position right = after("(tie 1 3) (tie 1 2)");
  for (const bool alike : {true, false}) {
    LearntRows<std::int64_t> rows(game, east, 3, alike);
    EXPECT_EQ(rows.number(left, move("(tie 2 1)"), -1), 3);  // no row yet: as it would begin
    const auto kept = rows.as_kept(left, game.legal(left, east));
    rows.row(kept)[rows.as_kept(left, {move("(tie 2 1)")}).moves.front().to_string()] = 8;
    EXPECT_EQ(rows.number(left, move("(tie 2 1)"), -1), 8);
    EXPECT_EQ(rows.number(right, move("(tie 2 3)"), -1), alike ? 8 : 3);
    EXPECT_EQ(rows.number(left, move("(tie 3 3)"), -1), -1);  // not legal there
    ASSERT_NE(rows.find(kept.position), nullptr);

    LearntRows<std::int64_t> copy = rows;
    copy.merge(rows, [](std::int64_t own, std::int64_t others) { return own + others; });
    EXPECT_EQ(copy.number(left, move("(tie 2 1)"), -1), 16);
    EXPECT_EQ(rows.number(left, move("(tie 2 1)"), -1), 8);
    copy.row(copy.as_kept(game.initial(), game.legal(game.initial(), east)));
    ASSERT_EQ(copy.entries().size(), 2u);
    EXPECT_LT(copy.entries()[0].first.to_string(), copy.entries()[1].first.to_string());
    EXPECT_EQ(rows.entries().size(), 1u);

    const Game again = Game::load(testing::game_path("espalier_3x3")).value();
    EXPECT_EQ(again.position(kept.position.fluents()).value().key(), kept.position.key());
  }
}

}  // namespace
}  // namespace orchard::learn_test
