// In how many ways a game can be turned and mirrored, and which fact keeps it from more.
#include <gtest/gtest.h>

#include "orchard/review.hpp"
#include "support/files.hpp"

namespace orchard::symmetry_question_test {
namespace {

std::string symmetry_of(const std::string& rules) {
  const Review review = review_rules(Game::from_text(rules).value()).value();
  for (const Answer& answer : review.questions) {
    if (answer.id == "symmetry") return answer.evidence.text();
  }
  return "";
}

// Nine places on a leaf, with pairs that lie beside one another.
std::string leaf() {
  return testing::read_file(testing::source_path("tests/corpus/dew.gdl"));
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const std::size_t at = text.find(from);
  EXPECT_NE(at, std::string::npos);
  return text.replace(at, from.size(), to);
}

TEST(SymmetryQuestion, CountsTheWays) {
  EXPECT_EQ(symmetry_of(leaf()), "the same when turned, mirrored or renamed: 8 ways");
}

TEST(SymmetryQuestion, TellsTheFactThatWasMistyped) {
  EXPECT_EQ(
      symmetry_of(replaced(leaf(), "(pair p5 p8)", "(pair p5 p9)")),
      "cannot be turned or mirrored; without (pair p5 p6) or (pair p5 p9) it would be 2 ways");
}

TEST(SymmetryQuestion, TellsTheCounterpartOfAFactThatWasLost) {
  EXPECT_EQ(
      symmetry_of(replaced(leaf(), "(pair p5 p8)", "")),
      "the same when turned, mirrored or renamed: 2 ways; without (pair p4 p5) or (pair p5 p6) "
      "or (pair p2 p5) it would be 4 ways");
}

TEST(SymmetryQuestion, SaysNothingOfOrders) {
  const std::string steps =
      "(role bee) (init (at 1)) (after 1 2) (after 2 3) (after 3 4) (after 4 5) (after 5 6)"
      "(<= (legal bee go) (true (at ?n))) (<= (next (at ?m)) (true (at ?n)) (after ?n ?m))"
      "(<= terminal (true (at 6))) (goal bee 100)";
  EXPECT_EQ(symmetry_of(steps), "");
}

}  // namespace
}  // namespace orchard::symmetry_question_test
