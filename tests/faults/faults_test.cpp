// Faults on purpose: the edits, who notices them, and the cases that would.
#include "orchard/faults.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>
#include <stop_token>

#include "faults/edits.hpp"
#include "orchard/mend.hpp"
#include "orchard/shrink.hpp"
#include "support/files.hpp"
#include "support/pots.hpp"

namespace orchard::faults_test {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;
using testing::pots;
using testing::TemporaryFolder;
using ::testing::UnorderedElementsAre;
using Noticed = PlantedFault::Noticed;

std::set<std::string> edited_texts(const std::string& text, FaultKind kind) {
  const syntax::Source source("rules", text);
  std::set<std::string> texts;
  for (const faults::Edit& edit : faults::edits_of(source)) {
    if (edit.kind == kind) texts.insert(faults::edited(text, edit));
  }
  return texts;
}

TEST(Edits, AreThoseThatPeopleMake) {
  const std::string rule = "(<= (a ?x ?y) (b ?x) (not (c ?y 1)))";
  EXPECT_THAT(edited_texts(rule, FaultKind::condition_dropped),
              UnorderedElementsAre("(<= (a ?x ?y)  (not (c ?y 1)))", "(<= (a ?x ?y) (b ?x) )"));
  EXPECT_THAT(edited_texts(rule, FaultKind::negation_flipped),
              UnorderedElementsAre("(<= (a ?x ?y) (not (b ?x)) (not (c ?y 1)))",
                                   "(<= (a ?x ?y) (b ?x) (c ?y 1))"));
  EXPECT_THAT(edited_texts(rule, FaultKind::constant_swapped),
              UnorderedElementsAre("(<= (a ?x ?y) (b ?x) (not (c ?y 2)))"));
  EXPECT_THAT(edited_texts(rule, FaultKind::arguments_swapped),
              UnorderedElementsAre("(<= (a ?y ?x) (b ?x) (not (c ?y 1)))",
                                   "(<= (a ?x ?y) (b ?x) (not (c 1 ?y)))"));
  EXPECT_THAT(edited_texts(rule, FaultKind::variable_confused),
              UnorderedElementsAre(
                  "(<= (a ?y ?y) (b ?x) (not (c ?y 1)))", "(<= (a ?x ?x) (b ?x) (not (c ?y 1)))",
                  "(<= (a ?x ?y) (b ?y) (not (c ?y 1)))", "(<= (a ?x ?y) (b ?x) (not (c ?x 1)))"));
  EXPECT_THAT(edited_texts(rule, FaultKind::rule_removed), UnorderedElementsAre(""));
  EXPECT_THAT(edited_texts("(<= a (or b (and c d)))", FaultKind::condition_dropped),
              UnorderedElementsAre("(<= a )", "(<= a (or  (and c d)))", "(<= a (or b ))"));
  EXPECT_THAT(edited_texts("(#for ?n 1 top (spot ?n (#+ ?n 1)))", FaultKind::range_off_by_one),
              UnorderedElementsAre("(#for ?n 2 top (spot ?n (#+ ?n 1)))",
                                   "(#for ?n 1 (#- top 1) (spot ?n (#+ ?n 1)))"));
  EXPECT_THAT(edited_texts("(<= (goal ?a 100) (won ?a)) (goal ben 0)", FaultKind::goals_swapped),
              UnorderedElementsAre("(<= (goal ?a 0) (won ?a)) (goal ben 100)"));
  // Names that stand at the same argument somewhere, and no other.
  EXPECT_THAT(
      edited_texts("(pot red) (pot blue) (bed red)", FaultKind::constant_swapped),
      UnorderedElementsAre("(pot blue) (pot blue) (bed red)", "(pot red) (pot red) (bed red)"));
}

FaultTrial tried(const std::string& game, const std::string& cases, FaultOptions options = {}) {
  options.cases = cases;
  return plant_faults(game, options).value();
}

// A case that would notice a fault does, and passes without it.
TEST(Faults, TheMissingCaseFailsWhereNobodyNoticed) {
  const TemporaryFolder folder;
  const std::string path = folder.write("pots.gdl", pots);
  const std::string cases =
      folder.write("pots.cases", "(case \"start\" (start) (expect (not terminal)))\n");
  FaultOptions options;
  options.most = 100'000;
  const FaultTrial trial = tried(path, cases, options);
  EXPECT_EQ(trial.ending, Ending::complete);
  EXPECT_EQ(trial.faults.size(), trial.possible);
  const Game game = Game::load(path).value();
  const syntax::Source source(path, std::string(pots));
  std::map<std::string, std::string> edited;  // by change and place
  for (const faults::Edit& edit : faults::edits_of(source)) {
    edited.emplace(
        edit.change + std::to_string(edit.place.line) + ":" + std::to_string(edit.place.column),
        faults::edited(source.text(), edit));
  }
  std::size_t open = 0;
  for (const PlantedFault& fault : trial.faults) {
    if (fault.noticed != Noticed::nobody) {
      EXPECT_TRUE(fault.missing_case.empty());
      continue;
    }
    ++open;
    SCOPED_TRACE(fault.change);
    const auto passed = run_cases_of_text(game, fault.missing_case);
    ASSERT_TRUE(passed.ok()) << passed.diagnostics().render() << fault.missing_case;
    EXPECT_TRUE(passed->front().passed()) << fault.missing_case;
    const Game faulty = Game::from_text(edited.at(fault.change + std::to_string(fault.place.line) +
                                                  ":" + std::to_string(fault.place.column)),
                                        path)
                            .value();
    const auto failed = run_cases_of_text(faulty, fault.missing_case);
    ASSERT_TRUE(failed.ok());
    EXPECT_FALSE(failed->front().passed()) << fault.missing_case;
  }
  EXPECT_GT(open, 2u);
  EXPECT_GT(trial.count(Noticed::same_game), 0u);
  EXPECT_GT(trial.count(Noticed::questions), 0u);
  EXPECT_GT(trial.count(Noticed::refused), 0u);
  EXPECT_EQ(trial.count(Noticed::undecided), 0u);
  // With these cases nobody is left out.
  std::string all = testing::read_file(cases);
  for (const PlantedFault& fault : trial.faults) all += fault.missing_case;
  const FaultTrial again = tried(path, folder.write("all.cases", all), options);
  EXPECT_EQ(again.count(Noticed::nobody), 0u);
  EXPECT_GT(again.noticed_by_cases_and_claims(), trial.noticed_by_cases_and_claims());
  EXPECT_EQ(again.counted(), trial.counted());
}

TEST(Faults, CasesThatNoticeNothingArePointedOut) {
  const TemporaryFolder folder;
  const std::string path = folder.write("pots.gdl", pots);
  const std::string cases = folder.write("pots.cases", R"(
    (case "ben plays" (start) (expect (role ben)))
    (case "a filled pot stays filled" (start) (moves (ann (fill 1)) (ben (fill 2)))
      (expect (true (pot 1 ann)) (true (pot 2 ben)) terminal)))");
  std::size_t idle = 0;
  std::size_t noticed = 0;
  for (std::uint64_t seed = 1; seed <= 8; ++seed) {
    FaultOptions options;
    options.most = 10;
    options.seed = seed;
    const FaultTrial trial = tried(path, cases, options);
    std::set<std::string> open = {"ben plays", "a filled pot stays filled"};
    for (const PlantedFault& fault : trial.faults) {
      for (const std::string& name : fault.failed_cases) noticed += open.erase(name);
      EXPECT_EQ(fault.noticed == Noticed::cases, !fault.failed_cases.empty());
    }
    EXPECT_EQ(std::set<std::string>(trial.idle_cases.begin(), trial.idle_cases.end()), open);
    idle += open.size();
  }
  EXPECT_GT(idle, 2u);
  EXPECT_GT(noticed, 2u);
}

TEST(Faults, ThreadsFindTheSame) {
  FaultOptions options;
  options.most = 60;
  const std::string cases = testing::source_path("games/snails.cases");
  const FaultTrial one = tried(testing::game_path("snails"), cases, options);
  options.threads = 3;
  const FaultTrial three = tried(testing::game_path("snails"), cases, options);
  ASSERT_EQ(one.faults.size(), 60u);
  ASSERT_EQ(three.faults.size(), 60u);
  std::set<FaultKind> kinds;
  for (std::size_t f = 0; f < one.faults.size(); ++f) {
    EXPECT_EQ(one.faults[f].change, three.faults[f].change);
    EXPECT_EQ(one.faults[f].noticed, three.faults[f].noticed) << one.faults[f].change;
    EXPECT_EQ(one.faults[f].missing_case, three.faults[f].missing_case);
    kinds.insert(one.faults[f].kind);
  }
  EXPECT_GE(kinds.size(), 6u);
}

TEST(Faults, WhatIsWrongBeforeIsTold) {
  const TemporaryFolder folder;
  const std::string path = folder.write("pots.gdl", pots);
  FaultOptions options;
  options.cases = folder.write("wrong.cases", "(case \"over\" (start) (expect terminal))\n");
  const auto refused = plant_faults(path, options);
  ASSERT_FALSE(refused.ok());
  EXPECT_THAT(refused.diagnostics().render(), HasSubstr("the case \"over\" fails [faults-before]"));
  const auto infix = plant_faults(folder.write("pots.gdli", "role(ann)."));
  ASSERT_FALSE(infix.ok());
  EXPECT_EQ(infix.diagnostics().items().front().code, "not-prefix");
  EXPECT_FALSE(plant_faults(folder.path("nowhere.gdl")).ok());
}

TEST(Faults, AnEndedBudgetGivesWhatWasDone) {
  std::stop_source stopped;
  FaultOptions options;
  options.budget.stop = stopped.get_token();
  options.cases = testing::source_path("games/espalier.cases");
  const auto trial = plant_faults(testing::game_path("espalier"), options, [&](std::size_t done) {
    if (done == 5) stopped.request_stop();
  });
  ASSERT_TRUE(trial.ok());
  EXPECT_EQ(trial->ending, Ending::stopped);
  EXPECT_EQ(trial->faults.size(), 5u);
}

// ---- The smallest description that still fails ----

TEST(Shrink, KeepsWhatFails) {
  const std::string small = shrink_text(
      "(#let n 7)\n; words\n(a (b 1) (c 2)) (d) (<= (e f) (g 1) (h 2) (or i j))",
      [](const std::string& text) {
        return text.find("(h 2)") != std::string::npos && text.find("#let n") != std::string::npos;
      });
  EXPECT_EQ(small, "(#let n 1)\n(<= (e f)\n    (h 2))\n");
}

TEST(Shrink, StopsWhenItIsTold) {
  int calls = 0;
  const std::string left = shrink_text(
      "(a) (b) (c) (d)", [&](const std::string&) { return ++calls > 0; },
      [&] { return calls < 1; });
  EXPECT_EQ(calls, 1);
  EXPECT_NE(left, "");
}

TEST(Shrink, TheSameFaultIsLeftInEveryFaultyGame) {
  for (const char* name :
       {"misspelled_content", "vanishing_square", "misspelled_fluent", "end_without_a_value"}) {
    SCOPED_TRACE(name);
    const std::string path = testing::source_path(std::string("games/faulty/") + name + ".gdl");
    ShrinkOptions options;
    options.budget.positions = 3000;
    const auto small = shrink_rules(path, options);
    ASSERT_TRUE(small.ok()) << small.diagnostics().render();
    EXPECT_EQ(small->ending, Ending::complete);
    EXPECT_LE(small->forms, small->forms_before);
    EXPECT_GT(small->forms, 0u);
    // What is left fails in the same way, and can be shrunk no further.
    const TemporaryFolder folder;
    options.fault = small->fault;
    const auto again = shrink_rules(folder.write("small.gdl", small->text), options);
    ASSERT_TRUE(again.ok()) << again.diagnostics().render() << small->text;
    EXPECT_EQ(again->forms, small->forms) << small->text;
  }
}

TEST(Shrink, WhatDoesNotFailIsTold) {
  ShrinkOptions options;
  options.fault = "moves";
  const auto refused = shrink_rules(testing::game_path("snails"), options);
  ASSERT_FALSE(refused.ok());
  EXPECT_THAT(refused.diagnostics().render(), HasSubstr("moves does not fail here"));
}

// ---- Repairs ----

constexpr std::string_view pots_cases = R"(
(case "a filled pot stays filled" (start) (moves (ann (fill 1)))
  (expect (true (pot 1 ann)) (true (pot 2 bare)) (true (turn ben)))
  (legal-moves ben (fill 2)) (legal-moves ann wait))
(case "who fills the last pot wins" (start) (moves (ann (fill 1)) (ben (fill 2)))
  (expect terminal (goal ben 100) (goal ann 0) (not (goal ben 0)) (not (goal ann 100)))))";

TEST(Mend, TheRuleAsItWasIsAmongTheFirst) {
  const TemporaryFolder folder;
  const std::string right(pots);
  const std::string cases = folder.write("pots.cases", pots_cases);
  const syntax::Source source("pots", right);
  std::size_t caught = 0;
  std::size_t first_three = 0;
  for (const faults::Edit& edit : faults::edits_of(source)) {
    const std::string wrong = faults::edited(right, edit);
    const auto game = Game::from_text(wrong);
    if (!game) continue;
    const auto results = run_cases(*game, cases);
    if (!results || std::ranges::all_of(*results, &CaseResult::passed)) continue;
    ++caught;
    MendOptions options;
    options.cases = cases;
    options.most = 3;
    const auto mended = mend_rules(folder.write("pots.gdl", wrong), options);
    ASSERT_TRUE(mended.ok()) << mended.diagnostics().render();
    for (const Repair& repair : mended->repairs) {
      const Game again = Game::from_text(repair.text).value();
      const auto passed = run_cases(again, cases).value();
      EXPECT_TRUE(std::ranges::all_of(passed, &CaseResult::passed)) << repair.text;
    }
    first_three += std::ranges::any_of(mended->repairs, [&](const Repair& repair) {
      CompareOptions comparing;
      return compare_games(Game::from_text(right).value(), Game::from_text(repair.text).value(),
                           comparing)
                 ->verdict == Comparison::Verdict::same;
    });
  }
  std::printf("%zu of %zu faults are mended by one of the first three repairs\n", first_three,
              caught);
  EXPECT_GT(caught, 30u);
  EXPECT_GT(first_three * 10, caught * 6);
}

TEST(Mend, NothingIsMendedWhereNothingFails) {
  MendOptions options;
  options.cases = testing::source_path("games/snails.cases");
  const auto refused = mend_rules(testing::game_path("snails"), options);
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(refused.diagnostics().items().front().code, "nothing-fails");
}

}  // namespace
}  // namespace orchard::faults_test
