// What a role can know, against positions worked out by hand and by brute force.
#include "orchard/view.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "orchard/playouts.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::view_test {
namespace {

using ::testing::ElementsAre;
using ::testing::Not;

std::vector<std::string> texts(const std::vector<Term>& terms) {
  std::vector<std::string> result;
  for (const Term& term : terms) result.push_back(term.to_string());
  return result;
}

std::set<std::string> texts(const std::vector<Position>& positions) {
  std::set<std::string> result;
  for (const Position& position : positions) result.insert(position.to_string());
  return result;
}

// Chance hides a nut under one of three leaves; the mouse lifts one and sees whether it is there.
const char* const nut =
    "(role random) (role mouse) (leaf 1) (leaf 2) (leaf 3) (init bare)\n"
    "(<= (legal random (hide ?x)) (true bare) (leaf ?x)) (<= (legal random wait) (not (true "
    "bare)))\n"
    "(<= (legal mouse (lift ?x)) (not (true bare)) (leaf ?x)) (<= (legal mouse wait) (true bare))\n"
    "(<= (next (nut ?x)) (does random (hide ?x))) (<= (next (nut ?x)) (true (nut ?x)))\n"
    "(<= (next (lifted ?x)) (does mouse (lift ?x))) (<= (next (lifted ?x)) (true (lifted ?x)))\n"
    "(<= (sees mouse found) (does mouse (lift ?x)) (true (nut ?x)))\n"
    "(<= terminal (true (nut ?x)) (true (lifted ?x))) (goal mouse 100)\n";

class Nut : public ::testing::Test {
 protected:
  JointMove joint(const char* random, const char* mouse) const {
    return JointMove(
        {game_.move(Term::parse(random).value()), game_.move(Term::parse(mouse).value())});
  }
  void play(const char* random, const char* mouse) {
    const JointMove moves = joint(random, mouse);
    EXPECT_TRUE(view_.advance(position_, moves).empty());
    position_ = game_.next(position_, moves).value();
  }

  Game game_ = Game::from_text(nut).value();
  Position position_ = game_.initial();
  View view_{game_, game_.roles()[1]};
};

TEST_F(Nut, KnowsWhatHoldsInEveryPositionThatFits) {
  EXPECT_THAT(texts(view_.known()), ElementsAre("bare"));
  play("(hide 3)", "wait");
  EXPECT_EQ(view_.positions(), 3u);
  EXPECT_TRUE(view_.known().empty());
  play("wait", "(lift 1)");  // not there
  EXPECT_EQ(view_.positions(), 2u);
  EXPECT_THAT(texts(view_.known()), ElementsAre("(lifted 1)"));
  play("wait", "(lift 2)");  // so it is under the third, seen or not
  EXPECT_EQ(view_.positions(), 1u);
  EXPECT_THAT(texts(view_.known()), ElementsAre("(lifted 1)", "(lifted 2)", "(nut 3)"));
  play("wait", "(lift 3)");
  EXPECT_THAT(texts(view_.steps().back().percepts), ElementsAre("found"));
  EXPECT_EQ(view_.steps().size(), 4u);
}

TEST_F(Nut, AnIllegalMoveChangesNothing) {
  EXPECT_FALSE(view_.advance(position_, joint("(hide 4)", "wait")).empty());
  EXPECT_TRUE(view_.steps().empty());
  EXPECT_EQ(view_.positions(), 1u);
}

TEST_F(Nut, SamplesWhereTooManyPositionsFit) {
  View narrow(game_, game_.roles()[1], {}, 2);
  EXPECT_TRUE(narrow.advance(position_, joint("(hide 2)", "wait")).empty());
  EXPECT_FALSE(narrow.exact());
  EXPECT_EQ(narrow.positions(), 2u);
  EXPECT_EQ(narrow.some(10, 1).size(), 2u);
  EXPECT_TRUE(narrow.known().empty());
  EXPECT_EQ(narrow.steps().size(), 1u);
}

// A view that samples against one that follows every position: whatever it gives fits, and where
// few fit it has most of them.
TEST(View, WhatItSamplesFits) {
  std::uint64_t sampled = 0;
  std::uint64_t few = 0;
  std::uint64_t found_of_few = 0;
  for (const char* const name : {"cellar", "moles", "hedgerow"}) {
    SCOPED_TRACE(name);
    const Game game = Game::load(testing::game_path(name)).value();
    const Role role = name == std::string("hedgerow") ? game.roles()[1] : game.roles()[0];
    for (std::uint64_t number = 0; number < 3; ++number) {
      WalkOptions options;
      options.game = number;
      options.seed = 31;
      View all(game, role);
      View some(game, role, {}, 40);
      ASSERT_TRUE(random_walk(game, options, [&](const WalkStep& step) {
        if (!some.exact()) {
          const auto fits = all.some(100'000, 1);
          const std::set<std::string> wanted = texts(fits);
          const std::set<std::string> got = texts(some.some(40, 1));
          EXPECT_TRUE(std::ranges::includes(wanted, got));
          EXPECT_FALSE(got.empty());
          ++sampled;
          if (wanted.size() <= 20) {
            few += wanted.size();
            found_of_few += got.size();
          }
        }
        if (step.joint) {
          EXPECT_TRUE(all.advance(step.position, *step.joint).empty());
          // A copy goes its own way.
          View copy = some;
          EXPECT_TRUE(some.advance(step.position, *step.joint).empty());
          EXPECT_EQ(copy.steps().size() + 1, some.steps().size());
        }
        return true;
      }));
      EXPECT_TRUE(all.exact());
    }
  }
  EXPECT_GT(sampled, 60u);
  EXPECT_GT(few, 50u);
  EXPECT_GT(found_of_few, few / 2);
}

TEST(View, WithoutHiddenInformationIsThePosition) {
  const Game game = Game::load(testing::game_path("barrow_lane")).value();
  View view(game, game.roles()[1]);
  ASSERT_TRUE(random_walk(game, {}, [&](const WalkStep& step) {
                EXPECT_EQ(view.known(), step.position.fluents());
                if (step.joint) {
                  EXPECT_TRUE(view.advance(step.position, *step.joint).empty());
                }
                return true;
              }).ok());
}

// The true position always fits, so what is known is true; own cuttings are always known.
TEST(View, OfAHandIsTrueAndHoldsTheHand) {
  const Game game = Game::load(testing::game_path("hedgerow")).value();
  std::vector<View> views;
  for (const Role& role : game.roles()) views.emplace_back(game, role);
  testing::walk_with_views(game, 5, 1, views, [&](const View& view, const Position& here) {
    EXPECT_TRUE(view.exact());
    const std::vector<Term> known = view.known();
    for (const Term& fluent : known) EXPECT_TRUE(here.holds(fluent));
    EXPECT_EQ(testing::hand_of(view.role(), known), testing::hand_of(view.role(), here.fluents()));
  });
}

// Over the wire a role hears its percepts and nothing else. However few positions are followed, and
// when none of them fits any more, its legal moves are the true ones.
TEST(View, KnowsItsLegalMovesByWhatItHears) {
  const Game game = Game::load(testing::game_path("moles"),
                               {.sizes = {{"rows", 8}, {"columns", 8}, {"moles", 10}}})
                        .value();
  const Role digger = *game.role("digger");
  int lost = 0;
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    View heard(game, digger, {}, 3);
    // In the last game there is no time for following them, from some ply on.
    const std::uint64_t hurried = seed == 3 ? 5 : 1'000'000;
    WalkOptions options;
    options.seed = seed;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      if (!step.joint) return true;
      const auto percepts = game.percepts(step.position, *step.joint, digger).value();
      const auto time = step.ply >= hurried ? std::optional(1e-9) : std::nullopt;
      EXPECT_TRUE(heard.hear((*step.joint)[digger].term(), percepts, time).empty());
      EXPECT_TRUE(step.ply < hurried || heard.positions() == 0);
      if (heard.positions() == 0) ++lost;
      const Position next = game.next(step.position, *step.joint).value();
      if (game.terminal(next)) return true;
      std::vector<Term> legal;
      for (const Move& move : game.legal(next, digger)) legal.push_back(move.term());
      EXPECT_EQ(heard.steps().back().legal, legal) << "seed " << seed << " ply " << step.ply;
      return true;
    });
  }
  EXPECT_GT(lost, 0) << "nothing was lost, so this showed nothing";
}

}  // namespace
}  // namespace orchard::view_test
