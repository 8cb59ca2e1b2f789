// Exact texts: what is wrong, where, and what to do about it.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "rules/description.hpp"

namespace orchard::rules::diagnostics_test {
namespace {

// A finished description around the rules under test, so that only their own faults show.
const char* const frame =
    "(role east) (init (a 1)) (legal east go) (<= (next (a 2)) (does east go))\n"
    "(<= terminal (true (a 2))) (goal east 100) (number 1) (follows 1 2)\n";

std::string faults_of(const std::string& rules, const std::string& before = frame) {
  Diagnostics diagnostics;
  const char* const helpers = "\n; orchard: allow unused-relation\n";
  Description::build(syntax::Source("pear.gdl", before + rules + helpers), {}, diagnostics);
  return diagnostics.render();
}

struct Fault {
  const char* name;
  const char* rules;  // stand from line 3 on
  const char* text;
};

void PrintTo(const Fault& fault, std::ostream* stream) {
  *stream << fault.name;
}

class EveryFault : public ::testing::TestWithParam<Fault> {};

TEST_P(EveryFault, HasItsExactText) {
  EXPECT_EQ(faults_of(GetParam().rules), GetParam().text);
}

const Fault all_faults[] = {
    {"UnsafeHead", "(<= (next (a ?x ?y)) (true (a ?y)))",
     "pear.gdl:3:14: error: ?x is used in the head, but in no positive condition [unsafe-variable]\n"
     "   (<= (next (a ?x ?y)) (true (a ?y)))\n"
     "                ^~\n"
     "   remedy: add a condition that says which values ?x can take\n"},
    {"UnsafeNegation", "(<= (next (a 3)) (number ?n) (not (true (a ?m))))",
     "pear.gdl:3:44: error: ?m is used in a negation, but in no positive condition "
     "[unsafe-variable]\n"
     "   (<= (next (a 3)) (number ?n) (not (true (a ?m))))\n"
     "                                              ^~\n"
     "   remedy: add a condition that says which values ?m can take\n"},
    {"UnsafeComparison", "(<= (next (a 3)) (distinct ?m 1))",
     "pear.gdl:3:28: error: ?m is used in a comparison, but in no positive condition "
     "[unsafe-variable]\n"
     "   (<= (next (a 3)) (distinct ?m 1))\n"
     "                              ^~\n"
     "   remedy: add a condition that says which values ?m can take\n"},
    {"UnsafeInOneBranch", "(<= (next (a ?x)) (or (number ?x) (follows 1 ?y)))",
     "pear.gdl:3:14: error: ?x is used in the head, but in no positive condition [unsafe-variable]\n"
     "   (<= (next (a ?x)) (or (number ?x) (follows 1 ?y)))\n"
     "                ^~\n"
     "   remedy: add a condition that says which values ?x can take\n"},
    {"NegationThroughItself",
     "(<= (ripe ?x) (number ?x) (not (sour ?x)))\n"
     "(<= (sour ?x) (number ?x) (ripe ?x))",
     "pear.gdl:3:32: error: `ripe` depends on its own negation [unstratified-negation]\n"
     "   (<= (ripe ?x) (number ?x) (not (sour ?x)))\n"
     "                                  ^~~~~~~~~\n"
     "   pear.gdl:3:32: ripe depends on not sour\n"
     "   (<= (ripe ?x) (number ?x) (not (sour ?x)))\n"
     "                                  ^~~~~~~~~\n"
     "   pear.gdl:4:27: sour depends on ripe\n"
     "   (<= (sour ?x) (number ?x) (ripe ?x))\n"
     "                             ^~~~~~~~~\n"
     "   remedy: break the cycle: define one of these relations without the other\n"},
    {"KeywordArity", "(<= (legal east) (true (a 1)))",
     "pear.gdl:3:5: error: `legal` takes 2 arguments, here is 1 [keyword-arity]\n"
     "   (<= (legal east) (true (a 1)))\n"
     "       ^~~~~~~~~~~~\n"
     "   remedy: write (legal ROLE MOVE)\n"},
    {"DistinctArity", "(<= (p ?x) (number ?x) (distinct ?x))",
     "pear.gdl:3:24: error: `distinct` takes 2 terms, here is 1 [keyword-arity]\n"
     "   (<= (p ?x) (number ?x) (distinct ?x))\n"
     "                          ^~~~~~~~~~~~~\n"
     "   remedy: write (distinct TERM TERM)\n"},
    {"NotArity", "(<= (p 1) (not (number 1) (number 2)))",
     "pear.gdl:3:11: error: `not` takes one condition, here are 2 [keyword-arity]\n"
     "   (<= (p 1) (not (number 1) (number 2)))\n"
     "             ^~~~~~~~~~~~~~~~~~~~~~~~~~~\n"
     "   remedy: write (not (and …)) or one `not` for each\n"},
    {"ConcludedTrue", "(<= (true (a 1)) (number 1))",
     "pear.gdl:3:5: error: `true` cannot be concluded [keyword-place]\n"
     "   (<= (true (a 1)) (number 1))\n"
     "       ^~~~~~~~~~~~\n"
     "   remedy: use `init` for the start and `next` for what a move changes\n"},
    {"NextAsCondition", "(<= (p 1) (next (a 1)))",
     "pear.gdl:3:11: error: `next` cannot be a condition [keyword-place]\n"
     "   (<= (p 1) (next (a 1)))\n"
     "             ^~~~~~~~~~~~\n"
     "   remedy: use `true` for what holds in the position\n"},
    {"ConnectiveAsHead", "(<= (or (p 1)) (number 1))",
     "pear.gdl:3:5: error: `or` cannot stand here [keyword-place]\n"
     "   (<= (or (p 1)) (number 1))\n"
     "       ^~~~~~~~~~\n"
     "   remedy: a rule's head is one atom; write (<= HEAD CONDITION…)\n"},
    {"StraySymbol", "orchard",
     "pear.gdl:3:1: error: orchard stands alone between the rules [stray-symbol]\n"
     "   orchard\n"
     "   ^~~~~~~\n"
     "   remedy: put it inside a rule, or write (orchard) if it is a fact\n"},
    {"RoleByRule", "(<= (role ?x) (number ?x))",
     "pear.gdl:3:5: error: `role` takes facts without variables only [role-not-a-fact]\n"
     "   (<= (role ?x) (number ?x))\n"
     "       ^~~~~~~~~\n"
     "   remedy: write one (role NAME) for each role\n"},
    {"VariableAsRelation", "(<= (p ?x) (number ?x) (?r ?x))",
     "pear.gdl:3:24: error: a variable cannot stand for a relation [not-a-condition]\n"
     "   (<= (p ?x) (number ?x) (?r ?x))\n"
     "                          ^~~~~~~\n"
     "   remedy: begin with the name of a relation\n"},
    {"NoTerm", "(<= (p 1) (number ((f) x)))",
     "pear.gdl:3:19: error: a term begins with a name [not-a-term]\n"
     "   (<= (p 1) (number ((f) x)))\n"
     "                     ^~~~~~~\n"
     "   remedy: write a name, or a list that begins with one: (place 1 2)\n"},
    {"GoalOnMoves", "(<= (goal east 50) (moved east))\n(<= (moved ?r) (does ?r go))",
     "pear.gdl:3:20: error: `goal` must not depend on `does` [depends-on-move]\n"
     "   (<= (goal east 50) (moved east))\n"
     "                      ^~~~~~~~~~~~\n"
     "   pear.gdl:3:20: goal depends on moved\n"
     "   (<= (goal east 50) (moved east))\n"
     "                      ^~~~~~~~~~~~\n"
     "   pear.gdl:4:16: moved depends on does\n"
     "   (<= (moved ?r) (does ?r go))\n"
     "                  ^~~~~~~~~~~~\n"
     "   remedy: what a move changes belongs in `next`\n"},
    {"InitOnPosition", "(<= (init (b 1)) (true (a 1)))",
     "pear.gdl:3:18: error: `init` must not depend on `true` [depends-on-position]\n"
     "   (<= (init (b 1)) (true (a 1)))\n"
     "                    ^~~~~~~~~~~~\n"
     "   remedy: use relations that are the same in every position\n"},
    {"GrowsWithoutEnd", "(<= (number (s ?x)) (number ?x))",
     "pear.gdl:3:29: error: `number` could grow without end through this argument "
     "[unbounded-recursion]\n"
     "   (<= (number (s ?x)) (number ?x))\n"
     "                               ^~\n"
     "   remedy: bound it with a condition on a relation outside of the cycle, such as "
     "(number ?x)\n"},
    {"TwoArities", "(number 1 2)",
     "pear.gdl:3:1: error: `number` has 2 arguments here and 1 elsewhere [relation-arity]\n"
     "   (number 1 2)\n"
     "   ^~~~~~~~~~~~\n"
     "   pear.gdl:2:44: first used here\n"
     "   (<= terminal (true (a 2))) (goal east 100) (number 1) (follows 1 2)\n"
     "                                              ^~~~~~~~~~\n"
     "   remedy: a relation keeps one number of arguments; rename one of the two\n"},
    {"UndefinedRelation", "(<= (p ?x) (number ?x) (not (nubmer ?x)))",
     "pear.gdl:3:29: suspicious: `nubmer` is never concluded, so it never holds "
     "[undefined-relation]\n"
     "   (<= (p ?x) (number ?x) (not (nubmer ?x)))\n"
     "                               ^~~~~~~~~~~\n"
     "   remedy: did you mean `number`?\n"},
    {"RuleInRule", "(<= (p 1) (<= (p 2) (number 2)))",
     "pear.gdl:3:11: error: a rule cannot stand inside a rule [rule-in-rule]\n"
     "   (<= (p 1) (<= (p 2) (number 2)))\n"
     "             ^~~~~~~~~~~~~~~~~~~~~\n"
     "   remedy: close the rule before this one\n"},
};

INSTANTIATE_TEST_SUITE_P(Rules, EveryFault, ::testing::ValuesIn(all_faults),
                         [](const auto& fault) { return std::string(fault.param.name); });

TEST(Rules, FrameOfTheTestsHasNoFault) {
  EXPECT_EQ(faults_of(""), "");
}

TEST(Rules, ReportsManyFaultsInTheOrderOfTheText) {
  const std::string text =
      faults_of("(<= (p ?x) (number 1))\n(legal east)\nplum\n(<= (next (a ?z)))");
  std::vector<std::size_t> at;
  for (const char* code : {"unsafe-variable", "keyword-arity", "stray-symbol"}) {
    at.push_back(text.find(code));
    EXPECT_NE(at.back(), std::string::npos) << text;
  }
  EXPECT_TRUE(std::ranges::is_sorted(at));
  EXPECT_NE(text.find("pear.gdl:6:14"), std::string::npos) << text;
}

TEST(Rules, AcceptsWhatTheLanguageAllows) {
  for (const char* rules : {
           "(<= (p) (or))",                           // false
           "(<= (p) (and)) (<= q p (r)) (<= r (p))",  // true; with and without ()
           "(<= (p ?x) (number ?x) (not (or (distinct ?x 1) (not (follows ?x 2)))))",
           "(follows 2 3) (<= (path ?x ?y) (follows ?x ?y)) (<= (path ?x ?z) (path ?x ?y) (path ?y "
           "?z))",
           "(<= (up (s ?x)) (number ?x) (up ?x)) (up 1)",  // bounded from outside
           "(base (a 1)) (input east go)", "(<= (next (a ?x)) (true (a ?x)) (distinct ?x (f ?x)))",
           "(<= next_one (true (a 1)))",
           "(go go) (<= (p ?x) (go ?x))",  // one name, two uses
       }) {
    EXPECT_EQ(faults_of(rules), "") << rules;
  }
}

TEST(Rules, TellsAnUnfinishedDescription) {
  const std::string text = faults_of("(role east)", "");
  for (const char* code : {"no-init", "no-legal", "no-next", "no-terminal", "no-goal"}) {
    EXPECT_NE(text.find(code), std::string::npos) << text;
  }
  EXPECT_EQ(text.find("error"), std::string::npos) << text;
}

TEST(Rules, NeedsARole) {
  EXPECT_THAT(faults_of("(init a)", ""),
              ::testing::HasSubstr("error: the description names no role"));
  EXPECT_THAT(faults_of("", ""), ::testing::HasSubstr("no-role"));
}

// Each with an error that says what the text is, and nothing of what a description would lack.
TEST(Rules, TellsOtherTextsOfAGameFromItsDescription) {
  const std::pair<const char*, const char*> texts[] = {
      {"(case \"a plum falls\" (moves (shake)) (expect terminal))", "these are cases"},
      {"(init a)\n(claim \"it ends\" (eventually terminal))", "these are claims"},
      {"(draw (rows upwards))", "these are drawing rules"},
      {"(<= (draw (square ?x 1)) (column ?x))", "these are drawing rules"},
  };
  for (const auto& [text, words] : texts) {
    const std::string faults = faults_of(text, "");
    EXPECT_THAT(faults, ::testing::HasSubstr(words));
    EXPECT_THAT(faults, ::testing::HasSubstr("[not-a-description]"));
    EXPECT_EQ(faults.find("error:"), faults.rfind("error:")) << faults;
    EXPECT_EQ(faults_of(std::string("(role east) ") + text, "").find("not-a-description"),
              std::string::npos);
  }
  EXPECT_THAT(faults_of("(case 1)", ""), ::testing::HasSubstr("[no-role]"));
  for (const char* cut_off : {"(<= ())", "(<=)", "(<= (draw))", "(case)", "(claim ())", "()"}) {
    EXPECT_EQ(faults_of(cut_off, "").find("[not-a-description]"), std::string::npos);
  }
}

// 2^20 clauses would come of this; a tame number of alternatives is no fault.
TEST(Rules, BoundsWhatOneRuleMayBecome) {
  std::string wide = "(<= (p)";
  for (int i = 0; i < 20; ++i) wide += " (or (number 1) (number 2))";
  EXPECT_THAT(faults_of(wide + ")"), ::testing::HasSubstr("too-many-alternatives"));
  std::string tame = "(<= (p)";
  for (int i = 0; i < 8; ++i) tame += " (or (number 1) (not (follows 1 2)))";
  EXPECT_EQ(faults_of(tame + ")"), "");
}

TEST(Rules, ReadsConditionsNestedVeryDeep) {
  std::string deep = "(<= (p)";
  for (int i = 0; i < 9'000; ++i) deep += " (not";
  deep += " (number 1)" + std::string(9'000, ')') + ")";
  EXPECT_EQ(faults_of(deep), "");
}

TEST(Rules, TakesRolesInTheirOrderOnce) {
  Diagnostics diagnostics;
  const auto description = Description::build(
      syntax::Source("", "(role west) (role (gardener 2)) (role west) (role east)"), {},
      diagnostics);
  ASSERT_NE(description, nullptr) << diagnostics.render();
  std::string text;
  for (const TermId role : description->roles()) text += description->terms().text(role) + " ";
  EXPECT_EQ(text, "west (gardener 2) east ");
}

}  // namespace
}  // namespace orchard::rules::diagnostics_test
