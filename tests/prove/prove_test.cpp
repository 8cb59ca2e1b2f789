// What is proved without exploring, against every position explored.
#include <gtest/gtest.h>

#include "base/interruption.hpp"
#include "explore/space/watch.hpp"
#include "prove/proved_game.hpp"

namespace orchard::prove::prove_test {
namespace {

TEST(Induction, WhatIsProvedHoldsInEveryPositionExplored) {
  std::size_t proved_signals = 0;
  std::size_t endings = 0;
  for (const Game& game : small_games()) {
    SCOPED_TRACE(game.name());
    Proved proved(game);
    StateSpace space(proved.lanes);
    Budget budget;
    budget.positions = 3000;
    const bool complete = space.explore(proved.start, budget).value() == Ending::complete;
    std::vector<Signal> never;
    for (const Signal signal : proved.suspects) {
      if (proved.induction->never(signal)) never.push_back(signal);
    }
    proved_signals += never.size();
    explore::Watch watch(proved.lanes, proved.network, never);
    space.each_block([&](StateSpace::Row rows, std::span<const StateSpace::Number> positions) {
      watch.look(rows, positions.size());
      for (std::size_t s = 0; s < never.size(); ++s) {
        ASSERT_EQ(watch.count(s), 0u);
      }
    });
    const auto ending = proved.ending();
    if (!ending) continue;
    ++endings;
    const auto longest = longest_line(space);
    ASSERT_TRUE(longest.has_value());
    if (complete && ending->most_plies) {
      EXPECT_LE(*longest, *ending->most_plies);
    }
  }
  EXPECT_GE(proved_signals, 1000u);
  EXPECT_GE(endings, 5u);
}

Game game_of_text(const std::string& text) {
  return Game::from_text(text).value();
}

// Baskets are carried out one by one and come back one by one; a number says how many are in the
// shed, another how many are out. Which can be carried depends on the number alone.
constexpr const char* baskets = R"(
  (role picker) (basket red) (basket blue) (basket green)
  (after 0 1) (after 1 2) (after 2 3)
  (init (in_shed 3)) (init (out 0)) (init (shed red)) (init (shed blue)) (init (shed green))
  (<= (legal picker (carry ?basket)) (true (shed ?basket)))
  (<= (legal picker (bring ?basket)) (basket ?basket) (not (true (shed ?basket))))
  (<= (next (shed ?basket)) (true (shed ?basket)) (not (does picker (carry ?basket))))
  (<= (next (shed ?basket)) (does picker (bring ?basket)))
  (<= carries (does picker (carry ?basket)))
  (<= (next (in_shed ?fewer)) carries (true (in_shed ?number)) (after ?fewer ?number))
  (<= (next (in_shed ?more)) (not carries) (true (in_shed ?number)) (after ?number ?more))
  (<= (next (out ?more)) carries (true (out ?number)) (after ?number ?more))
  (<= (next (out ?fewer)) (not carries) (true (out ?number)) (after ?fewer ?number))
  (<= terminal (true (in_shed 0)) (true (out 3)) (true (shed red)))
  (goal picker 100)
)";

TEST(Counts, SayWhatNumbersStandFor) {
  const Game game = game_of_text(baskets);
  Proved proved(game);
  // Up with what is in the shed, down with what is out, and either in step with the other.
  EXPECT_GE(proved.counts.size(), 16u);
  for (const Signal fault : proved.counts) EXPECT_TRUE(proved.induction->never(fault));
  // So there is always a number, and the game never ends.
  for (const FluentGroup& group : proved.groups) {
    if (group.name == "in_shed" || group.name == "out") {
      EXPECT_TRUE(proved.induction->never(group.none)) << group.name;
    }
  }
  EXPECT_TRUE(proved.induction->never(proved.lanes.network().terminal));
}

// A number that does not come back up counts nothing: only the other one is left.
TEST(Counts, AreNotSuggestedWhereSamplesContradict) {
  std::string rules = baskets;
  const std::string more = "(not carries) (true (in_shed ?number)) (after ?number ?more))";
  rules.replace(rules.find(more), more.size(),
                "(not carries) (true (in_shed ?number)) (true (in_shed ?more)))");
  const Game right = game_of_text(baskets);
  const Game wrong = game_of_text(rules);
  const Proved of_right(right);
  const Proved of_wrong(wrong);
  EXPECT_GT(of_wrong.counts.size(), 0u);
  EXPECT_LT(of_wrong.counts.size(), of_right.counts.size());
  for (const Signal fault : of_wrong.counts) EXPECT_TRUE(of_wrong.induction->never(fault));
}

// Hoeing takes a bed further, a pass only the count of passes, which a hoe sets back.
const char* const beds_and_passes = R"(
(role ada) (init (bed 0)) (init (passes 0))
(next_bed 0 1) (next_bed 1 2) (next_bed 2 3)
(<= (legal ada hoe) (true (bed ?b)) (next_bed ?b ?c))
(legal ada pass)
(<= (next (bed ?c)) (does ada hoe) (true (bed ?b)) (next_bed ?b ?c))
(<= (next (bed ?b)) (does ada pass) (true (bed ?b)))
(<= (next (passes 0)) (does ada hoe))
(<= (next (passes 1)) (does ada pass) (true (passes 0)))
(<= (next (passes 2)) (does ada pass) (true (passes 1)))
(<= terminal (true (passes 2)))
(goal ada 100)
)";

TEST(Ending, StepsThatMoveNoChainOfTheFirstLevelAreLookedAtAgain) {
  const auto proof = Proved(game_of_text(beds_and_passes)).ending();
  ASSERT_TRUE(proof.has_value());
  ASSERT_EQ(proof->levels.size(), 2u);
  EXPECT_EQ(proof->levels[0].front(), "bed");
  EXPECT_EQ(proof->levels[1], std::vector<std::string>{"passes"});
  // Three hoes, a pass before and between them, two after them.
  EXPECT_GE(proof->most_plies.value(), 8u);
  EXPECT_LE(proof->most_plies.value(), (3u + 1) * (2 + 1) - 1);
}

TEST(Ending, PlayThatCanGoRoundIsNotProvedToEnd) {
  std::string text = beds_and_passes;
  const std::string last = "(<= (next (passes 2)) (does ada pass) (true (passes 1)))";
  text.replace(text.find(last), last.size(),
               "(<= (next (passes 0)) (does ada pass) (true (passes 1)))");
  EXPECT_FALSE(Proved(game_of_text(text)).ending().has_value());
}

// Whatever step the clauses allow, the rules allow too, with the same outcome: positions are any at
// all, most of them out of reach.
TEST(UnrolledGame, StepsFoundAreStepsOfTheRules) {
  std::size_t steps = 0;
  for (const Game& game : small_games()) {
    SCOPED_TRACE(game.name());
    const LaneGame& lanes = *GameAccess::core(game)->lanes();
    const circuit::GameNetwork& network = lanes.network();
    Solver solver;
    UnrolledGame unrolled(solver, network, network.network);
    unrolled.add_ply();
    const auto position = [&](std::size_t ply) {
      std::vector<Term> fluents;
      const std::vector<bool> held = unrolled.found_position(ply);
      for (std::size_t f = 0; f < held.size(); ++f) {
        if (held[f])
          fluents.push_back(lanes.ground().terms().term(lanes.ground().fluents()[f].term));
      }
      return game.position(fluents).value();
    };
    for (std::size_t f = 0; f < network.fluents.size(); f += 1 + network.fluents.size() / 8) {
      const std::vector<int> comes{-unrolled.literal(0, network.fluents[f]),
                                   unrolled.literal(1, network.fluents[f])};
      if (solver.solve(comes, 10'000) != Solver::Answer::possible) continue;
      ++steps;
      const Position before = position(0);
      EXPECT_FALSE(game.terminal(before));
      JointMove joint;
      for (std::size_t role = 0; role < network.does.size(); ++role) {
        std::size_t made = 0;
        for (std::size_t m = 0; m < network.does[role].size(); ++m) {
          if (!solver.holds(unrolled.literal(0, network.does[role][m]))) continue;
          ++made;
          joint.add(game.move(lanes.ground().terms().term(lanes.ground().moves()[role][m].term)));
        }
        ASSERT_EQ(made, 1u);
      }
      const auto after = game.next(before, joint);
      ASSERT_TRUE(after.ok()) << after.diagnostics().render();
      EXPECT_EQ(*after, position(1));
    }
  }
  EXPECT_GE(steps, 150u);
}

TEST(Induction, ExclusiveContentsOfEverySquareOfALargeGame) {
  Proved proved(Game::load(testing::game_path("espalier")).value());
  std::size_t exact = 0;
  for (const FluentGroup& group : proved.groups) {
    if (group.one_at_start && proved.induction->never(group.several) &&
        proved.induction->never(group.none)) {
      ++exact;
    }
  }
  EXPECT_EQ(exact, 4u * 5u + 1u);  // the squares, and whose turn it is
}

TEST(Induction, WithoutWorkNothingIsProved) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  Proved proved(game);
  InductionLimits limits;
  limits.work = 0;
  Induction none(proved.lanes.network(), proved.network, proved.lanes.ground().initial(), limits);
  none.suspect(proved.suspects);
  EXPECT_EQ(none.proved().size(), 0u);
  Induction stopped(proved.lanes.network(), proved.network, proved.lanes.ground().initial());
  Budget spent;
  spent.seconds = 0;
  const Interruption interruption(spent);
  stopped.suspect(proved.suspects);
  EXPECT_EQ(stopped.proved().size(), 0u);
  EXPECT_GT(proved.induction->proved().size(), 0u);
}

}  // namespace
}  // namespace orchard::prove::prove_test
