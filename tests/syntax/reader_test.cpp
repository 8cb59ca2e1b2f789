#include "syntax/reader.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/utf8.hpp"
#include "orchard/random.hpp"

namespace orchard::syntax::reader_test {
namespace {

using ::testing::HasSubstr;

struct ReadText {
  Diagnostics diagnostics;
  Tree tree;
};

ReadText read_text(const std::string& text, ReaderOptions options = {}) {
  Diagnostics diagnostics;
  Tree tree = read(Source("test.gdl", text), options, diagnostics);
  return {std::move(diagnostics), std::move(tree)};
}

std::vector<std::string> codes(const Diagnostics& diagnostics) {
  std::vector<std::string> result;
  for (const Diagnostic& item : diagnostics) result.push_back(item.code);
  return result;
}

TEST(Reader, FoldsCaseAndDropsCommentsAndLayout) {
  const auto [diagnostics, tree] =
      read_text("; a comment (with parens\n(ROLE East)(init(cell 1\t2 Bare)) ; end\r\n terminal");
  EXPECT_TRUE(diagnostics.empty()) << diagnostics.render();
  EXPECT_EQ(tree.canonical_text(), "(role east)\n(init (cell 1 2 bare))\nterminal\n");
}

TEST(Reader, KeepsLettersBeyondAscii) {
  const auto [diagnostics, tree] = read_text("\xEF\xBB\xBF(rôle Äpfel 木)");
  EXPECT_TRUE(diagnostics.empty()) << diagnostics.render();
  EXPECT_EQ(tree.canonical_text(), "(rôle Äpfel 木)\n");
}

TEST(Reader, ReadsCanonicalTextBackToItself) {
  const auto first = read_text("(<= (a ?x) (or (b ?x) (not (c (f (g ?x) ())))))\nd\n(e)");
  const auto second = read_text(first.tree.canonical_text());
  EXPECT_EQ(first.tree.canonical_text(), second.tree.canonical_text());
}

TEST(Reader, NamesTheFormThatIsNotClosed) {
  const auto [diagnostics, tree] =
      read_text("(role a)\n(<= (legal a b)\n    (true (c))\n(init c)\n");
  EXPECT_EQ(diagnostics.render(),
            "test.gdl:2:1: error: this list is never closed [unclosed-parenthesis]\n"
            "   (<= (legal a b)\n"
            "   ^\n"
            "   remedy: add the missing closing parenthesis\n");
  EXPECT_EQ(tree.forms().size(), 3u);  // what follows is read all the same
}

TEST(Reader, PointsAtAParenthesisTooMany) {
  const auto [diagnostics, tree] = read_text("(role a))\n\t ) (role b)");
  EXPECT_EQ(diagnostics.render(),
            "test.gdl:1:9: error: this parenthesis closes nothing [unopened-parenthesis]\n"
            "   (role a))\n"
            "           ^\n"
            "   remedy: remove it, or open the list that it should close\n"
            "test.gdl:2:3: error: this parenthesis closes nothing [unopened-parenthesis]\n"
            "   \t ) (role b)\n"
            "   \t ^\n"
            "   remedy: remove it, or open the list that it should close\n");
}

TEST(Reader, CountsColumnsInCharacters) {
  const auto [diagnostics, tree] = read_text("(äöü \x01 b)");
  ASSERT_EQ(diagnostics.items().size(), 1u);
  EXPECT_EQ(diagnostics.items()[0].place.column, 6);
  EXPECT_EQ(diagnostics.items()[0].code, "stray-character");
}

TEST(Reader, ReportsARunOfStrayBytesOnce) {
  const auto [diagnostics, tree] = read_text("(a \xFF\xFE\x80 b \xC2\xA0 c)");
  EXPECT_THAT(codes(diagnostics), ::testing::ElementsAre("stray-character", "stray-character"));
  EXPECT_THAT(diagnostics.render(), HasSubstr("byte 0xFF (not UTF-8)"));
  EXPECT_THAT(diagnostics.render(), HasSubstr("no-break space (U+00A0)"));
}

TEST(Reader, RefusesDepthBeyondTheLimitWithoutCrashing) {
  const std::string deep(1'000'000, '(');
  const auto [diagnostics, tree] = read_text(deep);
  EXPECT_THAT(codes(diagnostics), ::testing::ElementsAre("too-deep"));
  EXPECT_EQ(tree.size(), 0u);
  EXPECT_EQ(diagnostics.items()[0].place.column, 10'001);
  ReaderOptions generous;
  generous.limits.nesting = 2'000'000;
  const auto closed = read_text(deep + "x" + std::string(1'000'000, ')'), generous);
  EXPECT_TRUE(closed.diagnostics.empty());
  EXPECT_EQ(closed.tree.size(), 1'000'001u);
}

TEST(Reader, RefusesTooManyDifferentSymbols) {
  ReaderOptions options;
  options.limits.symbols = 3;
  EXPECT_TRUE(read_text("(a b c a b c)", options).diagnostics.empty());
  EXPECT_THAT(codes(read_text("(a b c d)", options).diagnostics),
              ::testing::ElementsAre("too-many-symbols"));
}

TEST(Reader, ReadsStringsOnlyWhereTheyAreAllowed) {
  ReaderOptions options;
  options.strings = true;
  const auto with = read_text(R"((position "a \"b\" (c" x))", options);
  EXPECT_TRUE(with.diagnostics.empty());
  EXPECT_EQ(with.tree[2].text, R"(a "b" (c)");
  EXPECT_EQ(with.tree[2].kind, Node::Kind::string);
  const auto without = read_text("(a \"b)");
  EXPECT_TRUE(without.diagnostics.empty());
  EXPECT_EQ(without.tree[2].text, "\"b");
  EXPECT_THAT(codes(read_text("(a \"b)", options).diagnostics),
              ::testing::ElementsAre("unclosed-string"));
}

TEST(Reader, CutsVeryLongLinesAroundTheCaret) {
  const auto [diagnostics, tree] =
      read_text(std::string(100'000, 'x').append(" )").append(500, 'y'));
  ASSERT_EQ(diagnostics.items().size(), 1u);
  const Place& place = diagnostics.items()[0].place;
  EXPECT_EQ(place.column, 100'002);
  EXPECT_LE(place.source_line.size(), 140u);
  EXPECT_EQ(place.source_line[static_cast<std::size_t>(place.excerpt_column - 1)], ')');
}

TEST(Reader, KeepsAtMostAHundredMessagesAndCountsTheRest) {
  const auto [diagnostics, tree] = read_text(std::string(250, ')'));
  EXPECT_EQ(diagnostics.items().size(), 100u);
  EXPECT_EQ(diagnostics.left_out(), 150u);
  EXPECT_EQ(diagnostics.errors(), 250u);
  EXPECT_THAT(diagnostics.render(), HasSubstr("… and 150 more"));
}

// Any bytes at all: no crash, and a message whenever the tree is not the whole text.
TEST(Reader, SurvivesRandomBytes) {
  constexpr std::string_view likely = "()()(((?; \n\tabA\"\\<=\xC3\xA4\xFF";
  for (std::uint64_t seed = 0; seed < 2000; ++seed) {
    Random random(seed);
    std::string text;
    for (std::uint64_t i = random.below(60); i > 0; --i) {
      text += random.below(4) > 0 ? likely[random.below(likely.size())]
                                  : static_cast<char>(random.below(256));
    }
    ReaderOptions options;
    options.strings = seed % 2 == 0;
    const auto [diagnostics, tree] = read_text(text, options);
    if (!diagnostics.empty()) continue;
    const auto again = read_text(tree.canonical_text());
    if (!options.strings) {
      EXPECT_EQ(again.tree.canonical_text(), tree.canonical_text()) << "seed " << seed;
    }
  }
}

// A description may stand on one line; its places are those that one counts.
TEST(Reader, ColumnsOfLongLinesAreCounted) {
  std::string text = "(short \xC3\xA9)\n";
  for (int i = 0; i < 3000; ++i)
    text += i % 3 == 0 ? "\xC3\xA9" : i % 3 == 1 ? "x" : "\xF0\x9F\x8C\xB3";
  text += "\n(last)";
  const Source source("long", text);
  int column = 1;
  const std::size_t second = text.find('\n') + 1;
  for (std::size_t at = second; text[at] != '\n'; ++column) {
    const Character character = first_character(std::string_view(text).substr(at));
    const auto offset = static_cast<std::uint32_t>(at);
    EXPECT_EQ(source.column_of(offset), column);
    if (column % 100 == 1) {
      const Place place = source.place(offset, offset + character.bytes);
      EXPECT_EQ(place.column, column);
      // Under the caret stands the character itself.
      int shown = 1;
      std::string_view left = place.source_line;
      for (; shown < place.excerpt_column; ++shown) left.remove_prefix(first_character(left).bytes);
      EXPECT_EQ(first_character(left).code, character.code);
    }
    at += character.bytes;
  }
  const auto last = static_cast<std::uint32_t>(text.find("(last"));
  EXPECT_EQ(source.place(last, last + 6).column, 1);
  EXPECT_EQ(source.place(last, last + 6).line, 3);
}

TEST(Reader, StringsHoldNothingThatATerminalWouldObey) {
  ReaderOptions options;
  options.strings = true;
  EXPECT_TRUE(read_text("(claim \"a drawing\nof two\tlines\r\n\")", options).diagnostics.empty());
  for (const std::string strange : {"\x1b[2J", "a\rb", "\u202E", "\u2067", "\xE9", "\x7F"}) {
    const auto [diagnostics, tree] = read_text("(claim \"" + strange + "\")", options);
    EXPECT_EQ(codes(diagnostics), std::vector<std::string>{"stray-character"});
  }
  // Nor do names.
  for (const std::string strange : {"a\u202Eb", "\u2066a"}) {
    EXPECT_EQ(codes(read_text("(" + strange + ")").diagnostics),
              std::vector<std::string>{"stray-character"});
  }
}

}  // namespace
}  // namespace orchard::syntax::reader_test
