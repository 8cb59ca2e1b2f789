#include "orchard/match.hpp"

#include <gtest/gtest.h>

#include "orchard/random.hpp"
#include "support/files.hpp"

namespace orchard::match_test {
namespace {

Game load(std::string_view name) {
  return Game::load(testing::game_path(name)).value();
}
Game of(const std::string& rules) {
  return Game::from_text(rules).value();
}

JointMove first_moves(const Match& match) {
  JointMove joint;
  for (const Role& role : match.game().roles()) {
    joint.add(match.game().legal(match.position(), role).front());
  }
  return joint;
}

// Random calls against the simplest model: a list of positions.
TEST(Match, BehavesAsAListOfPositions) {
  const Game game = load("espalier_3x3");
  Random random(3);
  Match match(game);
  std::vector<Position> model{game.initial()};
  for (int call = 0; call < 600; ++call) {
    switch (random.below(8)) {
      case 0:
        EXPECT_EQ(match.undo(), model.size() > 1);
        if (model.size() > 1) model.pop_back();
        break;
      case 1:
        if (random.below(5) > 0) break;
        match.begin_again();
        model.resize(1, game.initial());
        break;
      default: {
        JointMove joint;
        for (const Role& role : game.roles()) {
          const auto legal = game.legal(match.position(), role);
          joint.add(legal.empty() ? game.move(Term::constant("wait"))
                                  : legal[random.below(legal.size())]);
        }
        const bool over = game.terminal(model.back());
        EXPECT_EQ(match.play(joint).empty(), !over);
        if (!over) model.push_back(game.next(model.back(), joint).value());
      }
    }
    ASSERT_EQ(match.positions(), model);
    EXPECT_EQ(match.ply(), model.size() - 1);
    EXPECT_EQ(match.over(), game.terminal(model.back()));
  }
}

TEST(Match, ChangesNothingOnARefusedMove) {
  Match match(load("espalier_3x3"));
  EXPECT_FALSE(match.play(JointMove{}).empty());
  EXPECT_EQ(match.ply(), 0u);
}

TEST(Match, IsOverWhenARoleIsStuck) {
  const Match match(of("(role a)(role b)(init s)(legal a go)"));
  EXPECT_TRUE(match.over());
  ASSERT_EQ(match.stuck().size(), 1u);
  EXPECT_EQ(match.stuck()[0].name(), "b");
}

TEST(Match, ShowsOpponentsTheLastPositionAndTheirOwnMove) {
  Match match(load("espalier_3x3"));
  const Role east = match.game().roles()[0];
  const auto legal = match.game().legal(match.position(), east);
  EXPECT_FALSE(match.situation(east, legal).last_position);
  const JointMove joint = first_moves(match);
  ASSERT_TRUE(match.play(joint).empty());
  const Situation situation = match.situation(east, legal);
  EXPECT_EQ(*situation.last_position, match.start());
  EXPECT_EQ(situation.own_last_move->to_string(), joint[east].to_string());
  EXPECT_EQ(situation.ply, 1u);
}

class Stubborn : public Opponent {
 public:
  std::string name() const override { return "stubborn"; }
  Move choose(const Situation& situation) override {
    return situation.game.move(Term::constant("nonsense"));
  }
};

class Listener : public Opponent {
 public:
  std::string name() const override { return "listener"; }
  Move choose(const Situation& situation) override { return situation.legal.front(); }
  void match_ended(const Game&, const Role& role, const Position&) override { told += role.name(); }
  std::string told;
};

TEST(Match, NamesAnOpponentsIllegalMoveAndTellsTheResult) {
  Match match(load("espalier_3x3"));
  Stubborn stubborn;
  Listener listener;
  EXPECT_NE(play_on(match, {&stubborn, &listener}).render().find("east cannot play nonsense"),
            std::string::npos);
  EXPECT_EQ(listener.told, "");
  EXPECT_TRUE(play_on(match, {&listener, &listener}).empty());
  EXPECT_EQ(listener.told, "eastwest");
  EXPECT_THROW((void)play_on(match, {&listener}), std::logic_error);
}

std::string described(const std::string& goals,
                      const std::map<std::string, std::string>& names = {}) {
  const Game game = of(goals + " terminal");
  return describe(game, outcome_of(game, game.initial()), names);
}

TEST(Outcome, IsToldInWords) {
  EXPECT_EQ(described("(role a)(role b)(goal a 100)(goal b 0)"), "a wins (a 100, b 0)");
  EXPECT_EQ(described("(role a)(role b)(goal a 100)(goal b 0)", {{"a", "Ada"}}),
            "Ada (a) wins (a 100, b 0)");
  EXPECT_EQ(described("(role a)(role b)(goal a 50)(goal b 50)"), "draw (a 50, b 50)");
  EXPECT_EQ(described("(role a)(goal a 70)"), "a scores 70");
  EXPECT_EQ(described("(role a)(goal a 100)"), "a wins (a 100)");
  EXPECT_EQ(described("(role a)(role random)(goal a 0)"), "a loses (a 0)");
  EXPECT_EQ(described("(role a)(role b)(role c)(goal a 50)(goal b 50)(goal c 0)"),
            "a and b share the win (a 50, b 50, c 0)");
  EXPECT_EQ(described("(role a)(role b)(goal a 100)"), "no result (a 100, b no value)");
  EXPECT_EQ(described("(role a)(role b)(goal a 100)(goal a 0)(goal b 0)"),
            "no result (a 0 100, b 0)");
  EXPECT_EQ(described("(role random)(role a)(role b)(goal a 9)(goal b 10)"), "b wins (a 9, b 10)");
}

TEST(Outcome, StuckIsNeitherDrawnNorAnythingElse) {
  const Game one = of("(role a)(role b)(legal a go)(goal a 50)(goal b 50)");
  const Outcome outcome = outcome_of(one, one.initial());
  EXPECT_EQ(outcome.standing(one.roles()[0]), Standing::stuck);
  EXPECT_EQ(outcome.standing(one.roles()[1]), Standing::stuck);
  EXPECT_TRUE(outcome.best.empty());
  EXPECT_EQ(describe(one, outcome, {{"b", "Ben"}}),
            "stuck: Ben (b) has no legal move, and the game is not over");
  const Game both = of("(role a)(role b)");
  EXPECT_EQ(describe(both, outcome_of(both, both.initial())),
            "stuck: a and b have no legal move, and the game is not over");
}

TEST(Score, CountsWinsDrawsAndLosses) {
  Score score;
  const Game won = of("(role a)(role b)(goal a 100)(goal b 0) terminal");
  const Game drawn = of("(role a)(role b)(goal a 50)(goal b 50) terminal");
  const Game none = of("(role a)(role b) terminal");
  const Game stuck = of("(role a)(role b)(goal a 100)(goal b 0)");
  score.count(won, outcome_of(won, won.initial()));
  score.count(won, outcome_of(won, won.initial()));
  score.count(drawn, outcome_of(drawn, drawn.initial()));
  score.count(none, outcome_of(none, none.initial()));
  score.count(stuck, outcome_of(stuck, stuck.initial()));
  EXPECT_EQ(score.lines[0], (Tally{2, 1, 0, 0, 1, 250}));
  EXPECT_EQ(score.lines[1], (Tally{0, 1, 2, 0, 1, 50}));
  EXPECT_EQ(score.lines[0].results(), 3u);
  EXPECT_DOUBLE_EQ(score.lines[1].mean_goal(), 50.0 / 3);
}

}  // namespace
}  // namespace orchard::match_test
