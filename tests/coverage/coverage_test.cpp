// What cases show of the rules: what they do not show can be left out without any of them noticing.
#include "orchard/coverage.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "support/files.hpp"
#include "support/play.hpp"
#include "support/pots.hpp"

namespace orchard::coverage_test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using testing::pots;

const ClauseCoverage& at_line(const CaseCoverage& coverage, int line) {
  const auto found = std::ranges::find(
      coverage.clauses, line, [](const ClauseCoverage& clause) { return clause.place.line; });
  if (found == coverage.clauses.end()) throw std::logic_error("no clause begins there");
  return *found;
}

CaseCoverage covered(const Game& game, std::string_view cases) {
  return case_coverage_of_text(game, std::string(cases)).value();
}

TEST(Coverage, OneLookAtTheStartShowsLittle) {
  const Game game = Game::from_text(std::string(pots)).value();
  const CaseCoverage shown = covered(game, R"((case "start" (start) (expect (not terminal))))");
  EXPECT_EQ(shown.positions, 1u);
  EXPECT_EQ(shown.ending, Ending::complete);
  EXPECT_EQ(shown.played, 5u);
  // Facts are no clauses that a case could show.
  EXPECT_EQ(shown.clauses.size(), 10u);
  const ClauseCoverage& legal = at_line(shown, 8);
  EXPECT_EQ(legal.head, "(legal ?who (fill ?pot))");
  EXPECT_TRUE(legal.by_cases);
  ASSERT_EQ(legal.conditions.size(), 2u);
  EXPECT_EQ(legal.conditions[0].text, "(true (turn ?who))");
  EXPECT_EQ(legal.conditions[0].place.line, 9);
  EXPECT_TRUE(legal.conditions[0].by_cases);   // ben may not fill a bare pot
  EXPECT_FALSE(legal.conditions[1].by_cases);  // no pot is filled
  EXPECT_TRUE(legal.conditions[1].in_play);
  // No move is made.
  EXPECT_FALSE(at_line(shown, 14).by_cases);
  EXPECT_TRUE(at_line(shown, 14).in_play);
  EXPECT_FALSE(at_line(shown, 26).by_cases);
  EXPECT_EQ(shown.clauses_in_play(), 10u);
  EXPECT_EQ(shown.clauses_by_cases(), 6u);  // with whose turn it is next
}

TEST(Coverage, TheCasesThatAreMissingShowWhatIsMissing) {
  const Game game = Game::from_text(std::string(pots)).value();
  std::string cases = R"((case "start" (start) (expect (not terminal))))";
  const CaseCoverage before = covered(game, cases);
  ASSERT_FALSE(before.missing.empty());
  for (const MissingCase& missing : before.missing) cases += "\n" + missing.text;
  const auto results = run_cases_of_text(game, cases).value();
  for (const CaseResult& result : results) EXPECT_TRUE(result.passed()) << result.name;
  const CaseCoverage after = covered(game, cases);
  EXPECT_EQ(after.clauses_by_cases(), after.clauses_in_play());
  EXPECT_EQ(after.conditions_by_cases(), after.conditions_in_play());
  EXPECT_TRUE(after.missing.empty());
  EXPECT_LT(before.conditions_by_cases(), after.conditions_by_cases());
}

TEST(Coverage, AMoveCountsWhereItIsMade) {
  const Game game = Game::from_text(std::string(pots)).value();
  const CaseCoverage shown =
      covered(game, R"((case "one" (start) (moves (ann (fill 1))) (expect (true (pot 1 ann)))))");
  EXPECT_TRUE(at_line(shown, 14).by_cases);
  EXPECT_TRUE(at_line(shown, 16).by_cases);  // the other pot stays
  const ClauseCoverage& stays = at_line(shown, 16);
  const auto not_filled = std::ranges::find(stays.conditions, std::string("(not (filled ?pot))"),
                                            &ConditionCoverage::text);
  ASSERT_NE(not_filled, stays.conditions.end());
  EXPECT_TRUE(not_filled->by_cases);
  EXPECT_FALSE(at_line(shown, 26).by_cases);
}

TEST(Coverage, PositionsUnlikePlayAreCounted) {
  const Game game = Game::from_text(std::string(pots)).value();
  const CaseCoverage shown =
      covered(game, R"((case "empty" (position (turn ann)) (expect terminal)))");
  EXPECT_EQ(shown.positions, 1u);
  EXPECT_EQ(shown.unlike_play, 0u);
  EXPECT_TRUE(at_line(shown, 26).by_cases);
}

// Leaves out what a place covers.
std::string without(std::string text, const Place& place, std::size_t length) {
  std::size_t at = 0;
  for (int line = 1; line < place.line; ++line) at = text.find('\n', at) + 1;
  at += static_cast<std::size_t>(place.column - 1);
  return text.erase(at, length);
}

std::size_t length_at(const std::string& text, const Place& place) {
  std::size_t at = 0;
  for (int line = 1; line < place.line; ++line) at = text.find('\n', at) + 1;
  at += static_cast<std::size_t>(place.column - 1);
  std::size_t end = at;
  for (int depth = 0; end < text.size(); ++end) {
    if (text[end] == ';') end = text.find('\n', end);
    depth += text[end] == '(' ? 1 : text[end] == ')' ? -1 : 0;
    if (depth == 0) return end + 1 - at;
  }
  return 0;
}

// A condition that no case shows can be dropped, a clause that no case shows can be left out, and
// every case passes as before: so a case that is missing is missing indeed.
TEST(Coverage, NoCaseNoticesWhatNoneShows) {
  std::size_t dropped = 0;
  for (const char* name : {"espalier", "silo", "pickers", "channel", "cellar", "barrow_lane"}) {
    SCOPED_TRACE(name);
    const std::string path = testing::game_path(name);
    const std::string text = testing::read_file(path);
    const std::string cases =
        testing::read_file(testing::source_path(std::string("games/") + name + ".cases"));
    const Game game = Game::load(path).value();
    CoverageOptions options;
    options.most_missing = 0;
    options.budget.positions = 20'000;
    const CaseCoverage shown = case_coverage_of_text(game, cases, options).value();
    EXPECT_TRUE(shown.missing.empty());
    const auto check = [&](const Place& place) {
      if (place.file != path) return;
      const std::size_t length = length_at(text, place);
      const auto edited = Game::from_text(without(text, place, length), path);
      if (!edited) return;  // a variable of it stands alone then
      ++dropped;
      const auto results = run_cases_of_text(*edited, cases).value();
      for (const CaseResult& result : results) {
        EXPECT_TRUE(result.passed()) << place.line << ": " << result.name;
      }
    };
    for (const ClauseCoverage& clause : shown.clauses) {
      const auto same_place = [&](const ClauseCoverage& other) {
        return other.place.line == clause.place.line && other.by_cases;
      };
      // A rule with several ways to hold is left out only as a whole.
      if (!std::ranges::any_of(shown.clauses, same_place)) check(clause.place);
      for (const ConditionCoverage& condition : clause.conditions) {
        if (!condition.by_cases && !condition.text.starts_with("(not ")) check(condition.place);
      }
    }
  }
  EXPECT_GT(dropped, 3u);
}

TEST(Coverage, WithoutACircuitTheReasonIsTold) {
  const Game game = Game::from_text(R"((role ann) (init (done nothing))
      (<= (legal ann (add ?letter)) (letter ?letter)) (letter a) (letter b)
      (<= (next (done (so ?letter ?before))) (does ann (add ?letter)) (true (done ?before)))
      (<= terminal (true (done (so a (so b (so b ?_rest))))))
      (goal ann 50))")
                        .value();
  const auto shown =
      case_coverage_of_text(game, R"((case "start" (start) (expect (not terminal))))");
  ASSERT_FALSE(shown.ok());
  EXPECT_TRUE(shown.diagnostics().only_limits());
  const auto no_cases = case_coverage_of_text(Game::from_text(std::string(pots)).value(), "");
  ASSERT_FALSE(no_cases.ok());
  EXPECT_THAT(no_cases.diagnostics().render(), HasSubstr("no-case"));
}

}  // namespace
}  // namespace orchard::coverage_test
