// Rules without a circuit, of which not every position can be looked at: what is told of the first
// plies is true of the whole game.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "orchard/circuit.hpp"
#include "orchard/review.hpp"
#include "support/answers.hpp"
#include "support/files.hpp"

namespace orchard::near_start_test {
namespace {

using ::testing::HasSubstr;

// A clock in nested terms makes every position a new one, and a circuit impossible.
Game with_clock(const std::string& path) {
  return Game::from_text(testing::read_file(path) +
                             "\n(init (clock_of_test struck))"
                             "(<= (next (clock_of_test (later ?hour)))"
                             "    (true (clock_of_test ?hour)))\n",
                         path)
      .value();
}

Result<Game> near_start(const Game& game, std::uint64_t positions) {
  Budget few;
  few.positions = positions;
  return with_reached_circuit(game, few, {}, CircuitReach::first_plies);
}

std::map<std::string, Verdict> verdicts_of(const Review& review) {
  std::map<std::string, Verdict> result;
  for (const Answer& answer : review.questions) result["question " + answer.id] = answer.verdict;
  for (const Answer& answer : review.claims) result["claim " + answer.id] = answer.verdict;
  return result;
}

TEST(NearStart, NothingIsSaidThatTheWholeGameDoesNotBear) {
  std::vector<std::string> games = testing::demo_games();
  for (const std::string& path : testing::corpus_games()) games.push_back(path);
  int told = 0;
  int compared = 0;
  for (std::size_t number = 0; number < games.size(); number += 2) {  // the others are alike
    const std::string& path = games[number];
    const Game endless = with_clock(path);
    ASSERT_FALSE(has_circuit(endless)) << path;
    const auto near = near_start(endless, 100);
    if (!near || !circuit_plies(*near)) continue;
    ReviewOptions options;
    const std::string claims = std::filesystem::path(path).replace_extension(".claims").string();
    if (std::filesystem::exists(claims)) options.claims = claims;
    options.budget.positions = 1'500;
    const auto of_start = review_rules(*near, options);
    ASSERT_TRUE(of_start.ok()) << path << of_start.diagnostics().render();
    EXPECT_EQ(of_start->ending, Ending::depth) << path;
    EXPECT_FALSE(of_start->complete());
    EXPECT_TRUE(of_start->undecided()) << path;
    EXPECT_EQ(of_start->random_games, 0u) << path;
    const auto whole = verdicts_of(review_rules(Game::load(path).value(), options).value());
    for (const auto& [id, verdict] : verdicts_of(*of_start)) {
      EXPECT_NE(verdict, Verdict::described) << path << ": " << id;
      EXPECT_NE(verdict, Verdict::suspicious) << path << ": " << id;
      const auto known = whole.find(id);
      if (known == whole.end() || verdict == Verdict::unknown) continue;
      ++told;
      if (known->second == Verdict::unknown) continue;
      ++compared;
      EXPECT_EQ(verdict == Verdict::fails, known->second == Verdict::fails) << path << ": " << id;
    }
  }
  EXPECT_GT(told, 15);
  EXPECT_GT(compared, 15);
}

constexpr const char* bundle = R"(
(role rowan) (role elder) (init (bundle nothing)) (init (hand rowan)) (cane long) (cane short)
(<= (legal ?g (tie ?c)) (true (hand ?g)) (cane ?c))
(<= (legal ?g stand) (role ?g) (not (true (hand ?g))))
(<= (next (bundle (on ?c ?rest))) (does ?g (tie ?c)) (true (bundle ?rest)))
(<= (next (hand rowan)) (true (hand elder)))
(<= (next (hand elder)) (true (hand rowan)))
(<= three_alike (true (bundle (on ?c (on ?c (on ?c ?rest))))))
(<= terminal three_alike)
(<= (goal ?g 0) three_alike (true (hand ?g)))
(<= (goal ?g 100) three_alike (role ?g) (not (true (hand ?g)))) )";

TEST(NearStart, AShortestLineIsFoundWherePlayHasNoBound) {
  const Game game = near_start(Game::from_text(bundle).value(), 300).value();
  ASSERT_TRUE(circuit_plies(game));
  EXPECT_FALSE(has_circuit(game));  // for whoever does not keep to the first plies
  const auto sought = find_position(game, "(goal elder 100)", {});
  ASSERT_TRUE(sought.ok());
  ASSERT_TRUE(sought->line);
  EXPECT_EQ(sought->line->joints.size(), 4u);
  // What the first plies do not show may be later.
  const auto later =
      find_position(game,
                    "(true (bundle (on long (on short (on long (on short (on long (on short "
                    "(on long (on short (on long (on short (on long (on short "
                    "(on long (on short (on long (on short ?rest))))))))))))))))))",
                    {});
  ASSERT_TRUE(later.ok());
  EXPECT_FALSE(later->line);
  EXPECT_FALSE(later->proved);
  EXPECT_EQ(later->ending, Ending::depth);
  EXPECT_LT(*circuit_plies(game), 16u);
}

TEST(NearStart, AFaultOfTheFirstPliesIsAFault) {
  std::string rules = bundle;
  rules += "(<= (goal rowan 50) three_alike (true (bundle (on long ?rest))))";
  const Game game = near_start(Game::from_text(rules).value(), 300).value();
  const auto review = review_rules(game, {});
  ASSERT_TRUE(review.ok());
  const Answer& scored = testing::answer(*review, "scored");
  EXPECT_EQ(scored.verdict, Verdict::fails);
  ASSERT_TRUE(scored.line);
  EXPECT_EQ(scored.line->joints.size(), 3u);
  const Answer& moves = testing::answer(*review, "moves");
  EXPECT_EQ(moves.verdict, Verdict::unknown);
  EXPECT_THAT(moves.evidence.text(), HasSubstr("unknown beyond"));
  EXPECT_TRUE(review->failed());
}

TEST(NearStart, WithoutTimeForWhatFollowsTheStartNothingIsMade) {
  EXPECT_FALSE(near_start(Game::from_text(bundle).value(), 1).ok());
}

}  // namespace
}  // namespace orchard::near_start_test
