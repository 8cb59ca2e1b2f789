// What a role is told: what the rules say to it one by one, and no more.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "orchard/view.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::told_test {
namespace {

using ::testing::Contains;
using ::testing::ElementsAre;
using ::testing::IsEmpty;
using ::testing::Not;

std::vector<std::string> texts(const std::vector<Term>& terms) {
  std::vector<std::string> result;
  for (const Term& term : terms) result.push_back(term.to_string());
  return result;
}

// A game and one role's view of it, played by joint moves in text.
class Told {
 public:
  explicit Told(const std::string& rules, std::size_t role)
      : game_(Game::from_text(rules).value()), view_(game_, game_.roles()[role]) {}

  void play(const std::vector<std::string>& moves) {
    JointMove joint;
    for (const std::string& move : moves) joint.add(game_.move(Term::parse(move).value()));
    const Diagnostics faults = view_.advance(position_, joint);
    ASSERT_TRUE(faults.empty()) << faults.render();
    position_ = game_.next(position_, joint).value();
  }
  const View& view() const { return view_; }
  std::vector<std::string> told() const { return texts(view_.told()); }
  std::vector<std::string> untold() const { return texts(view_.untold()); }

 private:
  Game game_;
  Position position_ = game_.initial();
  View view_;
};

// Chance hides a seed in one of three pots. The child looks into one and sees whether it is there.
const char* const pots =
    "(role random) (role child) (pot 1) (pot 2) (pot 3) (init bare)\n"
    "(<= (legal random (hide ?x)) (true bare) (pot ?x))\n"
    "(<= (legal random wait) (not (true bare)))\n"
    "(<= (legal child (lift ?x)) (not (true bare)) (pot ?x)) (<= (legal child wait) (true bare))\n"
    "(<= (next (seed ?x)) (does random (hide ?x))) (<= (next (seed ?x)) (true (seed ?x)))\n"
    "(<= (next (lifted ?x)) (does child (lift ?x))) (<= (next (lifted ?x)) (true (lifted ?x)))\n"
    "(<= (next hidden) (does random (hide ?x))) (<= (next hidden) (true hidden))\n"
    "(<= (sees child (seed_in ?x)) (does child (lift ?x)) (true (seed ?x)))\n"
    "(<= terminal (true (lifted 1)) (true (lifted 2)) (true (lifted 3))) (goal child 100)\n";

TEST(Told, DoesNotThinkForThePlayer) {
  Told child(pots, 1);
  child.play({"(hide 3)", "wait"});
  EXPECT_THAT(child.told(), ElementsAre("hidden"));  // whatever chance did
  EXPECT_THAT(child.untold(), ElementsAre("(seed 1)", "(seed 2)", "(seed 3)"));
  child.play({"wait", "(lift 1)"});
  child.play({"wait", "(lift 2)"});
  // Not in two of three, so it is in the third: the child may find that out.
  EXPECT_THAT(texts(child.view().known()), Contains("(seed 3)"));
  EXPECT_THAT(child.told(), ElementsAre("hidden", "(lifted 1)", "(lifted 2)"));
  EXPECT_THAT(child.untold(), ElementsAre("(seed 3)"));  // it was told of the other two
}

TEST(Told, WhatIsSeenIsTold) {
  Told child(pots, 1);
  child.play({"(hide 2)", "wait"});
  child.play({"wait", "(lift 2)"});
  EXPECT_THAT(child.told(), ElementsAre("hidden", "(lifted 2)", "(seed 2)"));
}

// Of a code, the number of places that are right is told, not which ones they are.
TEST(Told, ACountTellsNoPlaces) {
  const Game game = Game::load(testing::game_path("cellar")).value();
  const Role mouse = game.role("mouse").value();
  View view(game, mouse);
  Position position = game.initial();
  const auto play = [&](const std::string& random, const std::string& own) {
    const JointMove joint(
        {game.move(Term::parse(own).value()), game.move(Term::parse(random).value())});
    ASSERT_TRUE(view.advance(position, joint).empty());
    position = game.next(position, joint).value();
  };
  for (const char* kind : {"1", "2", "3", "4"}) play(std::string("(shelve ") + kind + ")", "wait");
  for (const char* kind : {"1", "3", "2", "5"}) play("wait", std::string("(name ") + kind + ")");
  // "The first is right" is said outright.
  EXPECT_THAT(texts(view.told()),
              ElementsAre("(said 0)", "(shelf 1 1)", "(shelved 4)", "(tried 1)"));
  // The game goes on, so the order has not been found out.
  EXPECT_THAT(texts(view.untold()), Not(Contains("found_out")));
  for (const char* kind : {"1", "2", "3", "5"}) play("wait", std::string("(name ") + kind + ")");
  // Two pairs of three neighbours: which of them is not told.
  EXPECT_THAT(texts(view.told()),
              ElementsAre("(said 0)", "(shelf 1 1)", "(shelved 4)", "(tried 2)"));
}

std::vector<View> views_of(const Game& game) {
  std::vector<View> views;
  for (const Role& role : game.roles()) views.emplace_back(game, role);
  return views;
}

TEST(Told, AHandIsTold) {
  const Game game = Game::load(testing::game_path("hedgerow")).value();
  std::size_t held = 0;
  testing::walk_with_views(game, 5, 1, views_of(game), [&](const View& view, const Position& here) {
    if (view.role().is_chance()) return;
    const auto hand = testing::hand_of(view.role(), here.fluents());
    EXPECT_EQ(testing::hand_of(view.role(), view.told()), hand);
    held += hand.size();
  });
  EXPECT_GT(held, 100u);
}

// A walker that is seen where there is a light only.
TEST(Told, RemembersWhereSomethingWasSeenLast) {
  Told watcher(
      "(role watcher) (role walker) (lit 2) (beside 1 2) (beside 2 3) (beside 3 4)\n"
      "(init (at 1))\n"
      "(<= (legal walker (go ?to)) (true (at ?from)) (beside ?from ?to))\n"
      "(<= (legal walker stay) (true (at ?x))) (legal watcher look)\n"
      "(<= (next (at ?x)) (does walker (go ?x)))\n"
      "(<= (next (at ?x)) (true (at ?x)) (does walker stay))\n"
      "(<= (now_at ?x) (does walker (go ?x))) (<= (now_at ?x) (true (at ?x)) (does walker stay))\n"
      "(<= (sees watcher (there ?x)) (now_at ?x) (lit ?x))\n"
      "(<= terminal (true (at 4))) (goal watcher 0) (goal walker 100)\n",
      0);
  EXPECT_THAT(watcher.told(), ElementsAre("(at 1)"));
  watcher.play({"look", "(go 2)"});
  EXPECT_THAT(watcher.told(), ElementsAre("(at 2)"));
  EXPECT_THAT(watcher.view().memories(), IsEmpty());
  watcher.play({"look", "(go 3)"});
  EXPECT_THAT(watcher.told(), Not(Contains("(at 2)")));
  watcher.play({"look", "stay"});
  // It is not seen at 2, so it went on; where it may be now is left to the watcher.
  EXPECT_THAT(texts(watcher.view().known()), Not(Contains("(at 2)")));
}

TEST(Told, MemoriesNameTheLastPly) {
  Told watcher(
      "(role watcher) (role walker) (init (at 1)) (place 1) (place 2) (place 3)\n"
      "(<= (legal walker (go ?to)) (place ?to)) (legal watcher (look here)) (legal watcher rest)\n"
      "(<= (next (at ?x)) (does walker (go ?x)))\n"
      "(<= (sees watcher (there ?x)) (does watcher (look here)) (does walker (go ?x)))\n"
      "(<= terminal (true (at 4))) (goal watcher 0) (goal walker 100)\n",
      0);
  watcher.play({"(look here)", "(go 2)"});
  EXPECT_THAT(watcher.told(), ElementsAre("(at 2)"));
  watcher.play({"rest", "(go 3)"});
  watcher.play({"rest", "(go 1)"});
  ASSERT_EQ(watcher.view().memories().size(), 1u);
  EXPECT_EQ(watcher.view().memories()[0].fluent.to_string(), "(at 2)");
  EXPECT_EQ(watcher.view().memories()[0].ply, 1u);
  EXPECT_THAT(watcher.untold(), ElementsAre("(at 1)", "(at 2)", "(at 3)"));
}

// Who sees one content of a box knows that the others are not in it, if that is proved.
TEST(Told, OfAGroupOneHoldsAtMost) {
  const std::string rules =
      "(role random) (role child) (toy ball) (toy kite) (toy boat) (init (box none))\n"
      "(<= (legal random (put ?t)) (toy ?t)) (legal child look) (legal child rest)\n"
      "(<= (next (box ?t)) (does random (put ?t)))\n"
      "(<= (sees child (a ?t)) (does child look) (does random (put ?t)))\n"
      "(<= (next (told ?t)) (true (box ?t)) (true (box kite)))\n"
      "(<= terminal (true (told kite)) (true (told ball))) (goal child 50)\n";
  const Game game = Game::from_text(rules).value();
  const auto groups = exclusive_fluents(game, game.initial());
  ASSERT_FALSE(groups.empty());
  View view(game, game.roles()[1]);
  view.exclude(groups);
  const JointMove joint(
      {game.move(Term::parse("(put boat)").value()), game.move(Term::parse("look").value())});
  ASSERT_TRUE(view.advance(game.initial(), joint).empty());
  EXPECT_THAT(texts(view.told()), ElementsAre("(box boat)"));
  EXPECT_THAT(texts(view.untold()), IsEmpty());
}

// A start in which two of a group hold says nothing of what excludes what.
TEST(Told, ThereIsNoGroupWhereTheStartBreaksIt) {
  const Game game = Game::load(testing::game_path("cellar")).value();
  EXPECT_FALSE(exclusive_fluents(game, game.initial()).empty());
  std::vector<Term> fluents = game.initial().fluents();
  fluents.push_back(Term::parse("(tried 1)").value());
  EXPECT_TRUE(exclusive_fluents(game, game.position(fluents).value()).empty());
}

// Whatever is told to hold or not to hold is so: in games of all kinds, with several hands.
class ToldIsTrue : public ::testing::Test {
 protected:
  // Once without and once with what excludes what.
  void walk(const Game& game, std::uint64_t games) {
    std::vector<View> views = views_of(game);
    const auto visit = [&](const View& view, const Position& here) { look(view, here); };
    testing::walk_with_views(game, games, 5, views, visit);
    const auto exclusive = exclusive_fluents(game, game.initial());
    for (View& view : views) view.exclude(exclusive);
    testing::walk_with_views(game, games, 6, views, visit);
  }
  void look(const View& view, const Position& position) {
    if (!view.tells()) return;
    const std::vector<Term> told = view.told();
    const std::vector<Term> untold = view.untold();
    for (const Term& fluent : told) {
      EXPECT_TRUE(position.holds(fluent)) << fluent << " was told to " << view.role();
    }
    for (const Term& fluent : position.fluents()) {
      EXPECT_TRUE(std::ranges::binary_search(told, fluent) ||
                  std::ranges::binary_search(untold, fluent))
          << fluent << " was told not to hold to " << view.role();
    }
    told_ += told.size();
    open_ += untold.size();
  }
  std::size_t told_ = 0;  // fluents that were told to hold
  std::size_t open_ = 0;  // and those that were left open
};

TEST_F(ToldIsTrue, InTheDemoGames) {
  for (const char* const name : {"cellar", "moles", "hedgerow", "market_day", "barrow_lane"}) {
    SCOPED_TRACE(name);
    walk(Game::load(testing::game_path(name)).value(), 2);
  }
  EXPECT_GT(told_, 5000u);
  EXPECT_GT(open_, 5000u);
}

TEST_F(ToldIsTrue, InRandomGames) {
  std::size_t hidden = 0;
  for (std::uint64_t seed = 0; seed < 250; ++seed) {
    const std::string rules = testing::random_rules(seed);
    SCOPED_TRACE(rules);
    const auto game = Game::from_text(rules);
    if (!game || !game->has_hidden_information()) continue;
    ++hidden;
    walk(*game, 2);
    if (HasFailure()) return;
  }
  EXPECT_GT(hidden, 30u);
  EXPECT_GT(told_, 100u);
  EXPECT_GT(open_, 100u);
}

}  // namespace
}  // namespace orchard::told_test
