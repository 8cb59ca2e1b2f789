// Laying out and converting: nothing is lost, twice is once, and both syntaxes say the same.
#include "orchard/format.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"
#include "syntax/reader.hpp"

namespace orchard::syntax::format_test {
namespace {

using ::testing::HasSubstr;

std::string forms_of(const std::string& text, Syntax syntax) {
  Diagnostics diagnostics;
  const Tree tree =
      read_by_name(Source(syntax == Syntax::infix ? "t.gdli" : "t.gdl", text), {}, diagnostics);
  EXPECT_EQ(diagnostics.render(), "") << text;
  return tree.canonical_text();
}

std::string format(const std::string& text, Syntax from, Syntax to) {
  FormatOptions options;
  options.to = to;
  const auto result = format_text(text, from == Syntax::infix ? "t.gdli" : "t.gdl", options);
  EXPECT_TRUE(result.ok()) << result.diagnostics().render() << text;
  return result.ok() ? *result : std::string{};
}
std::string to_infix(const std::string& text) {
  return format(text, Syntax::prefix, Syntax::infix);
}
std::string to_prefix(const std::string& text) {
  return format(text, Syntax::infix, Syntax::prefix);
}
std::string in_prefix(const std::string& text) {
  return format(text, Syntax::prefix, Syntax::prefix);
}

TEST(Format, TextsInQuotesStayInFilesOfClaims) {
  const std::string claims = "(claim \"never;  (or so)\" (never terminal))\n";
  EXPECT_EQ(format_text(claims, "own.claims").value(), claims);
}

TEST(Format, RulesStandOverSeveralLines) {
  EXPECT_EQ(in_prefix("(role East)(<=   (legal ?r (tie ?x))(true (bare ?x)) (or (a ?x) (b ?x)))"),
            "(role east)\n"
            "(<= (legal ?r (tie ?x))\n"
            "    (true (bare ?x))\n"
            "    (or (a ?x) (b ?x)))\n");
  EXPECT_EQ(in_prefix("(#for ?x 1 3 (row ?x) (<= (a ?x) (b ?x)))"),
            "(#for ?x 1 3\n"
            "  (row ?x)\n"
            "  (<= (a ?x)\n"
            "      (b ?x)))\n");
}

TEST(Format, InfixSpellsTheSame) {
  EXPECT_EQ(to_infix("(<= (legal ?r (tie ?x)) (true (bare ?x)) (or (a ?x) (and (b ?x) (c ?x)))"
                     " (not (d ?x)) (distinct ?x ?r))"),
            "legal(R, tie(X)) :-\n"
            "    true(bare(X)),\n"
            "    (a(X) ; (b(X), c(X))),\n"
            "    \\+ d(X),\n"
            "    distinct(X, R).\n");
  EXPECT_EQ(to_infix("(#let rows 4) (#for ?row 2 rows (above (#- ?row 1) ?row)) terminal (p)"),
            "#let(rows, 4).\n"
            "#for(Row, 2, rows,\n"
            "    above(#-(Row, 1), Row)).\n"
            "terminal.\n"
            "p().\n");
  EXPECT_EQ(to_infix("(a -3 007 3x x-y ?_z ?x-1 ?9 it's back\\slash)"),
            "a(-3, 007, '3x', 'x-y', _z, ?'x-1', ?'9', 'it\\'s', 'back\\\\slash').\n");
}

// Every corner of the infix syntax, there and back.
TEST(Format, InfixReadsBackWhatItWrites) {
  for (const char* form : {"(<= a)",
                           "(<=)",
                           "(or)",
                           "(and)",
                           "(or a)",
                           "(and a b)",
                           "(not a b)",
                           "(not)",
                           "(<= a (and b c))",
                           "(<= a (or b c))",
                           "(<= a (or (or b c) d))",
                           "(<= a (and (and b c) d))",
                           "(<= a (not (not b)))",
                           "(<= a (not (and b c)))",
                           "(<= a (not (or b c) (not d)))",
                           "(<= (or a b) c)",
                           "(<= (<= a b) c)",
                           "(<= a (<= b c))",
                           "(true (or a b))",
                           "(p (not a))",
                           "(#for ?x 1 3 (<= (a ?x) (b ?x)) c)",
                           "(<= a (#for ?x 1 3 (b ?x)))",
                           "(p ?äpfel äpfel)",
                           "(#include \"a file.gdl\")",
                           "(#mod 3 (#div 4 2))",
                           "#x1",
                           "#",
                           "(p #a1 # #+ #++)",
                           "(p ?a?b x? x\"y)",
                           "-",
                           "-1",
                           "--1",
                           "1.5",
                           "(p a.b .)",
                           "(p % 50%)"}) {
    const std::string infix = to_infix(form);
    EXPECT_EQ(forms_of(infix, Syntax::infix), forms_of(form, Syntax::prefix)) << infix;
    EXPECT_EQ(format(infix, Syntax::infix, Syntax::infix), infix);
  }
}

TEST(Format, CommentsAndBlankLinesStay) {
  const std::string text =
      "; Title\n"
      ";; more\n"
      "\n"
      "(a)   ; behind\n"
      "\n\n\n"
      "; own line\n"
      "(<= (b ?x) ; head\n"
      "  ; before\n"
      "  (c ?x)   ; condition\n"
      "  (d ; inside\n"
      "    ?x)\n"
      "  ; last\n"
      ")\n"
      "; end";
  const std::string laid_out =
      "; Title\n"
      ";; more\n"
      "\n"
      "(a) ; behind\n"
      "\n"
      "; own line\n"
      "(<= (b ?x) ; head\n"
      "    ; before\n"
      "    (c ?x) ; condition\n"
      "    (d ; inside\n"
      "       ?x)\n"
      "    ; last\n"
      ")\n"
      "; end\n";
  EXPECT_EQ(in_prefix(text), laid_out);
  EXPECT_EQ(in_prefix(laid_out), laid_out);
  const std::string infix = to_infix(text);
  EXPECT_THAT(infix,
              HasSubstr("% Title\n%% more\n\na(). % behind\n\n% own line\nb(X) :- % head\n"));
  EXPECT_EQ(to_prefix(infix), laid_out);
}

TEST(Format, BlankLinesStayBeforeParentheses) {
  const std::string text = "a.\n\n(b ; c).\n\n(d, e) :- f.\n";
  EXPECT_EQ(format(text, Syntax::infix, Syntax::infix), "a.\n\n(b ; c).\n\n(d, e) :-\n    f.\n");
}

TEST(Format, LongFactsAreFilledAndTermsOfADeepFormStayFlat) {
  std::string text = "(position";
  for (int i = 0; i < 30; ++i) text += " (square 1 " + std::to_string(i) + " bare)";
  const std::string once = in_prefix(text + ")");
  EXPECT_THAT(once, HasSubstr("\n          (square 1 "));
  for (std::size_t at = 0; at < once.size();) {
    const std::size_t end = once.find('\n', at);
    EXPECT_LE(end - at, 100u);
    at = end + 1;
  }
  EXPECT_EQ(in_prefix(once), once);
}

TEST(Format, DepthIsTheUsersToChoose) {
  constexpr int depth = 9'000;
  std::string text;
  for (int i = 0; i < depth; ++i) text += "(f ";
  text += "x";
  text.append(depth, ')');
  for (const Syntax to : {Syntax::prefix, Syntax::infix}) {
    const std::string once = format(text, Syntax::prefix, to);
    EXPECT_EQ(forms_of(once, to), forms_of(text, Syntax::prefix));
    EXPECT_LT(once.size(), 2'000'000u);
  }
}

TEST(Format, MistakesAreToldAndNothingIsWritten) {
  EXPECT_THAT(format_text("(a", "t.gdl").diagnostics().render(), HasSubstr("never closed"));
  FormatOptions infix;
  infix.to = Syntax::infix;
  const auto result = format_text("(a b)\n(p ((a) b))", "t.gdl", infix);
  EXPECT_THAT(result.diagnostics().render(),
              HasSubstr("t.gdl:2:4: error: the infix syntax has no way to write this "
                        "[cannot-write]"));
}

TEST(Format, ExpandsDirectives) {
  FormatOptions options;
  options.expand = true;
  options.sizes["rows"] = 3;
  const std::string text =
      format_text("; c\n(#let rows 2) (#for ?x 1 rows (row ?x)) (<= (p ?y) (row ?y))", "t.gdl",
                  options)
          .value();
  EXPECT_EQ(text, "(row 1)\n(row 2)\n(row 3)\n(<= (p ?y)\n    (row ?y))\n");
}

TEST(Format, DemoGamesAreLaidOutAlready) {
  for (const std::string& path : testing::all_demo_games()) {
    EXPECT_EQ(format_file(path).value(), testing::read_file(path)) << path;
  }
}

TEST(Format, DemoGamesReadTheSameInBothSyntaxes) {
  for (const std::string& path : testing::all_demo_games()) {
    const std::string text = testing::read_file(path);
    const std::string infix = to_infix(text);
    EXPECT_EQ(forms_of(infix, Syntax::infix), forms_of(text, Syntax::prefix));
    EXPECT_EQ(to_prefix(infix), text);
  }
}

TEST(Format, RandomDescriptionsReadTheSameInBothSyntaxes) {
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    const std::string text = testing::random_rules(seed);
    const std::string infix = to_infix(text);
    EXPECT_EQ(forms_of(infix, Syntax::infix), forms_of(text, Syntax::prefix)) << text;
    EXPECT_EQ(in_prefix(in_prefix(text)), in_prefix(text));
  }
}

// Any bytes: no crash; what is laid out reads back the same and stays as it is.
TEST(Format, AnyTextIsLaidOutOrRefused) {
  Random random(3);
  const std::string letters = "ab?X_'\"\\(),.;:-+#%\n 1";
  for (int round = 0; round < 3000; ++round) {
    std::string text;
    for (std::uint64_t i = random.below(30); i > 0; --i) {
      text += letters[random.below(letters.size())];
    }
    for (const char* name : {"t.gdl", "t.gdli"}) {
      const auto once = format_text(text, name);
      if (!once) continue;
      const auto twice = format_text(*once, name);
      ASSERT_TRUE(twice.ok()) << text << "\n" << *once << twice.diagnostics().render();
      EXPECT_EQ(*twice, *once) << text;
      EXPECT_EQ(forms_of(*once, syntax_of(name)), forms_of(text, syntax_of(name))) << text;
    }
  }
}

}  // namespace
}  // namespace orchard::syntax::format_test
