#include "orchard/term.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <unordered_set>

#include "orchard/random.hpp"
#include "rules/term_table.hpp"

namespace orchard::term_test {
namespace {

Term term(std::string_view text) {
  return Term::parse(text).value();
}

Term random_term(Random& random, int depth) {
  static const char* const names[] = {"a", "b", "10", "9", "-3", "äpfel"};
  const std::string name = names[random.below(6)];
  if (depth == 0 || random.below(3) == 0) return Term::constant(name);
  std::vector<Term> arguments;
  for (std::uint64_t i = 0; i <= random.below(3); ++i) {
    arguments.push_back(random_term(random, depth - 1));
  }
  return Term::function(name, arguments);
}

TEST(Term, PrintsCanonically) {
  EXPECT_EQ(term(" ( Place  1\n2 (F APPLE) ) ").to_string(), "(place 1 2 (f apple))");
  EXPECT_EQ(term("(wait)").to_string(), "wait");
}

TEST(Term, GivesItsParts) {
  const Term place = term("(place 1 (f ?x) b)");
  EXPECT_EQ(place.name(), "place");
  ASSERT_EQ(place.arity(), 3u);
  EXPECT_EQ(place.arguments()[1].to_string(), "(f ?x)");
  EXPECT_EQ(place.arguments()[0].number(), 1);
  EXPECT_TRUE(place.arguments()[1].arguments()[0].is_variable());
  EXPECT_FALSE(place.is_ground());
  EXPECT_TRUE(place.arguments()[2].is_constant());
}

TEST(Term, RefusesWhatIsNoSingleTerm) {
  for (const char* text : {"", "a b", "(a", "()", "((a) b)", "(?f a)", "a)"}) {
    EXPECT_FALSE(Term::parse(text).ok()) << text;
  }
}

TEST(Term, OrdersNumbersByValueBeforeNames) {
  std::vector<Term> terms;
  for (const char* text : {"b", "(a 2)", "10", "(a 10)", "9", "a", "-1", "(a 2 1)"}) {
    terms.push_back(term(text));
  }
  std::ranges::sort(terms);
  std::string text;
  for (const Term& next : terms) text += next.to_string() + " ";
  EXPECT_EQ(text, "-1 9 10 a (a 2) (a 10) (a 2 1) b ");
}

TEST(Term, ReadsBackWhatItPrints) {
  for (std::uint64_t seed = 0; seed < 500; ++seed) {
    Random random(seed);
    const Term made = random_term(random, 4);
    EXPECT_EQ(term(made.to_string()), made) << "seed " << seed;
    EXPECT_EQ(term(made.to_string()).hash(), made.hash()) << "seed " << seed;
  }
}

TEST(Term, SurvivesGreatDepth) {
  std::string text;
  for (int i = 0; i < 9'000; ++i) text += "(f ";
  text += "x" + std::string(9'000, ')');
  EXPECT_EQ(term(text).to_string(), text);
  EXPECT_EQ(term(text), term(text));
}

// Ids agree with values: equal terms have equal ids, and the two orders are the same.
TEST(TermTable, AgreesWithTermValues) {
  rules::TermTable table;
  std::vector<std::pair<Term, rules::TermId>> made;
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    Random random(seed);
    const Term value = random_term(random, 3);
    const bool known = table.find(value) != rules::no_term;
    const bool met = std::ranges::any_of(made, [&](const auto& m) { return m.first == value; });
    EXPECT_TRUE(known || !met);
    made.emplace_back(value, table.add(value));
    EXPECT_EQ(table.term(made.back().second), value);
    EXPECT_EQ(table.find(value), made.back().second);
  }
  for (const auto& [left, left_id] : made) {
    for (const auto& [right, right_id] : made) {
      EXPECT_EQ(left == right, left_id == right_id);
      EXPECT_EQ(left <=> right, table.compare(left_id, right_id))
          << left.to_string() << " and " << right.to_string();
    }
  }
}

}  // namespace
}  // namespace orchard::term_test
