// Lines of play as they are written, and matches that go back and forth along them.
#include "orchard/line.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "orchard/match.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "syntax/arithmetic.hpp"

namespace orchard::line_test {
namespace {

using ::testing::HasSubstr;

using testing::load;

TEST(Line, TakesMovesOfRolesAndJointMoves) {
  const Game game = load("espalier_3x3");
  const Line one = play_line(game, game.initial(), "(tie 1 1) (tie 1 2)").value();
  const Line two =
      play_line(game, game.initial(), "(east (tie 1 1)) (joint (west (tie 1 2)) (east wait))")
          .value();
  EXPECT_EQ(one.last(), two.last());
  EXPECT_EQ(one.joints, two.joints);
  ASSERT_EQ(one.positions.size(), 3u);
  EXPECT_EQ(one.positions.front(), game.initial());
  EXPECT_EQ(play_line(game, game.initial(), "  ; nothing\n").value().joints.size(), 0u);
}

TEST(Line, SimultaneousMovesNeedAJointMove) {
  const Game game = load("market_day");
  EXPECT_TRUE(play_line(game, game.initial(), "(joint (hill (ask low)) (vale (ask high)))"));
  EXPECT_THAT(
      play_line(game, game.initial(), "(ask low)").diagnostics().render(),
      HasSubstr("hill and vale choose at once; write (joint (hill (ask low)) (vale MOVE))"));
  EXPECT_THAT(play_line(game, game.initial(), "(hill (ask low))").diagnostics().render(),
              HasSubstr("it has a choice; write (joint …)"));
}

TEST(Line, StopsAtTheEndOfTheGame) {
  const Game game = load("espalier_3x3");
  const std::string won = "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1) (tie 3 3) (tie 2 2)";
  EXPECT_TRUE(game.terminal(play_line(game, game.initial(), won).value().last()));
  EXPECT_THAT(play_line(game, game.initial(), won + " (tie 3 1)").diagnostics().render(),
              HasSubstr("ply 8"));
}

TEST(Line, PointsAtThePlyInTheText) {
  const Game game = load("espalier_3x3");
  const auto refused = play_line(game, game.initial(), "(tie 1 1)\n  (west (tie 9 9))");
  const Diagnostic& fault = refused.diagnostics().items().front();
  EXPECT_EQ(fault.place.line, 2);
  EXPECT_EQ(fault.place.column, 3);
  EXPECT_EQ(fault.code, "bad-line");
}

// What chance does and nobody wrote is drawn: in a ply, and before one that is about another role.
TEST(Line, ChanceIsDrawnWhereItIsNotWritten) {
  const Game game = load("cellar");
  const auto ends_of = [&](const char* text) {
    std::set<std::string> ends;
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
      const auto line = play_line(game, game.initial(), text, seed);
      EXPECT_TRUE(line) << line.diagnostics().render();
      if (!line) continue;
      EXPECT_EQ(line->joints.size(), 6u);
      EXPECT_EQ(line->last(), play_line(game, game.initial(), text, seed).value().last());
      ends.insert(line->last().to_string());
    }
    return ends;
  };
  EXPECT_GT(ends_of("(name 1) (name 2)").size(), 20u);
  // The first jar is known then, the others are drawn.
  const auto half_known = ends_of("(shelve 3) (mouse (name 1)) (name 2)");
  EXPECT_GT(half_known.size(), 10u);
  for (const std::string& end : half_known) EXPECT_THAT(end, HasSubstr("(shelf 1 3)"));
  EXPECT_EQ(ends_of("(shelve 3) (shelve 1) (shelve 2) (shelve 4) (name 1) (name 2)").size(), 1u);
}

TEST(Line, AMisspeltMoveOfChanceIsNotDrawnOver) {
  const Game game = load("moles");
  const auto refused = [&](const char* text) {
    return play_line(game, game.initial(), text).diagnostics().render();
  };
  EXPECT_THAT(refused("(dig 1 1) (settle 9 9)"),
              HasSubstr("ply 2: random cannot play (settle 9 9)"));
  EXPECT_THAT(refused("(dig 1 1) (random (shuffle 1))"), HasSubstr("ply 2: random cannot play"));
  EXPECT_THAT(refused("(dig 1 1) (dgi 2 2)"), HasSubstr("ply 5: digger cannot play (dgi 2 2)"));
}

TEST(Match, RedoneMovesAreForgottenOnceAnotherIsPlayed) {
  const Game game = load("espalier_3x3");
  const Line line = play_line(game, game.initial(), "(tie 1 1) (tie 1 2) (tie 1 3)").value();
  Match match(game);
  for (const JointMove& joint : line.joints) ASSERT_TRUE(match.play(joint).empty());
  EXPECT_FALSE(match.redo());
  EXPECT_TRUE(match.undo());
  EXPECT_TRUE(match.undo());
  EXPECT_TRUE(match.redo());
  EXPECT_EQ(match.position(), line.positions[2]);
  EXPECT_TRUE(match.redo());
  EXPECT_EQ(match.position(), line.last());
  EXPECT_FALSE(match.redo());
  EXPECT_TRUE(match.undo());
  const Line other = play_line(game, line.positions[2], "(tie 2 1)").value();
  EXPECT_TRUE(match.play(other.joints.front()).empty());
  EXPECT_FALSE(match.redo());
  match.begin_again();
  EXPECT_FALSE(match.redo());
}

TEST(Match, TracksWhatARoleKnowsAlongTheWay) {
  const Game game = load("cellar");
  const Role mouse = *game.role("mouse");
  const Line line =
      play_line(game, game.initial(),
                "(random (shelve 1)) (random (shelve 2)) (random (shelve 3)) (random (shelve 4))")
          .value();
  Match match(game);
  for (const JointMove& joint : line.joints) {
    const std::vector<Move> legal = game.legal(match.position(), mouse);
    (void)match.situation(mouse, legal);
    ASSERT_TRUE(match.play(joint).empty());
  }
  const std::vector<Move> legal = game.legal(match.position(), mouse);
  EXPECT_EQ(match.situation(mouse, legal).view->positions(), 120u);  // 5 · 4 · 3 · 2
  match.undo();
  const std::vector<Move> before = game.legal(match.position(), mouse);
  EXPECT_EQ(match.situation(mouse, before).view->positions(), 60u);
}

TEST(Arithmetic, RoundsDownAndKeepsRestsPositive) {
  using syntax::combined;
  for (std::int64_t a = -7; a <= 7; ++a) {
    for (const std::int64_t b : {-3, -2, -1, 1, 2, 3}) {
      const std::int64_t quotient = combined("#div", a, b).value.value();
      const std::int64_t rest = combined("#mod", a, b).value.value();
      EXPECT_LE(static_cast<double>(quotient), static_cast<double>(a) / static_cast<double>(b));
      EXPECT_GT(static_cast<double>(quotient + 1), static_cast<double>(a) / static_cast<double>(b));
      EXPECT_GE(rest, 0);
      EXPECT_LT(rest, b < 0 ? -b : b);
      EXPECT_EQ((a - rest) % b, 0);
    }
  }
  constexpr std::int64_t most = 9'223'372'036'854'775'807;
  EXPECT_EQ(combined("#+", most, 1).fault, "this number is too large");
  EXPECT_EQ(combined("#*", most, 2).fault, "this number is too large");
  EXPECT_EQ(combined("#div", -most - 1, -1).fault, "this number is too large");
  EXPECT_EQ(combined("#mod", 1, 0).fault, "division by zero");
  EXPECT_EQ(combined("#-", 2, 5).value, -3);
}

}  // namespace
}  // namespace orchard::line_test
