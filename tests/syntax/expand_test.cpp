#include "syntax/expand.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include "support/files.hpp"

namespace orchard::syntax::expand_test {
namespace {

using ::testing::HasSubstr;

struct Expanded {
  std::string text;
  std::string faults;
};

Expanded expand(const std::string& rules, const Sizes& sizes = {},
                const std::string& name = "plum.gdl") {
  Diagnostics diagnostics;
  const Tree tree = read_description(Source(name, rules), {}, sizes, diagnostics);
  return {tree.canonical_text(), diagnostics.render()};
}

std::string text_of(const std::string& rules, const Sizes& sizes = {}) {
  const Expanded result = expand(rules, sizes);
  EXPECT_EQ(result.faults, "");
  return result.text;
}

TEST(Expand, LeavesPlainDescriptionsAsTheyAre) {
  const std::string plain = "(<= (p ?x) (or (q ?x) (not (r ?x 1))))\nlone\n(#private ?x)\n(f ())\n";
  EXPECT_EQ(text_of(plain), plain);
}

TEST(Expand, RepeatsFormsWithInnerBoundsFromOuterVariables) {
  EXPECT_EQ(text_of("(#for ?x 1 3 (#for ?y ?x 3 (tile ?x ?y)))"),
            "(tile 1 1)\n(tile 1 2)\n(tile 1 3)\n(tile 2 2)\n(tile 2 3)\n(tile 3 3)\n");
  EXPECT_EQ(text_of("(#for ?x 2 1 (never)) (#for ?x 5 5 (once ?x) (twice ?x))"),
            "(once 5)\n(twice 5)\n");
  EXPECT_EQ(text_of("(#for ?x 1 2)"), "\n");
}

TEST(Expand, RepeatsWithinForms) {
  EXPECT_EQ(text_of("(<= (p ?y) (or (#for ?x 1 3 (q ?x ?y))) (r (list (#for ?i 0 2 ?i))))"),
            "(<= (p ?y) (or (q 1 ?y) (q 2 ?y) (q 3 ?y)) (r (list 0 1 2)))\n");
}

TEST(Expand, CountsConditionsByRules) {
  EXPECT_EQ(
      text_of("(#let ends 2) (#count ?n (open ?x ?n) (bed ?x) (#for ?k 1 ends (ripe ?x ?k)))"),
      "(<= (open_so_far 0 ?x 0) (bed ?x))\n"
      "(<= (open_so_far 1 ?x 1) (open_so_far 0 ?x 0) (ripe ?x 1))\n"
      "(<= (open_so_far 1 ?x ?n) (open_so_far 0 ?x ?n) (not (ripe ?x 1)))\n"
      "(<= (open_so_far 2 ?x 1) (open_so_far 1 ?x 0) (ripe ?x 2))\n"
      "(<= (open_so_far 2 ?x 2) (open_so_far 1 ?x 1) (ripe ?x 2))\n"
      "(<= (open_so_far 2 ?x ?n) (open_so_far 1 ?x ?n) (not (ripe ?x 2)))\n"
      "(<= (open ?x ?n) (open_so_far 2 ?x ?n))\n");
  // In a loop, with a condition that is no single atom.
  EXPECT_THAT(
      text_of("(#for ?row 1 2 (#count ?n (in_row ?row ?n) (and a b) (or (p ?row) (q ?row))))"),
      HasSubstr("(<= (in_row_so_far 1 2 1) (in_row_so_far 0 2 0) (or (p 2) (q 2)))\n"));
}

TEST(Expand, RefusesCountsThatSayNothing) {
  const auto fault = [](const std::string& rules) { return expand(rules).faults; };
  EXPECT_THAT(fault("(#count ?n (open ?n) (bed a))"), HasSubstr("has no condition to count"));
  EXPECT_THAT(fault("(#count 3 (open ?n) (bed a) (p))"),
              HasSubstr("plum.gdl:1:9: error: a variable"));
  EXPECT_THAT(fault("(#count ?n open (bed a) (p))"), HasSubstr("what the count is called"));
  EXPECT_THAT(fault("(#count ?n (open ?n ?x) (bed ?x) (p))"),
              HasSubstr("?n is to be the last argument here, once"));
  EXPECT_THAT(fault("(#count ?n (open ?x ?n) (bed ?x) (p ?y))"),
              HasSubstr("?y is none of the arguments that the count is made for"));
  EXPECT_THAT(fault("(<= (p) (#count ?n (open ?n) (bed a) (q)))"),
              HasSubstr("`#count` makes rules, which cannot stand here"));
  EXPECT_THAT(fault("(r (#+ 1 (#count ?n (open ?n) (bed a) (q))))"),
              HasSubstr("`#count` is not written like this"));
  Limits few;
  few.forms = 100;
  Diagnostics diagnostics;
  (void)read_description(Source("p.gdl", "(#count ?n (c ?n) w (#for ?k 1 90 (p ?k)))"), few, {},
                         diagnostics);
  EXPECT_THAT(diagnostics.render(), HasSubstr("make more than 100 forms"));
}

TEST(Expand, PutsSizesWhereTermsStand) {
  const std::string rules =
      "(#let rows 3) (#let squares (#* rows rows))"
      "(top rows) (rows squares (f rows)) rows (<= (p) rows (not rows) (q rows))";
  EXPECT_EQ(text_of(rules), "(top 3)\n(rows 9 (f 3))\nrows\n(<= (p) rows (not rows) (q 3))\n");
  EXPECT_EQ(text_of(rules, {{"rows", 5}}),
            "(top 5)\n(rows 25 (f 5))\nrows\n(<= (p) rows (not rows) (q 5))\n");
}

TEST(Expand, CountsInWholeNumbers) {
  EXPECT_EQ(text_of("(n (#+ 2 3) (#- 2 3) (#* -2 3) (#div 7 2) (#div -7 2) (#div 7 -2)"
                    " (#mod 7 3) (#mod -7 3) (#mod -7 -3) (#mod 5 -1) (#div 5 -1)"
                    " (#+ (#* 2 (#- 9 4)) (#mod 10 4)))"),
            "(n 5 -1 -6 3 -4 -4 1 2 2 0 -5 12)\n");
}

// The remainder is never negative, and quotient and remainder go together for positive divisors.
TEST(Expand, DividesConsistently) {
  for (int a = -9; a <= 9; ++a) {
    for (int b = 1; b <= 4; ++b) {
      const std::string x = std::to_string(a), y = std::to_string(b);
      const std::string whole = "(#* (#div " + x + " " + y + ") " + y + ")";
      EXPECT_EQ(text_of("(n (#+ " + whole + " (#mod " + x + " " + y + ")))"), "(n " + x + ")\n");
    }
  }
}

TEST(Expand, PointsAtTheFaultTheDirectiveAndTheExpandedForm) {
  Diagnostics diagnostics;
  const Tree tree =
      read_description(Source("plum.gdl", "(#for ?x 1 2\n  (#for ?y 5 5\n    (bed ?x (() ?y))))"),
                       {}, {}, diagnostics);
  ASSERT_EQ(tree.forms().size(), 2u);
  const auto bad = term_of(tree, tree.forms()[1]);
  EXPECT_EQ(bad.diagnostics().render(),
            "plum.gdl:3:13: error: a term begins with a name [not-a-term]\n"
            "       (bed ?x (() ?y))))\n"
            "               ^~~~~~~\n"
            "   plum.gdl:2:3: expanded from here with ?x = 2, ?y = 5: (bed 2 (() 5))\n"
            "     (#for ?y 5 5\n"
            "     ^~~~~~~~~~~~\n"
            "   remedy: write a name, or a list that begins with one: (place 1 2)\n");
}

struct Fault {
  const char* rules;
  const char* message;
};

TEST(Expand, TellsEveryWrongDirective) {
  for (const Fault& fault : {
           Fault{"(#for ?x 1)", "plum.gdl:1:1: error: `#for` is not written like this"},
           Fault{"(#for x 1 2 (p))", "write (#for ?v FROM TO FORM…)"},
           Fault{"(#for ?x 1 rowz (p)) (#let rows 3)", "rowz is not a number here"},
           Fault{"(#let rows 3) (#for ?x 1 rowz (p))", "did you mean `rows`?"},
           Fault{"(#let 3 4)", "write (#let NAME NUMBER)"},
           Fault{"(#let rows 3) (#let rows 4)", "`rows` already has a number"},
           Fault{"(p (#let rows 3))", "`#let` may only stand between rules"},
           Fault{"(#for ?x 1 2 (#let rows 3))", "`#let` may only stand between rules"},
           Fault{"(#+ 1 2)", "which cannot stand here"},
           Fault{"(p (#+ 1))", "write (#+ NUMBER NUMBER)"},
           Fault{"(p (#div 1 0))", "division by zero"},
           Fault{"(p (#* 999999999999999999 999999999999999999))", "this number is too large"},
           Fault{"(p (#+ 1 (f 2)))", "this is not a number"},
           Fault{"(p (#+ 1 ?x))", "?x is not a number here"},
           Fault{"(#fro ?x 1 2 (p))", "did you mean `#for`?"},
           Fault{"(#include plum)", "write (#include \"FILE\")"},
           Fault{"(#include \"/etc/passwd\")", "not in the folder of this one"},
           Fault{"(#include \"../plum.gdl\")", "not in the folder of this one"},
           Fault{"(#include \"nonesuch.gdl\")", "there is no such file"},
       }) {
    EXPECT_THAT(expand(fault.rules).faults, HasSubstr(fault.message)) << fault.rules;
  }
  EXPECT_THAT(expand("(#let rows 3)", {{"row", 4}}).faults, HasSubstr("did you mean rows?"));
  EXPECT_THAT(expand("(p)", {{"row", 4}}).faults, HasSubstr("it has no (#let NAME NUMBER)"));
}

TEST(Expand, IsBounded) {
  EXPECT_THAT(expand("(#for ?x 1 100000 (#for ?y 1 100000 (p ?x ?y)))").faults,
              HasSubstr("expands-too-far"));
  EXPECT_THAT(expand("(#for ?x 1 999999999999 (p))").faults, HasSubstr("expands-too-far"));
  std::string deep = "(p";
  for (int i = 0; i < 9'000; ++i) deep += " (#+ 1";
  deep += " 1" + std::string(9'000, ')') + ")";
  EXPECT_EQ(text_of(deep), "(p 9001)\n");
}

TEST(Expand, IncludesFilesOfTheFolder) {
  const testing::TemporaryFolder folder;
  folder.write("inner.gdl", "(#let rows 3) (#for ?x 1 rows (row ?x))\n(broken");
  folder.write("circle.gdl", "(#include \"circle.gdl\")");
  const auto result =
      expand("(#let rows 2) (#include \"inner.gdl\") (after rows)", {}, folder.path("main.gdl"));
  EXPECT_EQ(result.text, "(row 1)\n(row 2)\n(broken)\n(after 2)\n");
  EXPECT_THAT(result.faults,
              HasSubstr(folder.path("inner.gdl") + ":2:1: error: this list is never closed"));
  EXPECT_THAT(expand("(#include \"circle.gdl\")", {}, folder.path("main.gdl")).faults,
              HasSubstr("the file includes itself"));
  EXPECT_EQ(
      expand("(#let rows 2) (#include \"inner.gdl\")", {{"rows", 1}}, folder.path("main.gdl")).text,
      "(row 1)\n(broken)\n");
}

TEST(Expand, IncludesAreBounded) {
  const testing::TemporaryFolder folder;
  // A thousand million files, by thirty.
  for (int i = 0; i < 30; ++i) {
    const std::string next = "(#include \"part" + std::to_string(i + 1) + ".gdl\")";
    folder.write("part" + std::to_string(i) + ".gdl", next + next);
  }
  folder.write("part30.gdl", "(p)");
  EXPECT_THAT(expand("(#include \"part0.gdl\")", {}, folder.path("main.gdl")).faults,
              HasSubstr("more than 2000 files are included"));
  ASSERT_EQ(::mkfifo(folder.path("pipe.gdl").c_str(), 0600), 0);
  EXPECT_THAT(expand("(#include \"pipe.gdl\")", {}, folder.path("main.gdl")).faults,
              HasSubstr("a pipe or a device"));
}

}  // namespace
}  // namespace orchard::syntax::expand_test
