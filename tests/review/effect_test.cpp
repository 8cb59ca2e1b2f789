// Moves that change nothing but the turn.
#include <gmock/gmock.h>

#include "review/small_game.hpp"

namespace orchard::effect_test {
namespace {

using ::testing::HasSubstr;

// To stay matters if the apple falls there; chance throws at the same time.
TEST(Effect, IsSeenWithAnotherThrow) {
  const std::string picker =
      "(role random) (role picker) (spot 1) (spot 2) (init (at 1)) (init (evening 0)) "
      "(next_evening 0 1)"
      "(next_evening 1 2) (next_evening 2 3)"
      "(<= (legal picker (walk ?s)) (spot ?s)) (<= (legal random (fall ?s)) (spot ?s))"
      "(<= (next (at ?s)) (does picker (walk ?s)))"
      "(<= (next (evening ?n)) (true (evening ?m)) (next_evening ?m ?n))"
      "(<= terminal (true (evening 3)))"
      "(<= (goal picker 100) (true caught)) (<= (goal picker 0) (not (true caught)))";
  const std::string caught = "(<= (next caught) (does picker (walk ?s)) (does random (fall ?s)))";
  EXPECT_EQ(answered(picker + caught, "effect").verdict, Verdict::holds);
  // Beyond what is explored, too: never a suspicion.
  EXPECT_NE(answered(picker + caught, "effect", 1).verdict, Verdict::suspicious);
  // Where nobody sees what falls, staying is nothing.
  const Answer idle = answered(picker + "(<= (next caught) (true caught))", "effect");
  EXPECT_EQ(idle.verdict, Verdict::suspicious);
  EXPECT_EQ(idle.evidence.text(), "(walk 1) of picker changes nothing but the turn");
  EXPECT_EQ(answered(picker + "(<= (next caught) (true caught))", "effect", 1).verdict,
            Verdict::suspicious);
}

// To look is to do something if one hears what is there. To hear what one did oneself says nothing.
TEST(Effect, IsToHearWhatIsThere) {
  const std::string keeper =
      "(role random) (role keeper) (dove left) (dove right) (dove grey) (init (day 0)) "
      "(after 0 1) (after 1 2) (after 2 3)"
      "(<= (legal random (lay ?d)) (dove ?d) (true (day 0)))"
      "(<= (legal random idle) (not (true (day 0))))"
      "(<= (legal keeper (look ?d)) (dove ?d) (not (true (day 0))))"
      "(<= (legal keeper idle) (true (day 0)))"
      "(<= (next (under ?d)) (does random (lay ?d))) (<= (next (under ?d)) (true (under ?d)))"
      "(<= (next (day ?m)) (true (day ?n)) (after ?n ?m))"
      "(<= (next found) (does keeper (look ?d)) (true (under ?d))) (<= (next found) (true found))"
      "(<= terminal (true (day 3)))"
      "(<= (goal keeper 100) (true found)) (<= (goal keeper 0) (not (true found)))";
  EXPECT_EQ(answered(keeper, "effect").verdict, Verdict::suspicious);
  const std::string echo = "(<= (sees keeper (looked ?d)) (does keeper (look ?d)))";
  EXPECT_EQ(answered(keeper + echo, "effect").verdict, Verdict::suspicious);
  EXPECT_EQ(answered(keeper + echo, "effect", 1).verdict, Verdict::suspicious);
  const std::string cold =
      "(<= (sees keeper cold) (does keeper (look ?d)) (not (true (under ?d))))";
  EXPECT_EQ(answered(keeper + cold, "effect").verdict, Verdict::holds);
  EXPECT_NE(answered(keeper + cold, "effect", 1).verdict, Verdict::suspicious);
}

TEST(Effect, FindsMovesThatChangeNothing) {
  std::string idle = beds();
  replace(idle, "(<= (legal gardener (plant ?bed)) (true (holds ?bed bare)))",
          "(<= (legal gardener (plant ?bed)) (bed ?bed))");
  const Answer again = answered(idle, "effect");
  EXPECT_EQ(again.verdict, Verdict::suspicious);
  EXPECT_THAT(again.evidence.text(), HasSubstr("changes nothing but the turn"));
  EXPECT_EQ(again.line->joints.size(), 2u);
  // A counter of plies is no effect.
  const std::string counted = idle + R"(
    (init (ply 0)) (after 0 1) (after 1 2) (after 2 3) (after 3 4)
    (<= (next (ply ?more)) (true (ply ?less)) (after ?less ?more))
    (<= terminal (true (ply 4)))
  )";
  EXPECT_EQ(answered(counted, "effect").verdict, Verdict::suspicious);
  // Nor is one with a name of its own.
  const std::string named = idle + R"(
    (init (count plies 0)) (after 0 1) (after 1 2) (after 2 3) (after 3 4)
    (<= (next (count plies ?more)) (true (count plies ?less)) (after ?less ?more))
    (<= terminal (true (count plies 4)))
  )";
  EXPECT_EQ(answered(named, "effect").verdict, Verdict::suspicious);
  // To pass is meant.
  std::string passing = beds("(legal gardener rest) (input gardener rest)");
  EXPECT_EQ(answered(passing, "effect").verdict, Verdict::holds);
}

// All there is on the board is a token; where it stands says who moves, and every move moves it.
TEST(Effect, KnowsATokenFromATurn) {
  const char* const token = R"(
    (role ann) (role bob) (init (token 1))
    (step 1 2) (step 1 4) (step 2 3) (step 2 5) (step 4 5) (step 4 3) (step 3 6) (step 5 6)
    (odd 1) (odd 3) (odd 5) (even 2) (even 4)
    (<= (mover ann) (true (token ?x)) (odd ?x))
    (<= (mover bob) (true (token ?x)) (even ?x))
    (<= (legal ?w (push ?y)) (mover ?w) (true (token ?x)) (step ?x ?y))
    (<= (legal ?w wait) (role ?w) (not (mover ?w)))
    (<= (next (token ?y)) (does ?w (push ?y)))
    (<= terminal (true (token 6)))
    (<= (goal ?w 50) (role ?w)))";
  EXPECT_EQ(answered(token, "effect").verdict, Verdict::holds);
  const char* const alone = R"(
    (role hiker) (init (at 1)) (step 1 2) (step 1 3) (step 2 1) (step 2 4) (step 3 4)
    (<= (legal hiker (go ?x)) (true (at ?y)) (step ?y ?x))
    (<= (next (at ?x)) (does hiker (go ?x)))
    (<= terminal (true (at 4)))
    (goal hiker 100))";
  EXPECT_EQ(answered(alone, "effect").verdict, Verdict::holds);
}

// With the start alone explored, moves without effect are met in random games, or proved away.
TEST(Effect, ReachesBeyondWhatIsExplored) {
  const Answer good = answered(beds(), "effect", 1);
  EXPECT_EQ(good.verdict, Verdict::holds);
  EXPECT_THAT(good.evidence.text(), HasSubstr("by the rules alone"));
  // Beds are planted in their order, so that no bed is planted twice, which takes a proof.
  std::string ordered = beds();
  replace(ordered, "(<= (legal gardener (plant ?bed)) (true (holds ?bed bare)))",
          "(<= (legal gardener (plant ?bed)) (true (at ?bed))) (init (at a))"
          "(<= (next (at b)) (true (at a))) (<= (next (at c)) (true (at b)))");
  const Answer proved = answered(ordered, "effect", 1);
  EXPECT_EQ(proved.verdict, Verdict::holds);
  EXPECT_THAT(proved.evidence.text(), HasSubstr("proved by induction"));
  std::string idle = beds();
  replace(idle, "(<= (legal gardener (plant ?bed)) (true (holds ?bed bare)))",
          "(<= (legal gardener (plant ?bed)) (bed ?bed))");
  const Answer met = answered(idle, "effect", 1);
  EXPECT_EQ(met.verdict, Verdict::suspicious);
  EXPECT_THAT(met.evidence.text(), HasSubstr("of gardener changes nothing but the turn"));
  const auto& positions = met.line->positions;
  ASSERT_GT(positions.size(), 2u);
  EXPECT_EQ(positions.back().to_string(), positions[positions.size() - 2].to_string());
}

}  // namespace
}  // namespace orchard::effect_test
