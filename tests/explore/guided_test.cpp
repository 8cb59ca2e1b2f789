// Games whose rules have no end of instances unless base and input guide: heaps of leaves counted
// in nested terms. The circuit answers as long as what happens is declared; the reference evaluator
// takes over where it is not.
#include <gtest/gtest.h>

#include "game/core.hpp"
#include "game/lane_game.hpp"
#include "orchard/orchard.hpp"

namespace orchard::guided_test {
namespace {

// Two heaps of up to four leaves, of which `declared` are; `sweep` makes a move that no input
// declares legal once a heap is full.
std::string heaps(int declared, bool sweep) {
  std::string rules = R"(
    (role rake) (role wind)
    (heap left) (heap right)
    (<= (init (leaves ?h none)) (heap ?h))
    (<= (legal rake (add ?h)) (true (leaves ?h ?n)) (not (full ?h)))
    (<= (legal rake rest) (full left) (full right))
    (legal wind blow) (legal wind rest)
    (<= (next (leaves ?h (one_more ?n))) (does rake (add ?h)) (true (leaves ?h ?n))
        (does wind rest))
    (<= (next (leaves ?h ?n)) (true (leaves ?h ?n)) (not (grows ?h)))
    (<= (grows ?h) (does rake (add ?h)) (does wind rest))
    (<= (full ?h) (true (leaves ?h (one_more (one_more (one_more (one_more none)))))))
    (<= terminal (full left) (full right))
    (<= (goal rake 100) terminal)
    (goal wind 50)
    (<= (input rake (add ?h)) (heap ?h))
    (input rake rest) (input wind blow) (input wind rest)
  )";
  std::string count = "none";
  for (int n = 0; n <= declared; ++n) {
    rules += "(<= (base (leaves ?h " + count + ")) (heap ?h))\n";
    count = "(one_more " + count + ")";
  }
  if (sweep) rules += "(<= (legal rake sweep) (full ?h))\n";
  return rules;
}

// The answers of a game by whoever it asks, and by the reference evaluator, along random games.
void expect_same_as_the_reference(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  GameCore::Lease reference(core, true);
  Random random(1);
  for (int play = 0; play < 20; ++play) {
    Position position = game.initial();
    for (int ply = 0; !game.terminal(position); ++ply) {
      ASSERT_LT(ply, 200);
      reference->set_position(GameAccess::state(position).fluents());
      const auto legal_by_reference = reference->legal();
      const auto goals_by_reference = reference->goals();
      for (const Role& role : game.roles()) {
        const std::size_t r = role.index();
        EXPECT_EQ(legal_by_reference[r], GameAccess::state(position).legal(r));
        EXPECT_EQ(goals_by_reference[r], GameAccess::state(position).goals(r));
      }
      JointMove joint;
      std::vector<TermId> moves;
      for (const Role& role : game.roles()) {
        const std::vector<Move> legal = game.legal(position, role);
        joint.add(legal[random.below(legal.size())]);
        moves.push_back(GameAccess::id(joint[role.index()]));
      }
      reference->set_joint_move(moves);
      position = game.next(position, joint).value();
      EXPECT_EQ(reference->next(), GameAccess::state(position).fluents());
    }
  }
}

// Leaves 0 to 4 on either heap: 25 positions, the last one an end, at depths 0 to 8.
void expect_all_positions(const Game& game) {
  const Census census = take_census(game, {}).value();
  EXPECT_TRUE(census.complete);
  EXPECT_EQ(census.positions, 25u);
  ASSERT_EQ(census.depths.size(), 9u);
  EXPECT_EQ(census.depths[4].positions, 5u);
  EXPECT_EQ(census.depths[8].terminal, 1u);
}

PlayoutStatistics play(const Game& game, Evaluation evaluation) {
  PlayoutOptions options;
  options.games = 2000;
  options.evaluation = evaluation;
  return run_playouts(game, options).value();
}

void expect_likely_lengths(const Game& game) {
  const PlayoutStatistics played = play(game, Evaluation::automatic);
  EXPECT_EQ(played.playouts, 2000u);
  EXPECT_EQ(played.unfinished, 0u);
  EXPECT_NEAR(played.mean_length(), 16, 1);  // the wind rests every other time
  EXPECT_EQ(played.lengths.begin()->first, 8u);
  EXPECT_EQ(played.outcomes.size(), 1u);
}

TEST(Guided, PlaysOnTheCircuitWhatIsDeclared) {
  const Game game = Game::from_text(heaps(4, false)).value();
  const GameCore& core = *GameAccess::core(game);
  EXPECT_EQ(core.lanes(), nullptr);  // no exact one
  ASSERT_NE(core.lanes_or_guided(), nullptr);
  EXPECT_TRUE(core.lanes_or_guided()->guided());
  EXPECT_EQ(core.lanes_or_guided()->ground().fluents().size(), 10u);
  EXPECT_FALSE(core.lanes_or_guided()->ground().undeclared_next().empty());
  expect_same_as_the_reference(game);
  expect_all_positions(game);
  expect_likely_lengths(game);
}

TEST(Guided, WhatIsNotDeclaredIsNotLost) {
  const Game undeclared_fluents = Game::from_text(heaps(2, false)).value();
  expect_same_as_the_reference(undeclared_fluents);
  expect_all_positions(undeclared_fluents);
  expect_likely_lengths(undeclared_fluents);
  const Game undeclared_move = Game::from_text(heaps(4, true)).value();
  ASSERT_NE(GameAccess::core(undeclared_move)->lanes_or_guided(), nullptr);
  expect_same_as_the_reference(undeclared_move);
  expect_all_positions(undeclared_move);
}

}  // namespace
}  // namespace orchard::guided_test
