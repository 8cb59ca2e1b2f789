// Censuses of positions as they are that are broken off and gone on with, against those in one go.
#include <gtest/gtest.h>

#include "orchard/census.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::saved_census_test {
namespace {

Census census(const Game& game, CensusOptions options, std::optional<std::uint64_t> depth = {}) {
  options.store = CensusStore::plain;
  options.depth = depth;
  return take_census(game, options).value();
}

void expect_same(const Census& found, const Census& expected) {
  EXPECT_EQ(found.complete, expected.complete);
  EXPECT_EQ(found.ending, expected.ending);
  EXPECT_EQ(found.positions, expected.positions);
  ASSERT_EQ(found.depths.size(), expected.depths.size());
  for (std::size_t d = 0; d < found.depths.size(); ++d) {
    EXPECT_EQ(found.depths[d].positions, expected.depths[d].positions) << "depth " << d;
    EXPECT_EQ(found.depths[d].terminal, expected.depths[d].terminal) << "depth " << d;
    EXPECT_EQ(found.depths[d].stuck, expected.depths[d].stuck) << "depth " << d;
    EXPECT_EQ(found.depths[d].sequences, expected.depths[d].sequences) << "depth " << d;
  }
}

// Broken off at every so many positions; depths asked for are told of what is known, gone deeper
// from, or counted to the end, whatever was saved before.
void expect_goes_on(const Game& game, bool sequences, std::uint64_t step) {
  constexpr std::uint64_t deep = 14;  // sequences need not end
  CensusOptions plain;
  plain.sequences = sequences;
  const Census whole = census(game, plain, deep);
  const testing::TemporaryFolder folder;
  CensusOptions saved = plain;
  saved.budget.checkpoint = Checkpoint{folder.path("kept"), 0.0};
  std::size_t broken_off = 0;
  for (std::uint64_t positions = 1;; positions += step) {
    saved.budget.positions = positions;
    const Census part = census(game, saved, deep);
    if (part.ending == Ending::complete) {
      expect_same(part, whole);
      break;
    }
    ++broken_off;
    ASSERT_LT(part.depths.size(), whole.depths.size());
    ASSERT_LT(broken_off, 2000u);
    if (broken_off % 3 != 0 || part.depths.size() < 2) continue;
    saved.budget.positions.reset();
    for (const std::uint64_t depth : {part.depths.size() - 2, part.depths.size() - 1}) {
      expect_same(census(game, saved, depth), census(game, plain, depth));
    }
  }
  EXPECT_GE(broken_off, 1u);
  saved.budget.positions.reset();
  for (std::uint64_t depth = 0; depth < whole.depths.size(); ++depth) {
    expect_same(census(game, saved, depth), census(game, plain, depth));
  }
}

TEST(SavedCensus, GoesOnWhereItWasLeft) {
  for (const bool sequences : {false, true}) {
    SCOPED_TRACE(sequences);
    expect_goes_on(testing::load("snails"), sequences, 40);
    expect_goes_on(testing::load("espalier_3x3"), sequences, 300);
    expect_goes_on(testing::load("beeline"), sequences, 100);
    expect_goes_on(testing::load("market_day", {{"days", 1}}), sequences, 7);
  }
}

TEST(SavedCensus, OfRandomDescriptionsGoesOn) {
  std::size_t counted = 0;
  for (std::uint64_t seed = 1; seed <= 60 && !::testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game) continue;
    CensusOptions options;
    options.depth = 14;
    const auto whole = take_census(*game, options);
    if (!whole || whole->positions < 4 || whole->positions > 2000) continue;
    ++counted;
    expect_goes_on(*game, seed % 2 == 0, 3 + whole->positions / 20);
  }
  EXPECT_GE(counted, 15u);
}

// What counts sequences is not resumed by what does not.
TEST(SavedCensus, BelongsToWhatWasCounted) {
  const Game game = testing::load("snails");
  const testing::TemporaryFolder folder;
  CensusOptions options;
  options.store = CensusStore::plain;
  options.budget.positions = 100;
  options.budget.checkpoint = Checkpoint{folder.path("kept"), 0.0};
  options.sequences = true;
  ASSERT_TRUE(take_census(game, options).ok());
  options.sequences = false;
  const auto refused = take_census(game, options);
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(refused.diagnostics().begin()->code, "other-state");
}

}  // namespace
}  // namespace orchard::saved_census_test
