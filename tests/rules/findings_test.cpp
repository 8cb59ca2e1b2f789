#include "rules/findings.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "rules/domains.hpp"
#include "support/files.hpp"

namespace orchard::rules::findings_test {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

// A finished description; what is found in it is nothing.
const char* const frame =
    "(role east) (role west) (row 1) (row 2) (<= (init (bed ?row bare)) (row ?row)) (init (turn "
    "east))\n"
    "(<= (legal ?who (sow ?row)) (true (turn ?who)) (true (bed ?row bare)))\n"
    "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
    "(<= (next (bed ?row sown)) (does ?who (sow ?row)))\n"
    "(<= (next (bed ?row ?what)) (true (bed ?row ?what)) (not (sown_now ?row)))\n"
    "(<= (sown_now ?row) (does ?who (sow ?row)))\n"
    "(<= (next (turn west)) (true (turn east))) (<= (next (turn east)) (true (turn west)))\n"
    "(<= any_bare (true (bed ?row bare))) (<= terminal (not any_bare))\n"
    "(<= (goal ?who 50) (role ?who))\n";

// The rules that tests add conclude helpers that nobody asks for.
const char* const helpers_may_be_unused = "\n; orchard: allow unused-relation\n";

Diagnostics findings_in(const std::string& rules) {
  Diagnostics diagnostics;
  Description::build(syntax::Source("pea.gdl", rules), {}, diagnostics);
  return diagnostics;
}

std::string found(const std::string& added) {
  return findings_in(frame + added + helpers_may_be_unused).render();
}

TEST(Findings, FrameOfTheTestsHasNone) {
  EXPECT_EQ(found(""), "");
}

// One finding a slip: neither the relation that was meant nor what follows is told, too.
TEST(Findings, WhatFollowsFromAnUndefinedRelationIsNotTold) {
  const std::string rules =
      "(role east) (role west) (after east west) (after west east) (basket left) (basket right)\n"
      "(init (turn east))\n"
      "(<= (legal ?who (pick ?b)) (true (turn ?who)) (baskett ?b))\n"
      "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
      "(<= (next (turn ?next)) (true (turn ?who)) (after ?who ?next))\n"
      "(<= (next (picked ?b)) (does ?_who (pick ?b))) (<= (next (picked ?b)) (true (picked ?b)))\n"
      "(<= terminal (true (picked left)) (true (picked right))) (<= (goal ?who 50) (role ?who))\n";
  const Diagnostics diagnostics = findings_in(rules);
  ASSERT_EQ(diagnostics.items().size(), 1u) << diagnostics.render();
  EXPECT_EQ(diagnostics.items().front().code, "undefined-relation");
  ASSERT_TRUE(diagnostics.items().front().correction);
  EXPECT_EQ(diagnostics.items().front().correction->written, "baskett");
  EXPECT_EQ(diagnostics.items().front().correction->instead, "basket");
}

TEST(Findings, NameThatNeverStandsThere) {
  EXPECT_EQ(found("(<= (ripe ?row) (true (bed ?row sonw)))"),
            "pea.gdl:10:33: suspicious: `sonw` never stands here, so this condition never holds "
            "[impossible-condition]\n"
            "   (<= (ripe ?row) (true (bed ?row sonw)))\n"
            "                                   ^~~~\n"
            "   remedy: did you mean `sown`?\n");
  EXPECT_THAT(found("(<= (ripe ?row) (true (bedd ?row sown)))"), HasSubstr("did you mean `bed`?"));
  EXPECT_THAT(found("(<= (p ?row) (does ?who (sow ?row soon)))"),
              HasSubstr("`sow` has 2 arguments here and 1 in line 2 [function-arity]"));
  EXPECT_THAT(found("(<= (p) (row 3))"), HasSubstr("what can stand here: 1, 2"));
}

// A phase that is called like its moves is no slip; a fluent without its argument is.
TEST(Findings, AConstantNamedLikeAFunctionElsewhere) {
  EXPECT_EQ(found("(<= (now sow) (true (bed ?row sown)))"), "");
  EXPECT_EQ(found("(<= (now bed) (row ?row))"), "");
  EXPECT_THAT(found("(<= (p) (true bed))"), HasSubstr("`bed` has 0 arguments here and 2 in line"));
  EXPECT_THAT(found("(<= (p ?w) (does ?w sow))"), HasSubstr("`sow` has 0 arguments here and 1 in"));
  EXPECT_THAT(found("(<= (p (bed ?row)) (row ?row))"),
              HasSubstr("`bed` has 1 argument here and 2"));
}

// A row of follow-ups by (+ ?n 1): told once, and not what comes of it; as are terms in rules.
TEST(Findings, TermsThatWereMeantAsNumbers) {
  const std::string text = found(
      "(#for ?n 0 3 (after ?n (+ ?n 1)))\n(<= (late) (true (turn ?who)) (after 3 4))\n"
      "(<= (late) (after ?x (- ?y 1)) (row ?x) (row ?y))");
  EXPECT_THAT(text, HasSubstr("pea.gdl:10:25: suspicious: (+ …) is a term here"));
  EXPECT_THAT(text, HasSubstr("by (#+ …)"));
  EXPECT_THAT(text, HasSubstr("pea.gdl:12:23: suspicious: (- …) is a term here"));
  std::size_t count = 0;
  for (std::size_t at = 0; (at = text.find("suspicious", at)) != std::string::npos; ++at) ++count;
  EXPECT_EQ(count, 2u) << text;
  // Where terms are what is wanted, the rest is told.
  const std::string wanted = found(
      "(<= (late) (row (+ 1 1)))\n(<= (late) (true (bed 1 sonw)))\n"
      "; orchard: allow arithmetic-term");
  EXPECT_THAT(wanted, ::testing::Not(HasSubstr("[arithmetic-term]")));
  EXPECT_THAT(wanted, HasSubstr("did you mean `sown`?"));
  EXPECT_THAT(found("(#for ?n 0 (- 4 1) (after ?n))"),
              HasSubstr("arithmetic has a # in front: write (#- …)"));
}

TEST(Findings, RootsOnlyNotWhatFollows) {
  const std::string text =
      found("(<= (p ?row) (true (bed ?row sonw)))\n(<= (q ?row) (p ?row) (row ?row))");
  EXPECT_THAT(text, HasSubstr("pea.gdl:10:"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("pea.gdl:11:")));
}

TEST(Findings, PlacesThatShareNoValue) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (role ?x))"),
              HasSubstr("nothing can be ?x both here and before [disjoint-places]"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (role ?x))"), HasSubstr("here: east, west; before: 1, 2"));
}

TEST(Findings, UndefinedRelationWithWhatWasMeant) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (not (sown_nwo ?x)))"),
              HasSubstr("did you mean `sown_now`?"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (treu (bed ?x bare)))"),
              HasSubstr("did you mean `true`?"));
}

TEST(Findings, FluentThatNobodyReads) {
  EXPECT_THAT(found("(<= (next (bell ?row)) (does ?who (sow ?row)))"),
              HasSubstr("no condition ever looks at (bell …) [unread-fluent]"));
  EXPECT_EQ(found("(<= (next (bell ?row)) (does ?who (sow ?row))) (<= (p ?f) (true ?f))"), "");
}

TEST(Findings, RolesLeftOut) {
  const std::string text = findings_in(
                               "(role east) (role west) (role random) (init (a 1)) (legal east go)"
                               "(legal random go) (<= (next (a 1)) (true (a 1)) (does east go))"
                               "(<= terminal (not (true (a 1)))) (goal west 1)")
                               .render();
  EXPECT_THAT(text, HasSubstr("no move is ever legal for west [role-without-moves]"));
  EXPECT_THAT(text, HasSubstr("no value is ever given to east [role-without-goal]"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("to random")));  // chance needs no goal
}

TEST(Findings, SimilarVariables) {
  EXPECT_THAT(
      found("(<= (p ?column) (row ?colum) (row ?column))"),
      HasSubstr("pea.gdl:10:22: suspicious: ?colum is used once in this rule, beside ?column"));
  EXPECT_EQ(found("(<= (p ?row1) (row ?row1) (row ?row2))"), "");  // numbered on purpose
  EXPECT_EQ(found("(<= (p ?row) (row ?row) (row ?_row))"), "");    // once, and says so
}

// Where others are marked, one that is not stands out; where none is, nothing does.
TEST(Findings, VariablesUsedOnceAmongMarkedOnes) {
  std::string marked = frame;
  const auto mark = [&](const std::string& from, const std::string& to) {
    for (std::size_t at = marked.find(from); at != std::string::npos; at = marked.find(from)) {
      marked.replace(at, from.size(), to);
    }
  };
  mark("(does ?who", "(does ?_who");
  mark("any_bare (true (bed ?row", "any_bare (true (bed ?_row");
  marked += helpers_may_be_unused;
  marked += "(<= p (up ?_a ?_b)) (<= q (up ?_a ?_b)) (<= r (up ?_a ?_b)) (up 1 2)\n";
  const auto beside = [&](const std::string& rule) { return findings_in(marked + rule).render(); };
  EXPECT_EQ(beside(""), "");
  EXPECT_THAT(beside("(<= (t ?row) (row ?row) (up ?row ?next))"),
              HasSubstr("?next is used once in its rule; all others of that kind begin with ?_ "
                        "[lone-variable]"));
  EXPECT_THAT(beside("(<= (t ?row) (row ?row) (up ?row ?_n) (row ?_n))"),
              HasSubstr("?_n is used more than once in its rule"));
  EXPECT_EQ(found("(<= p (up ?a ?_b)) (<= (t ?row) (row ?row) (up ?row ?next)) (up 1 2)"), "");
}

TEST(Findings, RulesThatStandTwice) {
  EXPECT_THAT(found("(<= (sown_now ?r) (does ?w (sow ?r)))"),
              HasSubstr("this is already in line 6 [duplicate-rule]"));
}

TEST(Findings, DeclaredAgainstMade) {
  const std::string declared =
      "(<= (base (bed ?r bare)) (row ?r)) (<= (base (bed ?r sown)) (row ?r))";
  EXPECT_THAT(found(declared), HasSubstr("(turn …) is not declared by `base` [undeclared-fluent]"));
  EXPECT_THAT(
      found("(<= (input ?w (sow ?r)) (role ?w) (row ?r)) (input east wiat) (input west wait)"),
      HasSubstr("wiat is declared, but no rule makes it [unmade-move]"));
}

TEST(Findings, RulesThatSayLessThanOthers) {
  EXPECT_THAT(found("(<= (sown_now ?r) (does ?w (sow ?r)) (role ?w))"),
              HasSubstr("the rule in line 6 already covers this [subsumed-rule]"));
  EXPECT_THAT(found("(<= (sown_now 2) (does east (sow 2)))"), HasSubstr("[subsumed-rule]"));
  EXPECT_EQ(found("(<= (sown_now ?r) (row ?r) (not (role ?r)))"), "");
}

TEST(Findings, ConditionsThatRepeatOrContradict) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (row ?x))"), HasSubstr("[repeated-condition]"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (not (row ?x)))"),
              HasSubstr("this contradicts the condition in line 10"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (distinct ?x ?x))"),
              HasSubstr("a term never differs from itself [contradictory-conditions]"));
  EXPECT_EQ(found("(<= (p ?x) (row ?x) (distinct ?x (f ?x)))"), "");
}

TEST(Findings, AFluentOrMoveWithoutItsKeyword) {
  EXPECT_THAT(
      found("(<= (p ?row) (bed ?row sown))"),
      AllOf(HasSubstr("`bed` is a fluent, and no relation"), HasSubstr("write (true (bed …))")));
  EXPECT_THAT(found("(<= (p ?row) (row ?row) (sow ?row))"),
              AllOf(HasSubstr("`sow` is a move, and no relation"),
                    HasSubstr("write (does ?role (sow …))")));
}

TEST(Findings, AMisspelledFactOfATable) {
  EXPECT_THAT(findings_in(std::string(frame) + "(rwo 3)").render(),
              AllOf(HasSubstr("`rwo` is concluded here"), HasSubstr("did you mean `row`?")));
}

// A form that nothing asks for is no rule but a directive that there is not. One that is asked for
// is a relation, whatever its name.
TEST(Findings, DirectivesThatThereAreNot) {
  EXPECT_THAT(found("(#if size (row 3))"),
              AllOf(HasSubstr("error: there is no directive `#if` [bad-directive]"),
                    HasSubstr("makes its forms where size is 3 or more")));
  EXPECT_THAT(found("(#def (twice ?x) (plus ?x ?x))"),
              AllOf(HasSubstr("there is no directive `#def`"), HasSubstr("(#let NAME NUMBER)"),
                    Not(HasSubstr("unsafe-variable"))));
  EXPECT_THAT(found("(<= (p) (row (#power 2 3)))"), HasSubstr("there is no directive `#power`"));
  EXPECT_EQ(found("(#private 1) (<= (p ?x) (#private ?x))"), "");
}

TEST(Findings, NegationsOfWhatNeverHolds) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (not (true (bed ?x sonw))))"),
              HasSubstr("`sonw` never stands here, so this negation always holds"));
}

TEST(Findings, HelpersThatNobodyAsksFor) {
  EXPECT_THAT(findings_in(std::string(frame) + "(<= (ripe ?x) (true (bed ?x sown)))").render(),
              HasSubstr("pea.gdl:10:5: suspicious: `ripe` is concluded here, but no rule asks for "
                        "it [unused-relation]"));
  EXPECT_EQ(findings_in(std::string(frame) + "(below 1 2)").render(),
            "");  // an order, for drawings
}

// What was meant, in one finding at the right place, and nothing of what follows from it.
TEST(Findings, MisspelledKeywordsInHeads) {
  const auto with = [](const std::string& word, const std::string& typed) {
    std::string rules = frame;
    for (std::size_t at = 0; (at = rules.find("(" + word, at)) != std::string::npos; ++at) {
      rules.replace(at + 1, word.size(), typed);
    }
    return findings_in(rules);
  };
  for (const auto& [word, typed] : {std::pair("next", "nxt"), std::pair("goal", "gaol"),
                                    std::pair("legal", "leagl"), std::pair("init", "inti")}) {
    const Diagnostics found = with(word, typed);
    ASSERT_EQ(found.items().size(), 1u) << found.render();
    EXPECT_THAT(found.render(), HasSubstr("[misspelled-keyword]"));
    EXPECT_THAT(found.render(), HasSubstr("did you mean `" + std::string(word) + "`?"));
  }
  // A relation of one's own that is used is one's own.
  EXPECT_EQ(found("(nest 1) (<= (ripe ?x) (nest ?x) (row ?x))"), "");
}

TEST(Findings, ArrowsAndComparisonsOfOtherLanguages) {
  EXPECT_THAT(found("(=> (ripe ?x) (row ?x))"), HasSubstr("`=>` does not make a rule"));
  EXPECT_THAT(found("(<= (ripe ?x) (row ?x) (>= ?x 2))"),
              HasSubstr("the language has no comparison `>=`"));
  EXPECT_THAT(found("(<= (ripe ?x) (row ?x) (row ?y) (!= ?x ?y))"),
              HasSubstr("remedy: write (distinct A B)"));
}

TEST(Findings, OrdersWithAGap) {
  EXPECT_EQ(found("(up 1 2) (up 2 3) (up 3 4)"), "");
  EXPECT_EQ(found("(up 1 2) (up 2 3) (up 3 1)"), "");  // a ring
  EXPECT_THAT(found("(up 1 2) (up 2 4) (up 3 4) (up 4 5)"),
              HasSubstr("`up` goes from 2 to 4 here, and by 1 everywhere else [broken-order]"));
  EXPECT_THAT(found("(up 1 2) (up 2 3) (up 4 5) (up 5 6)"),
              HasSubstr("`up` is said of 2 and of 4, and of nothing between"));
  EXPECT_THAT(found("(down 9 8) (down 8 7) (down 5 4) (down 6 5)"),
              HasSubstr("said of 6 and of 8"));
  // Columns of a board whose places are numbered row by row: four chains within one another.
  EXPECT_EQ(found("(under 1 5) (under 2 6) (under 3 7) (under 4 8) (under 5 9) (under 6 10)"), "");
  EXPECT_THAT(found("(under 1 3) (under 2 4) (under 3 5) (under 4 6) (under 7 9) (under 6 8)"),
              HasSubstr("said of 3 and of 7, and of nothing between"));
}

TEST(Findings, PlacesNumberedByRowsAreNoBrokenOrder) {
  // Rows of three, as tens and ones; the last of a row has nothing to the right.
  const std::string rows =
      "(right 11 12) (right 12 13) (right 21 22) (right 22 23) (right 31 32) (right 32 33)\n"
      "(<= (beside ?a ?b) (right ?a ?b))";
  EXPECT_EQ(found(rows), "");
  // Two rows only; and rows so long that little is between them.
  EXPECT_EQ(found("(right 11 12) (right 12 13) (right 21 22) (right 22 23) (<= (beside ?a ?b) "
                  "(right ?a ?b))"),
            "");
  EXPECT_EQ(found("(right 1 2) (right 2 3) (right 5 6) (right 6 7) (right 9 10) (right 10 11)"
                  "(<= (beside ?a ?b) (right ?a ?b))"),
            "");
  // A fact that is missing within a row is told.
  EXPECT_THAT(
      found("(right 11 12) (right 12 13) (right 13 14) (right 14 15) (right 21 22) (right 22 23)"
            "(right 24 25) (right 25 26)\n"
            "(<= (beside ?a ?b) (right ?a ?b))"),
      HasSubstr("said of 22 and of 24, and of nothing between"));
}

TEST(Findings, ConstantsAmongThingsOfAnotherKind) {
  EXPECT_THAT(found("(size 1 big) (size 2 low) (size 3 low) (size big 4)"),
              HasSubstr("`big` stands at this argument among numbers only [odd-constant]"));
  EXPECT_EQ(found("(size 1 big) (size 2 low) (size 3 low)"), "");
  // The name of an end that another rule asks for.
  EXPECT_EQ(found("(dawn 1 2) (dawn 2 3) (dawn 3 night) (<= over (up ?d night)) "
                  "(<= (up ?d ?e) (dawn ?d ?e))"),
            "");
}

TEST(Findings, NamesThatStandOnceAndAreNearlyAnother) {
  const std::string canals =
      "(canal west p1) (canal west p2) (canal p1 p2) (canal p2 east) (canal p1 east)\n"
      "(<= (joined ?a ?b) (canal ?a ?b)) (<= (joined ?a ?b) (canal ?b ?a))"
      "(<= (shore west) (joined west p1)) (<= (shore east) (joined p2 east))";
  EXPECT_EQ(found(canals), "");
  const auto with = [&](const std::string& from, const std::string& to) {
    std::string changed = canals;
    return found(changed.replace(changed.find(from), from.size(), to));
  };
  EXPECT_THAT(with("(canal west p1)", "(canal wst p1)"),
              HasSubstr("`wst` stands nowhere else [lonely-name]"));
  EXPECT_THAT(with("(canal west p1)", "(canal wst p1)"), HasSubstr("did you mean `west`?"));
  // Not near to it, or told apart by a number.
  EXPECT_EQ(with("(canal west p1)", "(canal north p1)"), "");
  EXPECT_EQ(with("(canal p1 p2)", "(canal p1 p3)"), "");
  // A name of something else, and one that a comparison speaks of.
  EXPECT_EQ(found(canals + " (crop wet) (<= (grows ?c) (crop ?c))"), "");
  EXPECT_EQ(found(canals + " (<= (far ?a) (joined ?a ?b) (distinct ?a wst) (distinct ?b wst))"),
            "");
}

TEST(Findings, FactsThatNoRuleCanUse) {
  const std::string start =
      "(role ada) (hole 1) (hole 2) (hole 3) (hole 4) (hole 5)\n"
      "(<= (init (in ?h bare)) (hole ?h)) (<= (legal ada (fill ?h)) (true (in ?h bare)))\n"
      "(<= (next (in ?h seed)) (does ada (fill ?h))) (<= (next (in ?h ?what)) (true (in ?h "
      "?what)))\n"
      "(<= terminal full) (<= (goal ada 100) full) (<= (goal ada 0) (not full))\n"
      "(<= full (three ?a ?b ?c) (true (in ?a seed)) (true (in ?b seed)) (true (in ?c seed)))\n"
      "(three 1 2 3) (three 2 3 4) (three 3 4 5) (three 1 3 5) ";
  EXPECT_EQ(found(start + "(three 2 4 5)"), "");
  const std::string told = found(start + "(three 0 1 2)");
  EXPECT_THAT(told, HasSubstr("no rule can use this fact: `0` never stands where they ask for "
                              "`three` [unusable-fact]"));
  EXPECT_THAT(told, HasSubstr("what can stand here: 1, 2, 3\n"));
  // A table that goes further than it is needed is none of that, nor is a chain.
  EXPECT_EQ(found(start + "(three 0 1 2) (three 0 0 0) (three 7 1 2)"), "");
  EXPECT_EQ(found(start + "(after 1 2) (after 2 3) (after 3 4) (after 4 5) (after 5 6)"
                          "(<= full (after ?a ?b) (true (in ?a seed)) (true (in ?b seed)))"),
            "");
  // A single fact that is spelled nearly like those of a table, though two arguments may draw an
  // order.
  const std::string canals =
      "(<= full (canal ?a ?b) (true (in ?a seed)) (true (in ?b seed)))"
      "(canal 1 2) (canal 2 3) (canal 3 4)";
  EXPECT_EQ(found(start + canals), "");
  EXPECT_THAT(findings_in(start + canals + "(canl 4 5)").render(),
              HasSubstr("`canl` is concluded here, but no rule asks for it [unused-relation]"));
}

// Rows and columns, and a rule that turns them round.
TEST(Findings, RulesThatTakeRowsForColumns) {
  const std::string board =
      "(role bee) (row 1) (row 2) (column 1) (column 2) (column 3)\n"
      "(<= (init (cell ?row ?column bare)) (row ?row) (column ?column))\n"
      "(<= (legal bee (dig ?row ?column)) (true (cell ?row ?column bare)))\n"
      "(<= (next (cell ?row ?column dug)) (does bee (dig ?row ?column)))\n"
      "(<= (next (cell ?row ?column ?what)) (true (cell ?row ?column ?what))\n"
      "    (not (dug_now ?row ?column)))\n"
      "(<= (dug_now ?row ?column) (does bee (dig ?row ?column)))\n"
      "(<= terminal (true (cell ?row ?column dug))) (goal bee 100)\n";
  EXPECT_EQ(findings_in(board).render(), "");
  std::string turned = board;
  turned.replace(turned.find("(true (cell ?row ?column bare)"), 30,
                 "(true (cell ?column ?row bare)");
  EXPECT_THAT(
      findings_in(turned).render(),
      HasSubstr("pea.gdl:3:48: suspicious: only this rule takes ?column for two sorts of things "
                "[mixed-sorts]"));
}

TEST(Findings, CommentsSilenceByCode) {
  const std::string slip = "(<= (p ?x) (row ?x) (role ?x))\n";
  EXPECT_EQ(found(slip + "; orchard: allow disjoint-places, unread-fluent"), "");
  EXPECT_NE(found(slip + "; orchard: allow unread-fluent"), "");
  EXPECT_THAT(allowed_codes("; orchard: allow a b\n(x) ; orchard: allow c,d\norchard: allow e\n"),
              ElementsAre("a", "b", "c", "d"));
}

TEST(Hints, AreNoFindings) {
  Diagnostics diagnostics;
  const auto description = Description::build(
      syntax::Source("pea.gdl",
                     "(role random) (init (a 1)) (legal random go) (<= (next (a 2)) (true "
                     "(a ?x)) (go ?_y)) (<= terminal (true (a 2))) (go 1)"),
      {}, diagnostics);
  Diagnostics hints;
  find_hints(*description, hints);
  std::string codes;
  for (const Diagnostic& hint : hints) {
    codes += hint.code + " ";
    EXPECT_EQ(hint.severity, Severity::hint);
  }
  EXPECT_EQ(codes, "chance-without-percepts name-in-two-uses variable-used-once ");
}

TEST(Findings, DemoGamesHaveNone) {
  for (const std::string& game : testing::all_demo_games()) {
    Diagnostics diagnostics;
    Description::build(syntax::Source::from_file(game).value(), {}, diagnostics);
    EXPECT_EQ(diagnostics.render(), "");
  }
}

std::vector<std::string> domain_of(const std::string& rules, Places::Owner owner, const char* name,
                                   std::uint32_t arity, std::uint32_t argument) {
  Diagnostics diagnostics;
  const auto description = Description::build(syntax::Source("", rules), {}, diagnostics);
  EXPECT_NE(description, nullptr) << diagnostics.render();
  const Domains domains(*description);
  const auto place =
      domains.places().find(owner, *description->terms().find_symbol(name), arity, argument);
  std::vector<std::string> names;
  for (const Domains::Name& value : domains.domain(*place)) {
    names.push_back(description->terms().name(value.symbol));
  }
  std::ranges::sort(names);
  return names;
}

TEST(Domains, FollowRulesAndMoves) {
  EXPECT_THAT(domain_of(frame, Places::Owner::fluent, "bed", 2, 1), ElementsAre("bare", "sown"));
  EXPECT_THAT(domain_of(frame, Places::Owner::move, "sow", 1, 0), ElementsAre("1", "2"));
  EXPECT_THAT(domain_of(frame, Places::Owner::relation, "sown_now", 1, 0), ElementsAre("1", "2"));
  EXPECT_THAT(domain_of("(role r) (d a) (d b) (e b) (e c) (<= (p ?x) (d ?x) (e ?x))",
                        Places::Owner::relation, "p", 1, 0),
              ElementsAre("b"));
  EXPECT_THAT(domain_of("(role r) (d a) (e b) (<= (p ?x) (d ?x) (e ?x))", Places::Owner::relation,
                        "p", 1, 0),
              IsEmpty());
}

}  // namespace
}  // namespace orchard::rules::findings_test
