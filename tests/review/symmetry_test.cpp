// Reviews that keep one position of each class answer as those that keep them all.
#include <gtest/gtest.h>

#include <filesystem>
#include <map>

#include "orchard/review.hpp"
#include "support/files.hpp"
#include "support/symmetric_rules.hpp"

namespace orchard::symmetry_test {
namespace {

struct Both {
  Review classes;
  Review whole;
};

std::optional<Both> review_both(const Game& game, ReviewOptions options) {
  options.budget.positions = 30'000;
  options.symmetry = ReviewOptions::Symmetry::never;
  auto whole = review_rules(game, options);
  if (!whole || !whole->complete()) return std::nullopt;
  options.symmetry = ReviewOptions::Symmetry::always;
  return Both{review_rules(game, options).value(), std::move(whole).value()};
}

// Of a line that is shown: that it can be played, position by position.
void expect_played(const Game& game, const Answer& answer) {
  if (!answer.line) return;
  const Line& line = *answer.line;
  EXPECT_EQ(line.positions.front(), game.initial());
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    EXPECT_EQ(game.next(line.positions[ply], line.joints[ply]).value(), line.positions[ply + 1]);
  }
  if (answer.repeats_from) {
    EXPECT_EQ(line.last(), line.positions[*answer.repeats_from]);
  }
}

void expect_same(const Game& game, const std::vector<Answer>& classes,
                 const std::vector<Answer>& whole) {
  ASSERT_EQ(classes.size(), whole.size());
  for (std::size_t a = 0; a < whole.size(); ++a) {
    EXPECT_EQ(classes[a].id, whole[a].id);
    EXPECT_EQ(classes[a].verdict, whole[a].verdict)
        << whole[a].id << ": " << classes[a].evidence.text() << "; " << whole[a].evidence.text();
    EXPECT_EQ(classes[a].line.has_value(), whole[a].line.has_value());
    expect_played(game, classes[a]);
    // Going round, and what somebody forces, may be seen first on another line.
    const bool any_line = whole[a].repeats_from || whole[a].id == "ends";
    if (any_line || !whole[a].line || !classes[a].line) continue;
    if (whole[a].line_title.find("shortest") == std::string::npos) continue;
    EXPECT_EQ(classes[a].line->joints.size(), whole[a].line->joints.size()) << whole[a].id;
  }
}

void expect_same(const Game& game, const Both& both) {
  expect_same(game, both.classes.questions, both.whole.questions);
  expect_same(game, both.classes.claims, both.whole.claims);
  EXPECT_EQ(both.classes.positions, both.whole.positions);
  EXPECT_EQ(both.classes.looked_at, both.whole.looked_at);
  EXPECT_LE(both.classes.classes, both.classes.positions);
  EXPECT_EQ(both.whole.classes, both.whole.positions);
  ASSERT_EQ(both.classes.depths.size(), both.whole.depths.size());
  for (std::size_t d = 0; d < both.whole.depths.size(); ++d) {
    EXPECT_EQ(both.classes.depths[d].positions, both.whole.depths[d].positions);
    EXPECT_EQ(both.classes.depths[d].ends, both.whole.depths[d].ends);
  }
  ASSERT_EQ(both.classes.clauses.size(), both.whole.clauses.size());
  for (std::size_t c = 0; c < both.whole.clauses.size(); ++c) {
    EXPECT_EQ(both.classes.clauses[c].used, both.whole.clauses[c].used);
  }
}

// Claims of every kind about one bed, one neighbourhood, all beds: none but the last is the same
// for all positions of a class.
constexpr const char* claims_about_beds = R"(
(claim "east gets the first bed" (can-force east (true (in 1 east))))
(claim "west gets the second one" (can-force west (true (in 2 west))))
(claim "both together fill it" (can-force east west (not (true (in 1 bare)))))
(claim "east digs up the second one" (can-force east west (does east (dig 2))))
(claim "somebody gets each bed" (can-force east west (true (in ?bed east))))
(claim "the third is planted" (eventually (not (true (in 3 bare)))))
(claim "an end comes" (eventually terminal))
(claim "bare until planted" (until (true (in 1 bare)) (does ?who (plant 1))))
(claim "the first is never east's beside the second" (never (and (true (in 1 east)) (true (in 2 east)))))
(claim "none is planted twice" (never (and (does east (plant ?bed)) (true (in ?bed west)))))
(claim "each may be east's" (possible (true (in ?bed east))))
(claim "each may be planted last" (possible (and terminal (true (in ?bed west)))))
(claim "one thing a bed" (exclusive (in ?bed ?what)))
(claim "the first is dug" (possible (does east (dig 1))))
(claim "full at the end" (always (implies terminal (not (true (in ?bed bare))))))
)";

TEST(SymmetricReview, OfRandomPlantingsIsThatOfAllPositions) {
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.claims = folder.write("beds.claims", claims_about_beds);
  options.allow = {"balance", "draws"};  // of random games alone
  std::size_t smaller = 0;
  std::map<Verdict, std::size_t> claims;
  std::map<Verdict, std::size_t> questions;
  for (std::uint64_t seed = 1; seed <= 30; ++seed) {
    SCOPED_TRACE(testing::symmetric_rules(seed));
    const Game game = Game::from_text(testing::symmetric_rules(seed)).value();
    const auto both = review_both(game, options);
    if (!both) continue;
    expect_same(game, *both);
    smaller += both->classes.classes < both->classes.positions ? 1 : 0;
    for (const Answer& answer : both->classes.claims) ++claims[answer.verdict];
    for (const Answer& answer : both->classes.questions) ++questions[answer.verdict];
  }
  EXPECT_GE(smaller, 20u);
  EXPECT_GE(claims[Verdict::holds], 60u);
  EXPECT_GE(claims[Verdict::fails], 60u);
  EXPECT_GE(questions[Verdict::fails], 5u);
}

TEST(SymmetricReview, OfDemoGamesIsThatOfAllPositions) {
  struct Small {
    const char* name;
    std::map<std::string, std::int64_t> sizes;
    bool symmetric;
  };
  const std::vector<Small> games{
      {"espalier_3x3", {}, true},
      {"graft", {{"rows", 3}, {"columns", 3}}, false},
      {"moles", {{"rows", 2}, {"columns", 2}, {"moles", 1}}, true},
      {"cellar", {{"places", 2}, {"kinds", 3}, {"tries", 2}}, true},
      {"snails", {}, false},
      {"market_day", {{"days", 1}}, false},
  };
  for (const Small& small : games) {
    SCOPED_TRACE(small.name);
    LoadOptions sizes;
    sizes.sizes = small.sizes;
    const Game game = Game::load(testing::game_path(small.name), sizes).value();
    ReviewOptions options;
    const std::string claims = testing::source_path("games/" + std::string(small.name) + ".claims");
    if (std::filesystem::exists(claims)) options.claims = claims;
    const auto both = review_both(game, options);
    ASSERT_TRUE(both.has_value());
    expect_same(game, *both);
    EXPECT_EQ(both->classes.classes < both->classes.positions, small.symmetric);
  }
}

TEST(SymmetricReview, FindsAPositionThatIsNotKept) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  ReviewOptions options;
  std::size_t found = 0;
  for (const int row : {1, 2, 3}) {
    for (const int column : {1, 2, 3}) {
      const std::string formula = "(and (true (square " + std::to_string(row) + " " +
                                  std::to_string(column) + " west)) (wins east))";
      options.symmetry = ReviewOptions::Symmetry::never;
      const Sought whole = find_position(game, formula, options).value();
      options.symmetry = ReviewOptions::Symmetry::always;
      const Sought classes = find_position(game, formula, options).value();
      ASSERT_EQ(classes.line.has_value(), whole.line.has_value()) << formula;
      EXPECT_EQ(classes.positions, whole.positions);
      if (!whole.line) continue;
      ++found;
      EXPECT_EQ(classes.line->joints.size(), whole.line->joints.size()) << formula;
      expect_played(game, {"found", Verdict::holds, {}, classes.line});
    }
  }
  EXPECT_GE(found, 6u);
}

}  // namespace
}  // namespace orchard::symmetry_test
