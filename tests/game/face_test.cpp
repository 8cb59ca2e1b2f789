// What a program that embeds the library relies on: order, hashes, keys, misuse that is told.
#include <gtest/gtest.h>

#include <map>
#include <unordered_set>

#include "orchard/orchard.hpp"
#include "support/files.hpp"

namespace orchard::face_test {
namespace {

Game espalier() {
  return Game::load(testing::game_path("espalier_3x3")).value();
}

TEST(Face, RolesMovesAndJointMovesAreOrderedAndHashed) {
  const Game game = espalier();
  EXPECT_LT(game.roles()[0], game.roles()[1]);
  const auto legal = game.legal(game.initial(), game.roles()[0]);
  ASSERT_GT(legal.size(), 2u);
  EXPECT_TRUE(std::ranges::is_sorted(legal));
  EXPECT_LT(game.move(Term::parse("(tie 1 2)").value()),
            game.move(Term::parse("(tie 1 10)").value()));
  std::unordered_set<Move> moves(legal.begin(), legal.end());
  EXPECT_EQ(moves.size(), legal.size());
  EXPECT_TRUE(moves.contains(game.move(legal[1].term())));
  std::unordered_set<JointMove> joints;
  std::map<JointMove, int> ordered;
  for (const Move& move : legal) {
    const JointMove joint = game.joint_move(game.initial(), game.roles()[0], move).value();
    joints.insert(joint);
    ordered[joint] = 1;
  }
  EXPECT_EQ(joints.size(), legal.size());
  EXPECT_EQ(ordered.size(), legal.size());
  std::unordered_set<Role> roles(game.roles().begin(), game.roles().end());
  EXPECT_EQ(roles.size(), game.roles().size());
}

// The same wherever the rules are loaded, whatever their layout; other for other positions.
TEST(Face, KeysOfPositionsAreStable) {
  const std::string text =
      "(role bee) (init (at a)) (init (n 10)) (init (n 9)) (legal bee go)"
      "(<= (next (at b)) (true (at a)))";
  const Game game = Game::from_text(text).value();
  const Game again = Game::from_text("; a comment\n\n" + text).value();
  EXPECT_EQ(game.initial().key(), again.initial().key());
  EXPECT_EQ(game.initial().key(), "cdfb13d607fa9b90737e3bc0341fdeb6");
  const Game other = Game::from_text(text + "(<= terminal (true (at b)))").value();
  EXPECT_NE(game.initial().key(), other.initial().key());
  std::set<std::string> keys;
  std::set<std::string> positions;
  const Game trellis = espalier();
  WalkOptions options;
  for (options.seed = 1; options.seed < 50; ++options.seed) {
    const auto walked = random_walk(trellis, options, [&](const WalkStep& step) {
      keys.insert(step.position.key());
      positions.insert(step.position.to_string());
      return true;
    });
    ASSERT_TRUE(walked.ok());
  }
  EXPECT_EQ(keys.size(), positions.size());
}

TEST(Face, WhatBelongsToAnotherGameIsRefused) {
  const Game game = espalier();
  const Game other = Game::load(testing::game_path("snails")).value();
  EXPECT_THROW((void)game.terminal(other.initial()), std::logic_error);
  EXPECT_THROW((void)game.legal(other.initial(), game.roles()[0]), std::logic_error);
  EXPECT_THROW((void)game.goals(other.initial(), game.roles()[0]), std::logic_error);
  EXPECT_THROW((void)game.legal(game.initial(), other.roles()[0]), std::logic_error);
  EXPECT_THROW((void)game.next(other.initial(), JointMove()), std::logic_error);
  // The same rules loaded twice are two games.
  EXPECT_THROW((void)game.terminal(espalier().initial()), std::logic_error);
}

TEST(Face, GoalsAreWholeNumbersOfAnySize) {
  const Game game = Game::from_text(
                        "(role bee) (init (at a)) (legal bee go) (next (at a))"
                        "(goal bee 123456789012345678)")
                        .value();
  EXPECT_EQ(game.goal(game.initial(), game.roles()[0]), 123456789012345678);
}

TEST(Face, ResultsAreUsedWithoutAsking) {
  const Result<Game> none = Game::from_text("(role");
  EXPECT_FALSE(none.map([](const Game& game) { return game.name(); }).ok());
  EXPECT_EQ(none.map([](const Game& game) { return game.name(); }).value_or("none"), "none");
  const Result<Game> some = Game::load(testing::game_path("snails"));
  EXPECT_EQ(some.map([](const Game& game) { return game.name(); }).value(), "snails.gdl");
  EXPECT_EQ(some.value_or(espalier()).name(), "snails.gdl");
  Result<std::string> changed = std::string("plum");
  changed->append("s");
  EXPECT_EQ(*changed, "plums");
  EXPECT_THROW((void)Result<int>(Diagnostics()), std::logic_error);
}

TEST(Face, EverythingThatReadsAFileReadsAText) {
  const Game game = espalier();
  const auto positions =
      positions_from_text(game, "(position \"one\" (square 1 1 east) (turn west))").value();
  ASSERT_EQ(positions.size(), 1u);
  EXPECT_EQ(positions[0].name, "one");
  EXPECT_FALSE(positions_from_text(game, "(position").ok());
  const auto cases =
      run_cases_of_text(game, "(case \"it begins\" (start) (expect (not terminal)))").value();
  EXPECT_TRUE(cases.at(0).passed());
  ReviewOptions options;
  options.claims_text = "(claim \"one at most\" (never (and (wins east) (wins west))))";
  EXPECT_EQ(review_rules(game, options).value().claims.at(0).verdict, Verdict::holds);
  Match match(game);
  EXPECT_TRUE(match
                  .play(game.joint_move(game.initial(), game.roles()[0],
                                        game.legal(game.initial(), game.roles()[0])[0])
                            .value())
                  .empty());
  const auto record = record_from_text(to_json_lines(record_of(match), match)).value();
  EXPECT_EQ(replay(game, record).value().position(), match.position());
  EXPECT_FALSE(record_from_text("no").ok());
}

// An interrupt while the circuit is made leaves a game without one, which says so.
TEST(Face, TheMakingOfTheCircuitCanBeStopped) {
  std::stop_source stop;
  LoadOptions options;
  options.stop = stop.get_token();
  const Game game = Game::load(testing::game_path("espalier_3x3"), options).value();
  stop.request_stop();
  const auto solution = solve(game);
  ASSERT_FALSE(solution.ok());
  EXPECT_TRUE(solution.diagnostics().only_limits());
  EXPECT_NE(solution.diagnostics().render().find("interrupted"), std::string::npos);
  EXPECT_FALSE(game.legal(game.initial(), game.roles()[0]).empty());
}

}  // namespace
}  // namespace orchard::face_test
