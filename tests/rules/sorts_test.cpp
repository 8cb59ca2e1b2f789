#include "rules/sorts.hpp"

#include <gtest/gtest.h>

#include "support/files.hpp"

namespace orchard::rules::sorts_test {
namespace {

TEST(Sorts, TellsRowsFromColumns) {
  Diagnostics diagnostics;
  const auto description = Description::build(
      syntax::Source("", testing::read_file(testing::game_path("espalier"))), {}, diagnostics);
  ASSERT_NE(description, nullptr);
  const Sorts sorts(*description);
  const auto name = [&](const char* text) { return *description->terms().find_symbol(text); };
  const auto row = sorts.sort(Sorts::Owner::fluent, name("square"), 3, 0);
  const auto column = sorts.sort(Sorts::Owner::fluent, name("square"), 3, 1);
  ASSERT_TRUE(row && column);
  EXPECT_NE(row, column);
  EXPECT_EQ(sorts.sort(Sorts::Owner::move, name("tie"), 2, 0), row);
  EXPECT_EQ(sorts.sort(Sorts::Owner::move, name("tie"), 2, 1), column);
  EXPECT_EQ(sorts.sort(Sorts::Owner::relation, name("above"), 2, 1), row);
  EXPECT_EQ(sorts.sort(Sorts::Owner::relation, name("left_of"), 2, 0), column);
  EXPECT_EQ(sorts.sort(Sorts::Owner::relation, name("tie"), 2, 0), std::nullopt);
}

TEST(Sorts, FollowsVariablesThroughHelpersAndTerms) {
  Diagnostics diagnostics;
  const auto description = Description::build(
      syntax::Source("",
                     "(role r) (<= (next (f (g ?x) ?y)) (true (f (g ?x) ?z)) (h ?z ?y))"
                     "(h 1 2) (k 1)"),
      {}, diagnostics);
  ASSERT_NE(description, nullptr);
  const Sorts sorts(*description);
  const auto name = [&](const char* text) { return *description->terms().find_symbol(text); };
  EXPECT_EQ(sorts.sort(Sorts::Owner::fluent, name("f"), 2, 1),
            sorts.sort(Sorts::Owner::relation, name("h"), 2, 0));
  EXPECT_EQ(sorts.sort(Sorts::Owner::relation, name("h"), 2, 0),
            sorts.sort(Sorts::Owner::relation, name("h"), 2, 1));
  EXPECT_NE(sorts.sort(Sorts::Owner::function, name("g"), 1, 0),
            sorts.sort(Sorts::Owner::fluent, name("f"), 2, 1));
  EXPECT_NE(sorts.sort(Sorts::Owner::relation, name("k"), 1, 0),
            sorts.sort(Sorts::Owner::relation, name("h"), 2, 0));
}

}  // namespace
}  // namespace orchard::rules::sorts_test
