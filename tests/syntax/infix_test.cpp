// The infix reader: what it reads, and what it says about mistakes.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/game.hpp"
#include "support/files.hpp"
#include "syntax/infix_reader.hpp"

namespace orchard::syntax::infix_test {
namespace {

using ::testing::HasSubstr;

std::string read(const std::string& text) {
  Diagnostics diagnostics;
  const Tree tree = read_infix(Source("pea.gdli", text), {}, diagnostics);
  return diagnostics.empty() ? tree.canonical_text() : diagnostics.render();
}

TEST(Infix, FormsAndOperators) {
  EXPECT_EQ(read("role(east). terminal. p()."), "(role east)\nterminal\n(p)\n");
  EXPECT_EQ(read("a(X) :- b(X), \\+ c(X), (d(X) ; e(X), f(X))."),
            "(<= (a ?x) (b ?x) (not (c ?x)) (or (d ?x) (and (e ?x) (f ?x))))\n");
  EXPECT_EQ(read("a :- b ; c."), "(<= a (or b c))\n");
  EXPECT_EQ(read("a :- b, c ; d."), "(<= a (or (and b c) d))\n");
  EXPECT_EQ(read("A_b :- 'East'('it\\'s', -3, ?'x-1')."), "(<= ?a_b (east it's -3 ?x-1))\n");
  EXPECT_EQ(read("% all\na. % one\n"), "a\n");
}

TEST(Infix, UnnamedVariablesAreNewOnes) {
  EXPECT_EQ(read("p(_, _, __1) :- q(_)."), "(<= (p ?___1 ?___2 ?__1) (q ?___3))\n");
}

TEST(Infix, MistakesSayWhatIsMissing) {
  EXPECT_EQ(read("a(b c)."),
            "pea.gdli:1:5: error: a comma or a parenthesis is missing here [unexpected-text]\n"
            "   a(b c).\n"
            "       ^\n"
            "   remedy: check what stands before this place\n");
  EXPECT_THAT(read("a :- ."), HasSubstr("1:6: error: a condition is missing here"));
  EXPECT_THAT(read("a(b"), HasSubstr("1:1: error: this form has no end [unfinished-form]"));
  EXPECT_THAT(read("a(b, )."), HasSubstr("1:6: error: a term is missing here"));
  EXPECT_THAT(read("a :- (b, c."), HasSubstr("1:6: error: this parenthesis is not closed"));
  EXPECT_THAT(read("a)."), HasSubstr("1:2: error: this parenthesis closes nothing"));
  EXPECT_THAT(read("a :- b :- c."), HasSubstr("1:8: error: a full stop is missing here"));
  EXPECT_THAT(read("p(3x)."), HasSubstr("write '3x'"));
  EXPECT_THAT(read("p('a b')."), HasSubstr("this is not a valid name [bad-name]"));
  EXPECT_THAT(read("p('')."), HasSubstr("[bad-name]"));
  EXPECT_THAT(read("p('a)."), HasSubstr("never closed in its line [unclosed-string]"));
  EXPECT_THAT(read("p(a & b)."), HasSubstr("[stray-character]"));
}

TEST(Infix, AMistakeCostsItsFormOnly) {
  const std::string text = read("a(. b(c).\nd e. f(.\ng(h).");
  EXPECT_THAT(text, HasSubstr("pea.gdli:1:3:"));
  EXPECT_THAT(text, HasSubstr("pea.gdli:2:3:"));
  EXPECT_THAT(text, HasSubstr("pea.gdli:2:8:"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("pea.gdli:3:")));
}

TEST(Infix, Limits) {
  ReaderOptions options;
  options.limits.nesting = 5;
  options.limits.symbols = 3;
  for (const char* text :
       {"a(a(a(a(a(a(a))))))).", "a :- \\+ \\+ \\+ \\+ \\+ \\+ \\+ a.", "((((((((a))))))))."}) {
    Diagnostics diagnostics;
    EXPECT_TRUE(read_infix(Source("", text), options, diagnostics).forms().empty());
    EXPECT_THAT(diagnostics.render(), HasSubstr("nested more than 5 deep"));
  }
  Diagnostics diagnostics;
  EXPECT_TRUE(read_infix(Source("", "a(b, c, d)."), options, diagnostics).forms().empty());
  EXPECT_THAT(diagnostics.render(), HasSubstr("more than 3 different symbols"));
}

TEST(Infix, AGameLoadsFromIt) {
  const char* const rules =
      "role(bee). init(at(1)). base(at(1)). base(at(2)).\n"
      "legal(bee, hop) :- true(at(1)). legal(bee, wait) :- true(at(2)).\n"
      "next(at(2)) :- does(bee, hop). terminal :- true(at(2)). goal(bee, 100) :- true(at(2)).\n"
      "goal(bee, 0) :- \\+ true(at(2)).\n";
  const auto game = Game::from_text(rules, "hop.gdli");
  ASSERT_TRUE(game.ok()) << game.diagnostics().render();
  const Position start = game->initial();
  const auto joint = JointMove(game->legal(start, game->roles()[0]));
  EXPECT_TRUE(game->terminal(game->next(start, joint).value()));
  const testing::TemporaryFolder folder;
  folder.write("part.gdli", rules);
  const auto whole =
      Game::load(folder.write("whole.gdl", "(#include \"part.gdli\") (<= (p) (true (at 3)))"));
  EXPECT_THAT(whole.value().findings().render(), HasSubstr("`3` never stands here"));
}

}  // namespace
}  // namespace orchard::syntax::infix_test
