// Each question of a review on a small game made for it: what it finds, and what it leaves alone.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>

#include "orchard/census.hpp"
#include "orchard/review.hpp"
#include "support/files.hpp"
#include "review/small_game.hpp"
#include "support/random_rules.hpp"

namespace orchard::questions_test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;
using ::testing::StartsWith;

TEST(Questions, AGoodGamePassesAll) {
  const Review review = review_rules(Game::from_text(beds()).value()).value();
  for (const Answer& answer : review.questions) {
    EXPECT_THAT(answer.verdict, ::testing::AnyOf(Verdict::holds, Verdict::described))
        << answer.id << ": " << answer.evidence.text();
  }
  EXPECT_EQ(review.positions, 8u);
  EXPECT_EQ(review.random_games, 2048u);
}

TEST(Questions, SingleValuedFindsTwoContentsAndNone) {
  std::string two = beds();
  replace(two, "(not (does gardener (plant ?bed))))", "(bed ?bed))");
  const Answer both = answered(two, "single-valued");
  EXPECT_EQ(both.verdict, Verdict::fails);
  EXPECT_EQ(both.evidence.text(), "two values of (holds a …)");
  EXPECT_EQ(both.line->joints.size(), 1u);
  std::string none = beds();
  replace(none, "(<= (next (holds ?bed plant)) (does gardener (plant ?bed)))", "");
  const Answer gone = answered(none, "single-valued");
  EXPECT_EQ(gone.evidence.text(), "no value of (holds a …)");
  std::string forgotten = beds();
  replace(forgotten, "(<= (init (holds ?bed bare)) (bed ?bed))",
          "(bed d) (init (holds a bare)) (init (holds b bare)) (init (holds c bare))");
  const Answer never = answered(forgotten, "single-valued");
  ASSERT_TRUE(never.line);
  EXPECT_EQ(never.line->joints.size(), 0u);
}

// Lists that grow, and pieces on a few squares, have no value for each key and need none.
TEST(Questions, SingleValuedLeavesListsAlone) {
  const std::string visited = beds(R"(
    (init (visited a))
    (<= (next (visited ?bed)) (true (visited ?bed)))
    (<= (next (visited ?bed)) (does gardener (plant ?bed)))
  )");
  EXPECT_EQ(answered(visited, "single-valued").verdict, Verdict::holds);
  // Kept under conditions only it is a value like any other, and has two here.
  std::string not_always = visited;
  replace(not_always, "(true (visited ?bed)))", "(true (visited ?bed)) some_bare)");
  EXPECT_EQ(answered(not_always, "single-valued").evidence.text(), "two values of (visited …)");
  const std::string pieces = beds(R"(
    (init (piece a 1)) (init (piece b 2))
    (<= (base (piece ?bed 1)) (bed ?bed)) (<= (base (piece ?bed 2)) (bed ?bed))
    (<= (next (piece ?bed ?number)) (true (piece ?bed ?number)))
  )");
  EXPECT_EQ(answered(pieces, "single-valued").verdict, Verdict::holds);
}

// A fluent for each content of a place: that one of them is at one place at the start says nothing.
TEST(Questions, SingleValuedKnowsContentsByTheirFluents) {
  const std::string rules = R"(
    (role gardener) (bed a) (bed b) (bed c)
    (init (bare a)) (init (bare b)) (init (sown c)) (init (day 1)) (after 1 2) (after 2 3)
    (<= (legal gardener (sow ?bed)) (true (bare ?bed)))
    (<= (legal gardener (dig ?bed)) (true (sown ?bed)))
    (<= (next (sown ?bed)) (does gardener (sow ?bed)))
    (<= (next (sown ?bed)) (true (sown ?bed)) (not (does gardener (dig ?bed))))
    (<= (next (bare ?bed)) (does gardener (dig ?bed)))
    (<= (next (bare ?bed)) (true (bare ?bed)) (not (does gardener (sow ?bed))))
    (<= (next (day ?then)) (true (day ?now)) (after ?now ?then))
    (<= terminal (true (day 3)))
    (<= (goal gardener 100) (true (sown a))) (<= (goal gardener 0) (not (true (sown a)))))";
  const Answer right = answered(rules, "single-valued");
  EXPECT_EQ(right.verdict, Verdict::holds);
  EXPECT_THAT(right.evidence.text(), ::testing::StartsWith("one value for each key of day,"));
  // The day is still a value, and a second one is a slip.
  std::string slip = rules;
  replace(slip, "(<= terminal",
          "(<= (next (day ?now)) (true (day ?now)) (true (bare a))) (<= terminal");
  EXPECT_EQ(answered(slip, "single-valued").evidence.text(), "two values of (day …)");
  // Where two fluents meet at one place they are no contents, and one of them may be a value.
  std::string both = rules;
  replace(both, "(true (bare ?bed)) (not (does gardener (sow ?bed)))", "(true (bare ?bed))");
  EXPECT_THAT(answered(both, "single-valued").evidence.text(),
              ::testing::EndsWith("value of (sown …)"));
}

TEST(Questions, DeclaredComparesWithWhatHappens) {
  std::string undeclared = beds();
  replace(undeclared, "(<= (base (holds ?bed plant)) (bed ?bed))", "");
  const Answer fluent = answered(undeclared, "declared");
  EXPECT_EQ(fluent.verdict, Verdict::fails);
  EXPECT_EQ(fluent.evidence.text(), "(holds a plant) can hold, but base does not declare it");
  std::string no_move = beds();
  replace(no_move, "(<= (input gardener (plant ?bed)) (bed ?bed))", "(input gardener (plant a))");
  EXPECT_EQ(answered(no_move, "declared").evidence.text(),
            "(plant b) can be legal for gardener, but input does not declare it");
  std::string neither = beds();
  replace(neither, "(<= (base (holds ?bed bare)) (bed ?bed))", "");
  replace(neither, "(<= (base (holds ?bed plant)) (bed ?bed))", "");
  replace(neither, "(<= (input gardener (plant ?bed)) (bed ?bed))", "");
  EXPECT_EQ(answered(neither, "declared").verdict, Verdict::described);
}

// What is said where little is explored is never against what is said where all is.
TEST(Questions, OfFewPositionsAgreeWithThoseOfAll) {
  const std::set<std::string> asked{"effect", "settled", "moves", "single-valued"};
  ReviewOptions options;
  for (const std::string& id : question_ids()) {
    if (!asked.contains(id)) options.allow.push_back(id);
  }
  std::map<std::string, int> certain;
  for (std::uint64_t seed = 0; seed < 24 && !::testing::Test::HasFailure(); ++seed) {
    const std::string rules = testing::random_rules(seed);
    SCOPED_TRACE(rules);
    const auto game = Game::from_text(rules);
    if (!game) continue;
    options.budget.positions = 400;
    const auto whole = review_rules(*game, options);
    if (!whole || !whole->complete() || whole->positions < 2) continue;
    options.budget.positions = 1;
    const Review few = review_rules(*game, options).value();
    ASSERT_EQ(few.questions.size(), whole->questions.size());
    for (std::size_t q = 0; q < few.questions.size(); ++q) {
      const Answer& answer = few.questions[q];
      if (few.complete() || answer.verdict == Verdict::unknown) continue;
      EXPECT_EQ(answer.verdict, whole->questions[q].verdict)
          << answer.id << ": " << answer.evidence.text() << "; "
          << whole->questions[q].evidence.text();
      ++certain[answer.id + " " + std::string(name_of(answer.verdict))];
    }
  }
  for (const auto& [what, count] : certain) std::printf("%s %d times\n", what.c_str(), count);
  EXPECT_GT(certain["effect holds"], 2);
  EXPECT_GT(certain["effect suspicious"], 2);
}

TEST(Questions, DeadNamesRulesAndMoves) {
  const Answer dead =
      answered(beds("(<= (legal gardener (water ?bed)) (true (holds ?bed plant)) (not some_bare) "
                    "(true (holds ?bed bare)))"),
               "dead");
  EXPECT_EQ(dead.verdict, Verdict::suspicious);
  EXPECT_THAT(dead.evidence.text(), HasSubstr("1 of 16 clauses never takes part"));
  EXPECT_THAT(dead.evidence.text(), HasSubstr("(water a) of gardener"));
  ASSERT_EQ(dead.places.size(), 1u);
  EXPECT_THAT(dead.places[0].place.source_line, HasSubstr("(water ?bed)"));
}

TEST(Questions, DeadNamesConditionsThatExcludeNothing) {
  const auto places = [](const std::string& from, const std::string& to) {
    std::string rules = beds();
    replace(rules, from, to);
    const Answer dead = answered(rules, "dead");
    std::vector<std::string> result;
    for (const Note& note : dead.places) {
      result.push_back(note.message.substr(0, note.message.find(':')) + " " +
                       note.place.source_line.substr(note.place.column - 1));
    }
    EXPECT_EQ(dead.verdict, result.empty() ? Verdict::holds : Verdict::suspicious)
        << dead.evidence.text();
    return result;
  };
  const std::string plain = "(<= (legal gardener (plant ?bed)) (true (holds ?bed bare)))";
  const auto legal = [&](const std::string& more) {
    return places(plain,
                  "(<= (legal gardener (plant ?bed)) (true (holds ?bed bare)) " + more + ")");
  };
  // No bed holds two things, and a bare one is some bare one.
  EXPECT_THAT(legal("(not (true (holds ?bed plant)))"),
              ElementsAre(StartsWith("this condition excludes nothing (true (holds ?bed plant))")));
  EXPECT_THAT(legal("some_bare"), ElementsAre(StartsWith("this condition excludes nothing some")));
  // One that decides, one that never changes, and one that tells what a variable is.
  EXPECT_THAT(legal("(or (true (holds a plant)) (distinct ?bed b))"), IsEmpty());
  EXPECT_THAT(legal("(bed ?bed)"), IsEmpty());
  EXPECT_THAT(places("(<= (goal gardener 0) some_bare)",
                     "(<= (goal gardener 0) some_bare (true (holds ?bed bare)))"),
              IsEmpty());  // values of ends are told apart on purpose
  // Of alternatives the one that never comes about.
  EXPECT_THAT(legal("(or (not some_bare) (distinct ?bed a) (true (holds b plant)))"),
              ElementsAre(StartsWith("this alternative never takes part some_bare")));
}

// The text with one that always holds for the condition at a place, and for the `not` around it.
std::string without_condition(const std::string& text, const Place& place) {
  std::size_t line_begin = 0;
  for (int line = 1; line < place.line; ++line) {
    line_begin = text.find('\n', line_begin) + 1;
  }
  std::size_t begin = line_begin + static_cast<std::size_t>(place.column) - 1;
  std::size_t end = begin;
  int open = 0;
  do {
    open += text[end] == '(' ? 1 : text[end] == ')' ? -1 : 0;
    ++end;
  } while (open > 0 || (text[begin] != '(' && text[end] != ' ' && text[end] != ')'));
  if (const std::string negated = "(not "; text.substr(begin - negated.size(), 5) == negated) {
    begin -= negated.size();
    ++end;
  }
  return text.substr(0, begin) + "(distinct here there)" + text.substr(end);
}

// What excludes nothing can be left out, and nothing is another game.
TEST(Questions, ConditionsThatExcludeNothingCanBeLeftOut) {
  int left_out = 0;
  for (std::uint64_t seed = 0; seed < 100 && !::testing::Test::HasFailure(); ++seed) {
    const std::string rules = testing::random_rules(seed);
    const auto game = Game::from_text(rules);
    if (!game) continue;
    ReviewOptions options;
    options.budget.positions = 400;
    for (const std::string& id : question_ids()) {
      if (id != "dead") options.allow.push_back(id);
    }
    const auto review = review_rules(*game, options);
    if (!review || !review->complete()) continue;
    const Census census = take_census(*game).value();
    for (const Note& note : review->questions.front().places) {
      if (!note.message.starts_with("this condition")) continue;
      const std::string shorter = without_condition(rules, note.place);
      SCOPED_TRACE(rules + "\n\n" + shorter);
      const auto other = Game::from_text(shorter);
      if (!other) continue;  // a variable has no value any more, or the like
      const Census again = take_census(*other).value();
      EXPECT_EQ(again.positions, census.positions);
      ASSERT_EQ(again.depths.size(), census.depths.size());
      for (std::size_t d = 0; d < census.depths.size(); ++d) {
        EXPECT_EQ(again.depths[d].positions, census.depths[d].positions);
        EXPECT_EQ(again.depths[d].terminal, census.depths[d].terminal);
        EXPECT_EQ(again.depths[d].stuck, census.depths[d].stuck);
      }
      ++left_out;
    }
  }
  std::printf("%d conditions left out\n", left_out);
  EXPECT_GT(left_out, 20);
}

TEST(Questions, WinnableAsksForTheMostThatRulesGive) {
  std::string never = beds();
  replace(
      never, "(<= (goal gardener 100) (not some_bare))",
      "(<= (goal gardener 100) (not some_bare) some_bare) (<= (goal gardener 60) (not some_bare))");
  const Answer most = answered(never, "winnable:gardener");
  EXPECT_EQ(most.verdict, Verdict::fails);
  EXPECT_THAT(most.evidence.text(), HasSubstr("never gets 100"));
  EXPECT_EQ(answered(beds(), "winnable:gardener").evidence.text(),
            "gardener first gets 100 after 3 plies");
  std::string goalless = beds();
  replace(goalless, "(<= (goal gardener 100) (not some_bare)) (<= (goal gardener 0) some_bare)",
          "");
  EXPECT_EQ(answered(goalless, "winnable:gardener").evidence.text(),
            "no rule gives gardener a goal");
}

TEST(Questions, ScoredWantsOneWholeNumber) {
  std::string two = beds("(<= (goal gardener 40) (true (holds a plant)))");
  const Answer both = answered(two, "scored");
  EXPECT_EQ(both.verdict, Verdict::fails);
  EXPECT_THAT(both.evidence.text(), HasSubstr("an end gives gardener more than one goal"));
  std::string odd = beds();
  replace(odd, "(goal gardener 100)", "(goal gardener much)");
  EXPECT_THAT(answered(odd, "scored").evidence.text(),
              HasSubstr("not a whole number from 0 to 100"));
  std::string beyond = beds();
  replace(beyond, "(goal gardener 100)", "(goal gardener 101)");
  EXPECT_EQ(answered(beyond, "scored").verdict, Verdict::fails);
}

TEST(Questions, OpensRefusesAStartThatIsAnEnd) {
  std::string over = beds("(<= terminal (true (holds a bare)))");
  const Answer opens = answered(over, "opens");
  EXPECT_EQ(opens.verdict, Verdict::fails);
  EXPECT_EQ(opens.line->joints.size(), 0u);
}

// Two who take turns, one who may go on, and all at once.
TEST(Questions, TurnsAreToldInWords) {
  EXPECT_EQ(answered(beds(), "turns").evidence.text(), "gardener moves every ply");
  const auto turns = [](const std::string& name) {
    const Game game = Game::load(testing::game_path(name)).value();
    ReviewOptions options;
    options.budget.positions = 2000;
    const Review review = review_rules(game, options).value();
    return std::ranges::find(review.questions, std::string("turns"), &Answer::id)->evidence.text();
  };
  EXPECT_THAT(turns("snails"), HasSubstr("amber and grey alternate; amber begins"));
  EXPECT_EQ(answered("(role ann) (role bob) (role random) (init (time dawn)) (init (day 1))"
                     "(<= (legal random (rain ?what)) (fruit ?what) (true (time night)))"
                     "(<= (legal ?who (pick ?what)) (person ?who) (true (time dawn)) (fruit ?what))"
                     "(<= (legal ?who wait) (person ?who) (true (time night)))"
                     "(<= (legal random wait) (true (time dawn)))"
                     "(person ann) (person bob) (fruit plum) (fruit pear) (then 1 2) (then 2 3)"
                     "(<= (next (time night)) (true (time dawn)))"
                     "(<= (next (time dawn)) (true (time night)))"
                     "(<= (next (day ?n)) (true (day ?n)) (true (time dawn)))"
                     "(<= (next (day ?m)) (true (day ?n)) (then ?n ?m) (true (time night)))"
                     "(<= terminal (true (day 3))) (<= (goal ?who 50) (person ?who))",
                     "turns")
                .evidence.text(),
            "ann and bob at once alternate with random; ann and bob begin");
  // A day of rest after each round, on which nobody is said to move.
  const std::string beds =
      "(role ann) (role bob) (init (time 1)) (then 1 2) (then 2 3) (then 3 4) (then 4 5) (then 5 6)"
      "(fruit plum) (fruit pear) (time_of ann 1) (time_of bob 2) (time_of ann 4) (time_of bob 5)"
      "(<= (legal ?who (pick ?what)) (time_of ?who ?n) (true (time ?n)) (fruit ?what))"
      "(<= (legal ?who wait) (role ?who) (true (time ?n)) (not (time_of ?who ?n)))"
      "(<= (next (time ?m)) (true (time ?n)) (then ?n ?m))"
      "(<= (next (picked ?who ?what)) (does ?who (pick ?what)))"
      "(<= terminal (true (time 6))) (<= (goal ?who 50) (role ?who))";
  EXPECT_EQ(answered(beds, "turns").evidence.text(),
            "ann and bob alternate; ann begins; in 20 % of plies nobody can do anything but wait");
  EXPECT_THAT(turns("market_day"), HasSubstr("hill and vale move at once every ply"));
  EXPECT_THAT(turns("scarecrow"), HasSubstr("and goes again in "));
}

TEST(Questions, BalanceAndDrawsAreThoseOfBestPlayToo) {
  const Game game = Game::load(testing::game_path("snails")).value();
  const Review review = review_rules(game).value();
  const auto evidence = [&](const std::string& id) {
    return std::ranges::find(review.questions, id, &Answer::id)->evidence.text();
  };
  EXPECT_THAT(evidence("balance"), HasSubstr("under best play amber 100, grey 0"));
  EXPECT_EQ(evidence("draws"), "no draw is possible");
  // One alone has nobody to draw with, and nothing to add up.
  const Review alone = review_rules(Game::from_text(beds()).value()).value();
  for (const Answer& answer : alone.questions) {
    EXPECT_THAT(answer.id, Not(::testing::AnyOf("draws", "sum", "outcomes")));
  }
}

TEST(Questions, SettledTellsWhenPlayGoesOnForNothing) {
  // The result stands after the first choice; three more choices follow on every line.
  const std::string late = R"(
    (role east) (role west)
    (init (ply 0)) (after 0 1) (after 1 2) (after 2 3) (after 3 4)
    (<= (next (ply ?more)) (true (ply ?less)) (after ?less ?more))
    (<= (legal east (pick ?what)) (fruit ?what)) (legal west wait) (fruit pear) (fruit plum)
    (<= (next (first ?what)) (true (ply 0)) (does east (pick ?what)))
    (<= (next (first ?what)) (true (first ?what)))
    (<= (next (last ?what)) (does east (pick ?what)))
    (<= terminal (true (ply 4)))
    (<= (goal east 100) (true (first pear))) (<= (goal east 0) (true (first plum)))
    (<= (goal west 0) (true (first pear))) (<= (goal west 100) (true (first plum)))
  )";
  EXPECT_EQ(answered(late, "settled", 2).verdict, Verdict::unknown);
  const Answer settled = answered(late, "settled");
  EXPECT_EQ(settled.verdict, Verdict::suspicious);
  EXPECT_EQ(settled.line->joints.size(), 1u);
  std::string in_time = late;
  replace(in_time, "(<= (next (first ?what)) (true (ply 0))",
          "(<= (next (first ?what)) (true (ply 3))");
  replace(in_time, "(<= terminal (true (ply 4)))", "(<= terminal (true (ply 4))) ");
  EXPECT_EQ(answered(in_time, "settled").verdict, Verdict::holds);
  EXPECT_THAT(answered(in_time, "settled", 2).evidence.text(),
              HasSubstr("stay open until the last ply"));
}

// Where the start of a line is all there is to show, it is shown.
TEST(Questions, AStuckStartIsShownAsItIs) {
  const std::string stuck = R"(
    (role bee) (init (at hive))
    (<= (legal bee go) (true (at field)))
    (<= (next (at hive)) (does bee go))
    (<= terminal (true (at moor)))
    (<= (goal bee 100) (true (at moor))) (<= (goal bee 0) (not (true (at moor))))
  )";
  const Answer moves = answered(stuck, "moves");
  EXPECT_EQ(moves.verdict, Verdict::fails);
  EXPECT_EQ(moves.line->joints.size(), 0u);
  EXPECT_EQ(moves.line_title, "at the start");
  EXPECT_EQ(answered(stuck, "winnable:bee").verdict, Verdict::fails);
  EXPECT_EQ(answered(stuck, "turns").evidence.text(), "nobody ever moves");
}

// What is said of best play is what solving says, asked beside other questions or alone.
TEST(Questions, AreTheSameAskedAloneOrTogether) {
  const Game game = Game::load(testing::game_path("market_day")).value();
  const Review together = review_rules(game).value();
  for (const Answer& answer : together.questions) {
    ReviewOptions alone;
    for (const std::string& id : question_ids()) {
      if (id != answer.id.substr(0, answer.id.find(':'))) alone.allow.push_back(id);
    }
    const Review one = review_rules(game, alone).value();
    const auto found = std::ranges::find(one.questions, answer.id, &Answer::id);
    ASSERT_NE(found, one.questions.end());
    EXPECT_EQ(found->evidence.text(), answer.evidence.text());
    EXPECT_EQ(found->verdict, answer.verdict);
  }
}

// What chance does is explored like what players do.
TEST(Questions, ChanceIsExploredInFull) {
  const Answer moves = answered(R"(
    (role random) (role bee)
    (init dawn)
    (<= (legal random (weather ?w)) (true dawn) (kind ?w)) (kind sun) (kind rain) (kind storm)
    (<= (legal random idle) (not (true dawn)))
    (<= (legal bee hum) (true dawn)) (<= (legal bee fly) (true (sky sun)))
    (<= (legal bee sleep) (true (sky rain)))
    (<= (next (sky ?w)) (does random (weather ?w)))
    (<= (next done) (not (true dawn)))
    (<= terminal (true done)) (goal bee 100)
  )",
                                "moves");
  EXPECT_EQ(moves.verdict, Verdict::fails);
  EXPECT_EQ(moves.line->joints.back()[0].to_string(), "(weather storm)");
}

}  // namespace
}  // namespace orchard::questions_test
