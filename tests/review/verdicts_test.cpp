// Verdicts that are easily wrong: play that chance draws out, questions about nothing, several
// readings of a fluent; and the rules that are named beside what fails.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>

#include "orchard/review.hpp"
#include "support/answers.hpp"

namespace orchard::verdicts_test {
namespace {

using testing::answer;
using ::testing::HasSubstr;
using ::testing::Not;

// The rules behind what fails: what the nearest one lacks, those that give two goals, and the one
// that keeps a bed and let it drop.
TEST(Review, NamesTheRulesBehindWhatFails) {
  const Game game = Game::from_text(R"(
(role blue) (role red) (n 1) (n 2) (n 3)
(<= (init (bed ?x bare)) (n ?x)) (init (turn blue))
(<= (legal ?w (sow ?x)) (true (turn ?w)) (true (bed ?x bare)))
(<= (legal ?w noop) (role ?w) (not (true (turn ?w))))
(<= (next (bed ?x ?w)) (does ?w (sow ?x)))
(<= (next (bed ?x bare)) (true (bed ?x bare)) (not (sown ?x)))
(<= (next (bed ?x blue)) (true (bed ?x blue)) (not (sown 3)))
(<= (next (bed ?x red)) (true (bed ?x red)))
(<= (sown ?x) (does ?w (sow ?x)))
(<= (next (turn red)) (true (turn blue)))
(<= (next (turn blue)) (true (turn red)))
(<= terminal (true (bed 1 blue)) (true (bed 2 red)))
(<= (goal blue 100) (true (bed 1 blue)))
(<= (goal blue 50) (true (bed 2 red)))
(<= (goal red 0) (not (true (bed 1 red)))))")
                        .value();
  const Review review = review_rules(game).value();
  const auto places = [&](const char* id) {
    std::string text;
    for (const Note& note : answer(review, id).places) {
      text += std::to_string(note.place.line) + " " + note.message + "\n";
    }
    return text;
  };
  EXPECT_EQ(places("moves"),
            "4 (legal red ?move) does not hold here: this rule would give it with "
            "(true (bed ?x bare))\n");
  EXPECT_EQ(places("scored"),
            "15 (goal blue 50) holds by this rule\n14 (goal blue 100) holds by this rule\n");
  EXPECT_EQ(places("single-valued"),
            "8 (next (bed 1 blue)) does not hold here: this rule would give it with "
            "(not (sown 3))\n");
}

// Walks on places by throws of chance; `rules` say what is over, and what the player does.
Answer ends_of_walk(const std::string& rules) {
  const Game game =
      Game::from_text(
          "(role ann) (role random) (init (at 1)) (after 1 2) (after 2 3)"
          "(<= (legal random (throw ?x)) (true (at ?n)) (side ?x)) (side on) (side back)"
          "(<= (next (at ?m)) (does random (throw on)) (true (at ?n)) (after ?n ?m)"
          "    (not held))"
          "(<= (next (at 1)) (does random (throw back)))"
          "(<= (next (at ?n)) (true (at ?n)) held) (goal ann 50)" +
          rules)
          .value();
  return answer(review_rules(game).value(), "ends");
}

TEST(Review, EndsWithProbabilityOneWhereOnlyChanceDrawsPlayOut) {
  const Answer walk = ends_of_walk("(legal ann wait) (<= terminal (true (at 3)))");
  EXPECT_EQ(walk.verdict, Verdict::holds);
  EXPECT_THAT(walk.evidence.text(), HasSubstr("ends with probability one"));
  // A player who can stay where it is for ever; not against every throw.
  const std::string stays =
      "(legal ann wait) (legal ann hold) (<= terminal (true (at 3))) (<= held (does ann hold)";
  EXPECT_EQ(ends_of_walk(stays + "(true (at 2)) (does random (throw on)))").verdict,
            Verdict::fails);
  EXPECT_EQ(ends_of_walk(stays + "(does random (throw back)))").verdict, Verdict::holds);
  // Chance may lead to where nothing ends.
  EXPECT_EQ(
      ends_of_walk("(legal ann wait) (<= held (true (at 2))) (<= terminal (true (at 3)))").verdict,
      Verdict::fails);
}

TEST(Review, WhereNothingIsNothingIsSaidToHold) {
  const auto review = [](const std::string& rules) {
    return review_rules(Game::from_text(rules).value()).value();
  };
  const Review still = review("(role ann) (init day) (legal ann wait) (<= (next day) (true day))");
  EXPECT_EQ(answer(still, "scored").verdict, Verdict::described);
  const Review dice = review(
      "(role random) (init (day 1)) (legal random throw) (next (day 2)) (<= terminal (true (day "
      "2)))");
  for (const Answer& one : dice.questions) {
    EXPECT_NE(one.id, "scored");
    EXPECT_NE(one.id, "balance");
  }
  const Review uneven = review(
      "(role ann) (role bob) (init day) (legal ann wait) (legal bob wait) (<= terminal (true day))"
      "(goal ann 100) (goal bob 60)");
  EXPECT_EQ(answer(uneven, "winnable:bob").verdict, Verdict::suspicious);
  EXPECT_EQ(answer(uneven, "winnable:ann").verdict, Verdict::holds);
}

// That players stand apart at the start does not mean that they always do.
TEST(Review, OfSeveralReadingsOneThatPlayDoesNotContradictIsMeant) {
  const std::string rules =
      "(role ann) (role bob) (h 1 2) (h 2 3) (h 3 1) (init (stands ann 1)) (init (stands bob 2))"
      "(init (left 3)) (less 3 2) (less 2 1) (less 1 0)"
      "(<= (legal ?w stay) (role ?w)) (<= (legal ?w go) (role ?w))"
      "(<= (next (stands ?w ?h)) (does ?w stay) (true (stands ?w ?h)))"
      "(<= (next (left ?n)) (true (left ?m)) (less ?m ?n))"
      "(<= terminal (true (left 0))) (<= (goal ?w 50) (role ?w))";
  const std::string goes =
      "(<= (next (stands ?w ?i)) (does ?w go) (true (stands ?w ?h)) (h ?h ?i))";
  const auto verdict = [&](const std::string& more) {
    const Game game = Game::from_text(rules + goes + more).value();
    return answer(review_rules(game).value(), "single-valued").verdict;
  };
  EXPECT_EQ(verdict(""), Verdict::holds);
  // One at two places at once contradicts every reading.
  EXPECT_EQ(verdict("(<= (next (stands ?w 3)) (does ?w go))"), Verdict::fails);
}

TEST(Review, RolesThatMoveInTurnAndAreAlikeAreToldAtOnce) {
  const Game game = Game::from_text(R"(
(role ann) (role bob) (role cas) (then ann bob) (then bob cas) (then cas ann)
(init (turn ann)) (init (left 5)) (#for ?n 1 5 (less ?n (#- ?n 1)))
(<= (legal ?w (take ?n)) (true (turn ?w)) (true (left ?m)) (less ?m ?n))
(<= (legal ?w (take ?n)) (true (turn ?w)) (true (left ?m)) (less ?m ?k) (less ?k ?n))
(<= (legal ?w rest) (role ?w) (not (true (turn ?w))))
(<= (next (left ?n)) (does ?w (take ?n)))
(<= (next (turn ?v)) (true (turn ?w)) (then ?w ?v))
(<= terminal (true (left 0)))
(<= (goal ?w 100) (true (turn ?v)) (then ?w ?v))
(<= (goal ?w 0) (role ?w) (true (turn ?v)) (not (then ?w ?v))))")
                        .value();
  const Review review = review_rules(game).value();
  EXPECT_THAT(answer(review, "turns").evidence.text(), HasSubstr("ann, bob and cas move in turn"));
  EXPECT_THAT(answer(review, "turns").evidence.text(), Not(HasSubstr("begins")));
  EXPECT_EQ(answer(review, "alike").evidence.text(),
            "ann, bob and cas are all alike except for whose turn it is");
}

// Pieces that stand on places of their own may be taken.
TEST(Verdicts, PiecesMayBeTaken) {
  const std::string pots =
      "(role wren) (peg 1) (peg 2) (peg 3) (peg 4) (peg 5)"
      "(init (at red 1)) (init (at blue 3)) (init (at green 4))"
      "(<= (legal wren (take ?pot)) (true (at ?pot ?peg)))"
      "(<= (legal wren (move ?pot ?peg)) (true (at ?pot ?_from)) (peg ?peg) (not (full ?peg)))"
      "(<= (full ?peg) (true (at ?_pot ?peg)))"
      "(<= (next (at ?pot ?peg)) (does wren (move ?pot ?peg)))"
      "(<= (next (at ?pot ?peg)) (true (at ?pot ?peg)) (not (changed ?pot)))"
      "(<= (changed ?pot) (does wren (take ?pot)))"
      "(<= (changed ?pot) (does wren (move ?pot ?_to)))"
      "(<= some_left (true (at ?_pot ?_peg))) (<= terminal (not some_left)) (goal wren 100)";
  const Review review = review_rules(Game::from_text(pots).value()).value();
  EXPECT_EQ(answer(review, "single-valued").verdict, Verdict::holds);
}

// The circuit leaves out what no rule asks for; claims may ask for it all the same.
TEST(Verdicts, AreGivenOfWhatNoRuleUses) {
  const Game game =
      Game::from_text(
          "(role wren) (init (at 1)) (<= (legal wren hop) (true (at ?peg)))"
          "(after 1 2) (after 2 3) (<= (next (at ?next)) (true (at ?peg)) (after ?peg ?next))"
          "(<= (next (at 3)) (true (at 3))) (<= (wide ?peg) (true (at ?peg)) (distinct ?peg 1))"
          "(<= home (true (at 3))) (<= terminal (true (at 3))) (goal wren 100)")
          .value();
  for (const auto& [formula, plies] :
       {std::pair("home", 2u), std::pair("(wide ?peg)", 1u), std::pair("(not home)", 0u)}) {
    const Sought sought = find_position(game, formula).value();
    ASSERT_TRUE(sought.line.has_value()) << formula;
    EXPECT_EQ(sought.line->joints.size(), plies) << formula;
    EXPECT_TRUE(sought.unfit.empty()) << formula;
  }
}

}  // namespace
}  // namespace orchard::verdicts_test
