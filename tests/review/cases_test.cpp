#include "orchard/cases.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"

namespace orchard::cases_test {
namespace {

using ::testing::HasSubstr;

class Cases : public ::testing::Test {
 protected:
  Result<std::vector<CaseResult>> run(const std::string& text, const CaseOptions& options = {}) {
    return run_cases(game_, folder_.write("t.cases", text), options);
  }
  // The failures of one case as text, "" if it passed.
  std::string failures(const std::string& parts) {
    const auto results = run("(case \"c\" " + parts + ")");
    if (!results) return results.diagnostics().render();
    std::string text;
    for (const CaseFailure& failure : results->at(0).failures) {
      text += failure.expected + ": " + failure.found + "\n";
    }
    return text;
  }
  Game game_ = Game::load(testing::game_path("espalier_3x3")).value();
  testing::TemporaryFolder folder_;
};

TEST_F(Cases, PassWhenAllHolds) {
  EXPECT_EQ(
      failures("(start) (moves (tie 1 1) (west (tie 1 2)) (joint (east (tie 2 1)) (west wait)))"
               "(expect (true (square 2 1 east)) (not terminal) (not (wins ?who)) (branch 1 ?c)"
               " (legal west (tie 2 2)) (not (legal east (tie 2 2))) (not (not (room_left))))"
               "(refused west (tie 3 3)) (legal-moves east wait)"),
      "");
}

// What a case does not say of chance is drawn, the same every time.
TEST(CasesWithChance, LeaveToChanceWhatTheyDoNotName) {
  const Game game = Game::load(testing::game_path("cellar")).value();
  const testing::TemporaryFolder folder;
  const std::string path =
      folder.write("c.cases",
                   "(case \"found\" (moves (shelve 2) (shelve 4) (shelve 1) (shelve 3)"
                   " (name 2) (name 4) (name 1) (name 3)) (expect terminal (goal mouse 100)))\n"
                   "(case \"first jar\" (moves (shelve 2) (name 2)) (expect (true (shelf 1 2))"
                   " (true (shelved 4)) (true (named 1 2))))\n"
                   "(case \"misspelt\" (moves (shelve 9) (name 2)) (expect (not terminal)))");
  const auto results = run_cases(game, path).value();
  EXPECT_TRUE(results[0].failures.empty());
  EXPECT_TRUE(results[1].failures.empty());
  EXPECT_EQ(results[1].ply, 5u);
  ASSERT_EQ(results[2].failures.size(), 1u);
  EXPECT_THAT(results[2].failures[0].found, HasSubstr("random cannot play (shelve 9)"));
}

TEST_F(Cases, FailWithWhatWasFound) {
  EXPECT_EQ(failures("(start) (expect terminal)"), "terminal: it does not hold\n");
  EXPECT_EQ(failures("(start) (expect (not (room_left)))"), "(not (room_left)): it holds\n");
  EXPECT_EQ(failures("(start) (expect (goal east 100))"), "(goal east 100): no value\n");
  EXPECT_EQ(failures("(position (turn east)) (expect (goal east 100))"), "(goal east 100): 50\n");
  EXPECT_EQ(failures("(start) (legal-moves east (tie 1 1) (tie 1 2) (tie 3 3))"),
            "(legal-moves east (tie 1 1) (tie 1 2) (tie 3 3)): (tie 1 3) too, not (tie 3 3)\n");
  EXPECT_EQ(failures("(start) (refused east (tie 1 1))"),
            "(refused east (tie 1 1)): the move is legal\n");
  EXPECT_EQ(failures("(start) (expect (touches ?r ?c ?r ?c))"),
            "(touches ?r ?c ?r ?c): it does not hold\n");
}

TEST_F(Cases, SpeakOfBestPlay) {
  const std::string three = "(start) (moves (tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1))";
  EXPECT_EQ(failures("(start) (value east 50) (value west 50)"), "");
  EXPECT_EQ(failures("(start) (best east (tie 1 1) (tie 1 2) (tie 1 3))"), "");
  EXPECT_EQ(failures("(start) (value east 100)"), "(value east 100): its value is 50\n");
  EXPECT_EQ(failures("(start) (best east (tie 1 2))"),
            "(best east (tie 1 2)): the best are (tie 1 1) (tie 1 2) (tie 1 3)\n");
  // West lets the fourth corner go.
  const std::string lost = three + " (moves (tie 3 3)) ";
  EXPECT_EQ(failures(lost + "(value east 100) (wins-within east 1) (best east (tie 2 2))"), "");
  EXPECT_EQ(failures(lost + "(wins-within east 0)"), "(wins-within east 0): it wins in 1 ply\n");
  EXPECT_EQ(failures(lost + "(wins-within west 9)"),
            "(wins-within west 9): it cannot force a win; its value is 0\n");
  EXPECT_THAT(failures("(start) (value east)"), HasSubstr("write (value ROLE NUMBER)"));
  EXPECT_THAT(failures("(start) (wins-within east soon)"),
              HasSubstr("write (wins-within ROLE PLIES)"));
  EXPECT_THAT(failures("(start) (best nobody (tie 1 1))"), HasSubstr("nobody is not a role"));
}

TEST(CasesOfOtherGames, SayWhyBestPlayIsNotKnown) {
  const testing::TemporaryFolder folder;
  const auto results = run_cases(
      Game::from_text("(role r) (init (at 0)) (<= (legal r (go ?x)) (digit ?x)) (digit 1) (digit 2)"
                      "(<= (next (at ?x)) (does r (go ?x))) (<= terminal (true (at 9))) (goal r 0)")
          .value(),
      folder.write("l.cases", "(case \"c\" (start) (value r 0))"));
  ASSERT_TRUE(results);
  EXPECT_THAT(results->at(0).failures.at(0).found, HasSubstr("not solved: positions repeat"));
}

TEST_F(Cases, FailWhereTheyCannotBePlayed) {
  EXPECT_THAT(failures("(start) (moves (tie 3 3)) (expect terminal)"),
              HasSubstr("east cannot play (tie 3 3)"));
  EXPECT_THAT(failures("(start) (moves (joint (west wait))) (expect terminal)"),
              HasSubstr("a move for east: it has a choice"));
  EXPECT_THAT(failures("(position (squre 1 1 east)) (expect terminal)"),
              HasSubstr("no rule makes a fluent"));
  EXPECT_THAT(failures("(start) (expect (room_lefd))"), HasSubstr("did you mean room_left?"));
  EXPECT_THAT(failures("(start) (expect (tied_now 1 1))"), HasSubstr("this depends on moves"));
  EXPECT_THAT(failures("(start) (expect (sees east x))"), HasSubstr("no move was made yet"));
}

TEST_F(Cases, TellEveryFaultOfTheFile) {
  const auto result =
      run("(case \"a\" (start))\n(case start)\n(case \"b\" (begin) (expect terminal))\n"
          "(case \"c\" (expect terminal) (start))\n(case \"d\" (legal-moves north wait))\n"
          "(case \"e\" (refused east))\n(case \"f\" (moves (joint east)) (expect terminal))\nplum");
  ASSERT_FALSE(result.ok());
  const std::string text = result.diagnostics().render();
  for (const char* part :
       {"t.cases:1:1: error: this case expects nothing", "t.cases:2:1: error: expected a case",
        "t.cases:3:11: error: this is not a part of a case",
        "t.cases:4:29: error: a case has one start, and it comes first",
        "t.cases:5:24: error: north is not a role", "t.cases:6:11: error: a role is missing",
        "t.cases:7:25: error: expected a role and its move",
        "t.cases:8:1: error: expected a case"}) {
    EXPECT_THAT(text, HasSubstr(part));
  }
}

TEST_F(Cases, AreFilteredByName) {
  CaseOptions options;
  options.filter = "two";
  const auto results =
      run("(case \"one\" (start) (expect terminal)) (case \"two\" (start) (expect (turn_is east)))"
          "(case \"twenty two\" (start) (expect (room_left)))",
          options)
          .value();
  ASSERT_EQ(results.size(), 2u);
  EXPECT_FALSE(results[0].passed());
  EXPECT_TRUE(results[1].passed());
}

// Expected not to be, a misspelling would be met for ever.
TEST_F(Cases, DoNotPassOnMisspellings) {
  EXPECT_THAT(failures("(start) (refused east (tei 3 3))"), HasSubstr("did you mean `tie`?"));
  EXPECT_THAT(failures("(start) (refused east (tie 9 9))"),
              HasSubstr("argument 1 of `tie` is never 9"));
  EXPECT_THAT(failures("(start) (expect (not (true (squar 1 1 east))))"),
              HasSubstr("did you mean `square`?"));
  EXPECT_THAT(failures("(start) (expect (not (legal esat (tie 3 3))))"),
              HasSubstr("esat is not a role"));
  EXPECT_THAT(failures("(start) (expect (not (branch 1 7)))"),
              HasSubstr("argument 2 of `branch` is never 7"));
  EXPECT_THAT(failures("(position (square 1 1 eats) (turn east)) (expect (not terminal))"),
              HasSubstr("argument 3 of `square` is never eats"));
  // What holds is there, and `base` declares what it likes.
  EXPECT_EQ(failures("(start) (expect (base (square 1 1 bare)) (input east (tie 1 1)) (role east) "
                     "(not (base (square 1 1 leek))))"),
            "");
  // What fails anyway says what was meant, too.
  EXPECT_THAT(failures("(start) (expect (legal east (tei 1 1)))"),
              HasSubstr("it does not hold; did you mean `tie`?"));
}

TEST_F(Cases, DoNotPassOnOneOfSeveralGoals) {
  game_ = Game::from_text("(role a)(init s)(next s)(legal a go)(goal a 40)(goal a 60)").value();
  EXPECT_EQ(failures("(start) (expect (goal a 40))"),
            "(goal a 40): several values at once: 40 60\n");
  EXPECT_EQ(failures("(start) (expect (goal a ?some))"),
            "(goal a ?some): several values at once: 40 60\n");
}

TEST_F(Cases, ThatAreNotThereHaveNotPassed) {
  EXPECT_THAT(run("; nothing yet\n").diagnostics().render(),
              HasSubstr("there is no case in this file"));
  CaseOptions options;
  options.filter = "winter";
  const auto none = run("(case \"spring\" (start) (expect (not terminal)))", options);
  EXPECT_THAT(none.diagnostics().render(), HasSubstr("no case has `winter` in its name"));
}

TEST_F(Cases, LookAtPercepts) {
  game_ = Game::from_text(
              "(role a)(role b)(init s)(next s)(n 1)(n 2)(<= (legal ?r (say ?n)) (role ?r) (n ?n))"
              "(<= (sees a (heard ?n)) (does b (say ?n)))")
              .value();
  EXPECT_EQ(failures("(moves (joint (a (say 1)) (b (say 2)))) (expect (sees a (heard 2)) (not "
                     "(sees a (heard 1)))"
                     " (not (sees b ?x)))"),
            "");
  EXPECT_THAT(failures("(moves (say 1)) (expect (n 1))"),
              HasSubstr("a and b choose at once; write (joint (a (say 1)) (b MOVE))"));
}

TEST_F(Cases, ComeBeforeTheRules) {
  game_ = Game::from_text("(role bee) (init (at 1))").value();
  EXPECT_EQ(failures("(start) (expect (true (at 1)))"), "");
  EXPECT_THAT(failures("(start) (expect (home))"), HasSubstr("the rules have no relation home"));
  EXPECT_EQ(failures("(start) (legal-moves bee)"), "");
}

TEST_F(Cases, OfTheDemoGamesPass) {
  for (const char* name : {"espalier", "silo", "channel"}) {
    const Game game = Game::load(testing::game_path(name)).value();
    const auto results =
        run_cases(game, testing::source_path(std::string("games/") + name + ".cases")).value();
    EXPECT_GE(results.size(), 8u);
    for (const CaseResult& result : results)
      EXPECT_TRUE(result.passed()) << name << ": " << result.name;
  }
}

// Faults that people make, each noticed by the cases of the game.
TEST_F(Cases, NoticeWrongRules) {
  const std::string rules = testing::read_file(testing::game_path("espalier"));
  for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{
           {"    (not (tied_now ?row ?column)))", "    (role ?column))"},    // squares vanish
           {"    (not (tied_now ?row ?column)))", "    (column ?column))"},  // two contents
           {"    (role ?gardener)\n    (rows_apart", "    (rows_apart"},     // bare squares win
           {"    (not room_left)\n    (not somebody_wins))",
            "    (not room_left))"},  // drawn and won
           {"    (rival ?gardener ?rival))\n\n; ---- Ends", "    (role ?rival))\n\n; ---- Ends"}}) {
    std::string wrong = rules;
    ASSERT_NE(wrong.find(from), std::string::npos) << from;
    wrong.replace(wrong.find(from), from.size(), to);
    const Game game = Game::from_text(wrong).value();
    const auto results = run_cases(game, testing::source_path("games/espalier.cases")).value();
    EXPECT_FALSE(std::ranges::all_of(results, &CaseResult::passed)) << to;
  }
}

}  // namespace
}  // namespace orchard::cases_test
