// Every kind of evidence as a sentence, and its plurals.
#include <gtest/gtest.h>

#include "orchard/review.hpp"

namespace orchard::evidence_test {
namespace {

Reach reach(Reach::Kind kind, std::uint64_t positions = 0, std::uint64_t depth = 0,
            bool joint_moves = false) {
  return {kind, positions, depth, joint_moves};
}

TEST(Evidence, SaysHowFarItReaches) {
  const std::pair<Reach, const char*> texts[] = {
      {reach(Reach::Kind::stated), "x"},
      {reach(Reach::Kind::every_position, 662), "x, in all 662 reachable positions"},
      {reach(Reach::Kind::every_position, 1), "x, in the only reachable position"},
      {reach(Reach::Kind::every_position, 9, 0, true),
       "x, in all 9 reachable positions and every joint move"},
      {reach(Reach::Kind::depths, 30, 4), "x, in all 30 positions up to depth 4; unknown beyond"},
      {reach(Reach::Kind::depths, 1, 0), "x, at the start; unknown beyond"},
      {reach(Reach::Kind::some_positions), "x, in the positions explored; unknown beyond"},
      {reach(Reach::Kind::random_games), "x, in random games; unknown beyond"},
      {reach(Reach::Kind::proved), "x, in every reachable position: proved by induction"}};
  for (const auto& [reached, text] : texts) {
    Evidence evidence{"x"};
    evidence.reach = reached;
    EXPECT_EQ(evidence.text(), text);
  }
}

TEST(Evidence, SaysHowOftenAndForWhichChoice) {
  Evidence evidence{"fails", {{"?who", "west"}, {"?row", "2"}}};
  EXPECT_EQ(evidence.text(), "fails for ?who = west, ?row = 2");
  evidence.count = 94;
  EXPECT_EQ(evidence.text(), "fails for ?who = west, ?row = 2, in 94 positions");
  evidence.reach = reach(Reach::Kind::every_position, 2545);
  EXPECT_EQ(evidence.text(),
            "fails for ?who = west, ?row = 2, in 94 of the 2545 reachable positions");
  evidence.count = 4;
  evidence.reach = reach(Reach::Kind::depths, 40, 3);
  EXPECT_EQ(evidence.text(),
            "fails for ?who = west, ?row = 2, in 4 of the 40 positions up to depth 3; unknown "
            "beyond");
  evidence.reach = {};
  evidence.count = 94;
  evidence.of_ends = 342;
  evidence.remarks = {"one", "two"};
  EXPECT_EQ(evidence.text(), "fails for ?who = west, ?row = 2 (94 of 342 ends); one; two");
  evidence.count = 1;  // the line that is shown is the only one
  EXPECT_EQ(evidence.text(), "fails for ?who = west, ?row = 2; one; two");
}

}  // namespace
}  // namespace orchard::evidence_test
