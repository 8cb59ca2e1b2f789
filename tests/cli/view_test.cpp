// Views under hidden information through the built command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <sstream>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::view_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using Json = nlohmann::json;

TEST(ViewOption, ShowsWhatARoleKnowsAndNoMore) {
  const auto all =
      Json::parse(run_orchard({"show", game_path("hedgerow"), "--after", "7", "--json"}).out);
  const auto ash = Json::parse(
      run_orchard({"show", game_path("hedgerow"), "--after", "7", "--json", "--view", "ash"}).out);
  EXPECT_EQ(ash["view"]["exact"], true);
  EXPECT_FALSE(ash["view"]["unsure"].empty());
  int foreign = 0;
  for (const auto& fluent : all["position"]) {
    const bool known = std::ranges::find(ash["position"], fluent) != ash["position"].end();
    if (fluent.get<std::string>().starts_with("(holds ash")) {
      EXPECT_TRUE(known) << fluent;
    }
    if (fluent.get<std::string>().starts_with("(holds birch")) {
      EXPECT_FALSE(known) << fluent;
      ++foreign;
    }
  }
  EXPECT_GT(foreign, 0);
  for (const auto& fluent : ash["position"]) {
    EXPECT_TRUE(std::ranges::find(all["position"], fluent) != all["position"].end()) << fluent;
  }
  EXPECT_EQ(ash["legal"].size(), 1u);
  const auto text = run_orchard({"show", game_path("hedgerow"), "--after", "7", "--view", "ASH"});
  EXPECT_THAT(text.out, HasSubstr("seen by ash: what the rules have told it"));
  EXPECT_THAT(text.out, HasSubstr("not known: holds ("));
}

// A game of deduction is not solved for its player, unless that is asked for.
TEST(ViewOption, WhatFollowsIsShownOnRequest) {
  // Chance puts a ring under one of three cups; two of them are lifted in vain.
  const TemporaryFolder folder;
  const std::string game = folder.write(
      "cups.gdl",
      "(role random) (role guest) (cup 1) (cup 2) (cup 3) (init laid)\n"
      "(<= (legal random (hide ?c)) (true laid) (cup ?c))\n"
      "(<= (legal random wait) (not (true laid))) (<= (legal guest wait) (true laid))\n"
      "(<= (legal guest (lift ?c)) (not (true laid)) (cup ?c))\n"
      "(<= (next (ring ?c)) (does random (hide ?c))) (<= (next (ring ?c)) (true (ring ?c)))\n"
      "(<= (next (lifted ?c)) (does guest (lift ?c))) (<= (next (lifted ?c)) (true (lifted ?c)))\n"
      "(<= (sees guest found) (does guest (lift ?c)) (true (ring ?c)))\n"
      "(<= terminal (true (ring ?c)) (true (lifted ?c))) (goal guest 50)\n");
  const std::vector<std::string> call = {"show",   game,    "--after", "(hide 3) (lift 1) (lift 2)",
                                         "--view", "guest", "--json"};
  const Json told = Json::parse(run_orchard(call).out);
  EXPECT_EQ(told["position"], Json({"(lifted 1)", "(lifted 2)"}));
  EXPECT_EQ(told["view"]["unsure"], Json({"(ring 3)"}));
  auto deduced_call = call;
  deduced_call.emplace_back("--deduced");
  const Json deduced = Json::parse(run_orchard(deduced_call).out);
  EXPECT_EQ(deduced["position"], Json({"(lifted 1)", "(lifted 2)", "(ring 3)"}));
  EXPECT_EQ(deduced["view"]["positions"], 1);
  // In play the same by a word.
  const auto sitting = run_orchard({"play", game, "--seed", "3"}, "(lift 1)\nview\nquit\n");
  EXPECT_THAT(sitting.out, HasSubstr("seen by guest: what holds in all 2 positions that fit"));
}

// What no rule tells a role may be shown to it by the drawing rules.
TEST(ViewOption, DrawingRulesMayShowMore) {
  const TemporaryFolder folder;
  const std::string game = folder.write(
      "dice.gdl",
      "(role random) (role guest) (pip 1) (pip 2) (init begin) (legal guest wait)\n"
      "(<= (legal random (throw ?p)) (pip ?p)) (<= (sees guest never) (true (lies 3)))\n"
      "(<= (next (lies ?p)) (does random (throw ?p))) (<= terminal (true (lies 3)))\n"
      "(goal guest 50)\n");
  const std::string drawing =
      folder.write("seen.draw",
                   "(<= (draw (visible guest (lies ?p))) (true (lies ?p)))\n"
                   "(<= (draw (caption (words it lies on ?p))) (true (lies ?p)))\n");
  const std::vector<std::string> call = {"show",   game,    "--after",  "(throw 2)",
                                         "--view", "guest", "--drawing"};
  auto with = call;
  with.push_back(drawing);
  auto without = call;
  without.emplace_back("none");
  EXPECT_THAT(run_orchard(with).out, HasSubstr("It lies on 2"));
  EXPECT_THAT(run_orchard(without).out, Not(HasSubstr("(lies 2)")));
}

TEST(ViewOption, NeedsSenseOfWhatItIsGivenWith) {
  const auto alone = run_orchard({"show", game_path("hedgerow"), "--deduced"});
  EXPECT_EQ(alone.status, 2);
  EXPECT_THAT(alone.err, HasSubstr("--deduced needs --view"));
  const auto drawn = run_orchard({"show", game_path("hedgerow"), "--view", "ash", "--drawn"});
  EXPECT_EQ(drawn.status, 2);
  EXPECT_THAT(drawn.err, HasSubstr("--view hides some of it"));
}

// More positions fit than are followed: the board stays, with all that was told.
TEST(ViewOption, TheBoardNeverVanishes) {
  const std::vector<std::string> call = {"show",   game_path("moles"), "--set",   "rows=8",
                                         "--set",  "columns=8",        "--set",   "moles=10",
                                         "--view", "digger",           "--after", "16"};
  for (const char* const drawing : {"", "none"}) {
    auto words = call;
    if (*drawing != '\0') words.insert(words.end(), {"--drawing", drawing});
    const auto shown = run_orchard(words);
    EXPECT_EQ(shown.status, 0) << shown.err;
    EXPECT_THAT(shown.out, HasSubstr("what the rules have told it"));
    EXPECT_THAT(shown.out, HasSubstr("┌──"));
    EXPECT_THAT(shown.out, HasSubstr("not known: mole ("));
  }
}

TEST(ViewOption, NamesTheRolesIfItNamesNone) {
  const auto result = run_orchard({"show", game_path("hedgerow"), "--view", "oak"});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("the roles are random, ash, birch"));
}

TEST(ViewOption, WalksTellOnlyOwnMovesAndPercepts) {
  const auto walk = run_orchard({"walk", game_path("hedgerow"), "--json", "--view", "birch"});
  std::istringstream lines(walk.out);
  int percepts = 0;
  for (std::string line; std::getline(lines, line);) {
    const Json step = Json::parse(line);
    if (step["terminal"]) continue;
    EXPECT_EQ(step["legal"].size(), 1u);
    EXPECT_EQ(step["joint"].size(), 1u);
    EXPECT_TRUE(step["joint"].contains("birch"));
    if (step.contains("sees")) percepts += static_cast<int>(step["sees"]["birch"].size());
  }
  EXPECT_GE(percepts, 3);
}

// Two people at one terminal: each page shows one hand only.
TEST(PlayWithHands, ShowsEachPersonItsOwnView) {
  const auto sitting = run_orchard({"play", game_path("hedgerow")}, "1\n1\nmoves\nundo\nquit\n");
  EXPECT_EQ(sitting.status, 0);
  const std::string& out = sitting.out;
  const std::size_t first = out.find("seen by birch");
  const std::size_t second = out.find("seen by ash", first);
  ASSERT_NE(first, std::string::npos) << out;
  ASSERT_NE(second, std::string::npos) << out;
  const std::string birch = out.substr(first, second - first);
  EXPECT_THAT(birch, HasSubstr("birch sees (got"));
  EXPECT_THAT(birch, Not(HasSubstr("ash sees")));
  EXPECT_THAT(birch, Not(HasSubstr("in_hand ash")));
  EXPECT_THAT(out, Not(HasSubstr("plays (hand_out")));
  EXPECT_THAT(out, HasSubstr("ash sees (played birch"));
  EXPECT_THAT(out, HasSubstr("back at ply"));
}

TEST(PlayWithHands, ShowsEverythingAtTheEnd) {
  std::string input;
  for (int i = 0; i < 20; ++i) input += "#1\n";
  const auto sitting =
      run_orchard({"play", game_path("hedgerow"), "--seat", "birch=random"}, input);
  const std::size_t end = sitting.out.find("over:");
  ASSERT_NE(end, std::string::npos) << sitting.out;
  EXPECT_THAT(sitting.out.substr(end), HasSubstr("weight of birch"));
}

TEST(PlayWithDice, IsPlayedToTheEnd) {
  std::string input;
  for (int i = 0; i < 40; ++i) input += "1\n";
  const auto sitting =
      run_orchard({"play", game_path("barrow_lane"), "--seat", "lower=random"}, input);
  EXPECT_THAT(sitting.out, HasSubstr("random plays (spin"));
  EXPECT_THAT(sitting.out, HasSubstr("over: "));
}

}  // namespace
}  // namespace orchard::testing::view_test
