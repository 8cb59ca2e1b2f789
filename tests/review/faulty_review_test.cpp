// The faulty descriptions that show only once positions are explored: the question that their table
// names finds them, with a shortest line; and the good ones have nothing of that kind.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <sstream>

#include "orchard/review.hpp"
#include "support/files.hpp"

namespace orchard::faulty_review_test {
namespace {

struct Faulty {
  std::string name;
  std::string question;
};

std::vector<Faulty> table() {
  std::vector<Faulty> result;
  std::istringstream lines(testing::read_file(testing::source_path("games/faulty/README.md")));
  const std::string by = "exploring, question `";
  for (std::string line; std::getline(lines, line);) {
    const std::size_t question = line.find(by);
    if (!line.starts_with("| `") || question == std::string::npos) continue;
    const std::size_t from = question + by.size();
    result.push_back(
        {line.substr(3, line.find(".gdl`") - 3), line.substr(from, line.find('`', from) - from)});
  }
  return result;
}

TEST(FaultyReview, EveryFaultIsFoundByItsQuestion) {
  const auto faults = table();
  EXPECT_GE(faults.size(), 14u);
  ReviewOptions options;
  options.budget.positions = 100'000;
  for (const Faulty& faulty : faults) {
    const Game game =
        Game::load(testing::source_path("games/faulty/" + faulty.name + ".gdl")).value();
    const Review review = review_rules(game, options).value();
    const auto found = std::ranges::find_if(review.questions, [&](const Answer& answer) {
      const bool told = answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
      return told && answer.id.substr(0, answer.id.find(':')) == faulty.question;
    });
    ASSERT_NE(found, review.questions.end()) << faulty.name << " by " << faulty.question;
    EXPECT_TRUE(review.failed());
    // A role that can never win has no line to show.
    if (faulty.question != "winnable") {
      EXPECT_TRUE(found->line.has_value()) << faulty.name;
    }
  }
}

// Games that are explored in a moment, with their claims.
TEST(FaultyReview, GoodGamesMeetEveryRequirementAndClaim) {
  const std::vector<std::pair<std::string, std::map<std::string, std::int64_t>>> games{
      {"espalier_3x3", {}}, {"silo", {{"heights", 4}, {"bins", 4}}},
      {"snails", {}},       {"sprinklers", {}},
      {"beeline", {}},      {"market_day", {}},
      {"hedgerow", {}},     {"cellar", {}}};
  for (const auto& [name, sizes] : games) {
    LoadOptions load;
    load.sizes = sizes;
    const Game game = Game::load(testing::game_path(name), load).value();
    ReviewOptions options;
    std::filesystem::path claims(testing::game_path(name));
    options.claims = claims.replace_extension(".claims").string();
    const Review review = review_rules(game, options).value();
    EXPECT_TRUE(review.complete()) << name;
    for (const auto* answers : {&review.questions, &review.claims}) {
      for (const Answer& answer : *answers) {
        const bool good = answer.verdict == Verdict::holds || answer.verdict == Verdict::described;
        EXPECT_TRUE(good) << name << ": " << answer.id << ": " << answer.evidence.text();
      }
    }
    EXPECT_GE(review.claims.size(), 4u) << name;
  }
}

// Where few positions are explored the rest is proved or unknown: nothing that fails is ever said
// to hold, and nothing that holds to fail.
TEST(FaultyReview, ProofsAgreeWithFullExploration) {
  std::size_t proved = 0;
  std::vector<std::string> paths;
  for (const Faulty& faulty : table()) {
    paths.push_back(testing::source_path("games/faulty/" + faulty.name + ".gdl"));
  }
  for (const char* name : {"espalier_3x3", "snails", "beeline", "sprinklers", "market_day"}) {
    paths.push_back(testing::game_path(name));
  }
  for (const std::string& path : paths) {
    const Game game = Game::load(path).value();
    ReviewOptions options;
    // Nothing to prove.
    options.allow = {"settled", "effect", "dead",     "turns", "draws",
                     "balance", "alike",  "symmetry", "sum"};
    std::filesystem::path claims(path);
    claims.replace_extension(".claims");
    if (std::filesystem::exists(claims)) options.claims = claims.string();
    options.budget.positions = 20'000;
    const Review full = review_rules(game, options).value();
    options.budget.positions = 20;
    const Review little = review_rules(game, options).value();
    const auto compare = [&](const std::vector<Answer>& all, const std::vector<Answer>& some) {
      ASSERT_EQ(all.size(), some.size());
      for (std::size_t i = 0; i < all.size(); ++i) {
        if (some[i].verdict == Verdict::unknown || all[i].verdict == Verdict::unknown) continue;
        EXPECT_EQ(some[i].verdict, all[i].verdict) << path << ": " << all[i].id;
        if (some[i].evidence.text().find("proved by induction") != std::string::npos) ++proved;
      }
    };
    compare(full.questions, little.questions);
    compare(full.claims, little.claims);
  }
  EXPECT_GE(proved, 30u);
}

TEST(FaultyReview, LargeGamesAreProvedBeyondWhatIsExplored) {
  for (const char* name : {"espalier", "silo"}) {
    ReviewOptions options;
    options.budget.positions = 1000;
    const Review review =
        review_rules(Game::load(testing::game_path(name)).value(), options).value();
    EXPECT_FALSE(review.complete());
    for (const Answer& answer : review.questions) {
      if (answer.id == "ends" || answer.id == "moves" || answer.id == "scored" ||
          answer.id == "single-valued") {
        EXPECT_EQ(answer.verdict, Verdict::holds) << name << ": " << answer.id;
        EXPECT_THAT(answer.evidence.text(), ::testing::HasSubstr("proved by induction")) << name;
      }
    }
  }
}

// Larger ones within a small budget: nothing wrong is found, and claims files are well formed.
TEST(FaultyReview, NothingIsWrongWithLargerGamesAsFarAsLooked) {
  for (const std::string& path : testing::demo_games()) {
    const std::string name = std::filesystem::path(path).stem();
    if (name == "skep") continue;  // takes seconds to instantiate, twice
    ReviewOptions options;
    options.budget.positions = 5'000;
    options.claims = std::filesystem::path(path).replace_extension(".claims").string();
    const Review review = review_rules(Game::load(path).value(), options).value();
    EXPECT_FALSE(review.failed()) << name;
    EXPECT_GE(review.claims.size(), 4u) << name;
    const auto claims = testing::read_file(*options.claims);
    EXPECT_THAT(claims, ::testing::HasSubstr("(can-force ")) << name;
  }
}

TEST(FaultyReview, ClaimsOfTheLargestGamesAreWellFormed) {
  const std::map<std::string, std::map<std::string, std::int64_t>> games{
      {"skep", {{"rows", 5}, {"columns", 4}}}, {"terrace", {{"rows", 5}, {"columns", 5}}}};
  for (const auto& [name, sizes] : games) {
    LoadOptions load;
    load.sizes = sizes;
    const Game game = Game::load(testing::game_path(name), load).value();
    ReviewOptions options;
    options.budget.positions = 1;
    options.budget.seconds = 5;
    options.claims = std::filesystem::path(testing::game_path(name)).replace_extension(".claims");
    options.allow = question_ids();
    const auto review = review_rules(game, options);
    ASSERT_TRUE(review.ok()) << review.diagnostics().render();
    EXPECT_GE(review->claims.size(), 3u) << name;
  }
}

}  // namespace
}  // namespace orchard::faulty_review_test
