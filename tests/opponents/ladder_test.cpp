// Opponents for any game: fair, repeatable, and each better than the one below.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/line.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent.hpp"
#include "orchard/series.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"

namespace orchard::ladder_test {
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

// Where random games are nearly always lost, what is known to be safe is done all the same: chance
// hides wasps in four of twelve holes, and says of one hole that none is in it.
TEST(Ladder, GoesWhereItIsKnownToBeSafe) {
  std::string rules =
      "(role random) (role child) (init (wasps 0))\n"
      "(after 0 1) (after 1 2) (after 2 3) (after 3 4)\n"
      "(<= (legal random (hide ?h)) (hole ?h) (not (true (wasps 4))) (not (true (wasp ?h))))\n"
      "(<= (legal random wait) (true (wasps 4))) (<= (legal child wait) (not (true (wasps 4))))\n"
      "(<= (legal child (reach ?h)) (true (wasps 4)) (hole ?h) (not (true (reached ?h))))\n"
      "(<= (next (wasp ?h)) (does random (hide ?h))) (<= (next (wasp ?h)) (true (wasp ?h)))\n"
      "(<= (next (wasps ?m)) (does random (hide ?h)) (true (wasps ?n)) (after ?n ?m))\n"
      "(<= (next (wasps 4)) (true (wasps 4)))\n"
      "(<= (next (reached ?h)) (does child (reach ?h)))\n"
      "(<= (next (reached ?h)) (true (reached ?h)))\n"
      "(<= (next stung) (does child (reach ?h)) (true (wasp ?h)))\n"
      "(<= (sees child still) (true (wasps 3)) (does random (hide ?h)) (distinct ?h 7)"
      " (not (true (wasp 7))))\n"
      "(<= some_left (hole ?h) (not (true (wasp ?h))) (not (true (reached ?h))))\n"
      "(<= full (true (wasps 4))) (<= terminal (true stung)) (<= terminal full (not some_left))\n"
      "(<= (goal child 100) full (not some_left) (not (true stung)))\n"
      "(<= (goal child 0) (true stung)) (<= (goal child 0) some_left)\n";
  for (int hole = 1; hole <= 12; ++hole) rules += "(hole " + std::to_string(hole) + ")";
  const Game game = Game::from_text(rules).value();
  const Role child = *game.role("child");
  const Line line = play_line(game, game.initial(), "(hide 2) (hide 5) (hide 9) (hide 11)").value();
  Match match(game);
  for (const JointMove& joint : line.joints) ASSERT_TRUE(match.play(joint).empty());
  const std::vector<Move> legal = game.legal(match.position(), child);
  for (const char* const who : {"careful", "playouts:200", "playouts:1000"}) {
    int safe = 0;
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
      const auto opponent = make_opponent(who, seed).value();
      safe += opponent->choose(match.situation(child, legal)).to_string() == "(reach 7)" ? 1 : 0;
    }
    // The others play out a few of the positions that it may be; one in eight goes there by chance.
    EXPECT_GE(safe, who == std::string("careful") ? 20 : 16) << who;
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
  EXPECT_EQ(make_opponent("playouts:0.5s/2", 1).value()->name(), "playouts:0.5s/2");
  EXPECT_THAT(refusal("playouts:1s/none"), HasSubstr("playouts:SECONDSs/THREADS"));
}

TEST(Ladder, SaysWhatItCannotDo) {
  const Game hidden = Game::load(testing::game_path("cellar")).value();
  const Game open = Game::load(testing::game_path("espalier_3x3")).value();
  EXPECT_THAT(*opponent_caveat("perfect", hidden), HasSubstr("plays as playouts here"));
  EXPECT_FALSE(opponent_caveat("playouts:50", hidden));
  EXPECT_FALSE(opponent_caveat("perfect", open));
  const Game growing = Game::from_text(R"(
    (role r) (init (grown seed)) (legal r grow) (legal r rest)
    (<= (next (grown (leaf ?x))) (true (grown ?x)) (does r grow))
    (<= (next (grown ?x)) (true (grown ?x)) (does r rest))
    (init light) (<= (next light) (true light))
    (<= terminal (true (grown (leaf (leaf ?x)))) (true light)) (goal r 100))")
                           .value();
  EXPECT_THAT(*opponent_caveat("careful", growing),
              HasSubstr("without a circuit of the rules it cannot look further"));
  EXPECT_FALSE(opponent_caveat("random", growing));
  Match match(growing);
  const auto careful = make_opponent("careful", 1).value();
  EXPECT_TRUE(play_on(match, {careful.get()}, 50).empty());
}

// Without a circuit the ladder plays by the evaluator: it takes what wins, blocks what would, and
// is better than chance.
TEST(Ladder, PlaysWithoutACircuit) {
  LoadOptions load;
  load.circuit_bytes = 0;
  const Game game = Game::load(testing::game_path("espalier_3x3"), load).value();
  const Game silo = Game::load(testing::game_path("silo"), load).value();
  // Three corners of a square are east's: it takes the fourth, or west has to.
  const auto chosen = [&](const std::string& role_name, const std::string& who) {
    std::vector<Term> fluents;
    for (const char* text : {"(square 1 1 east)", "(square 1 2 east)", "(square 2 1 east)",
                             "(square 1 3 west)", "(square 2 3 west)", "(square 2 2 bare)",
                             "(square 3 1 bare)", "(square 3 2 bare)", "(square 3 3 bare)"}) {
      fluents.push_back(Term::parse(text).value());
    }
    fluents.push_back(Term::parse("(turn " + role_name + ")").value());
    const Position position = game.position(fluents).value();
    const Role role = *game.role(role_name);
    const std::vector<Move> legal = game.legal(position, role);
    EXPECT_GT(legal.size(), 1u);
    Match match(game, position);
    return make_opponent(who, 5).value()->choose(match.situation(role, legal)).to_string();
  };
  for (const std::string who : {"greedy", "careful", "lookahead:1", "playouts:1000"}) {
    EXPECT_EQ(chosen("east", who), "(tie 2 2)") << who;
    EXPECT_EQ(chosen("west", who), "(tie 2 2)") << who;
  }
  SeriesOptions options;
  options.players = {{"careful", "careful"}, {"random", "random"}};
  options.games = 10;
  const SeriesResult result = run_series(silo, options).value();
  EXPECT_GE(result.by_player[0].wins, 5u);
  EXPECT_EQ(result.by_player[0].losses, 0u);
  EXPECT_EQ(result.forfeits, 0u);
}

// With time it searches to the ends: of these moves one alone does not lose, and it is found in any
// time.
TEST(Ladder, PlayoutsWithTimeSearchToTheEnds) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const std::string line = "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1)";
  const Position position = play_line(game, game.initial(), line).value().last();
  const auto best = solve(game)->best(position, game.to_move(position).front());
  ASSERT_EQ(best.size(), 1u);
  EXPECT_EQ(choice(game, line, "playouts:0.02s"), best.front().move.to_string());
  EXPECT_EQ(choice(game, line, "playouts:0.02s/2"), best.front().move.to_string());
}

// Where roles choose at once the moves are drawn, so that nobody can count on one.
TEST(Ladder, MovesAtOnceAreMixed) {
  const Game game = Game::load(testing::game_path("market_day")).value();
  const std::vector<Move> legal = game.legal(game.initial(), game.roles()[0]);
  std::set<std::string> chosen;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    Match match(game);
    const auto opponent = make_opponent("playouts:2000", seed).value();
    chosen.insert(opponent->choose(match.situation(game.roles()[0], legal)).to_string());
  }
  EXPECT_GT(chosen.size(), 1u);
}

}  // namespace
}  // namespace orchard::ladder_test
