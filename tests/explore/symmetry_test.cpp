// Automorphisms, judged by play: what is renamed before a move is renamed after it.
#include "explore/symmetry/symmetry.hpp"

#include <gtest/gtest.h>

#include "game/core.hpp"
#include "game/lane_evaluator.hpp"
#include "game/lane_game.hpp"
#include "orchard/orchard.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::explore::symmetry_test {
namespace {

using Row = std::vector<std::uint64_t>;

bool bit(std::span<const std::uint64_t> row, std::size_t at) {
  return (row[at / 64] >> (at % 64) & 1) != 0;
}

// Plays a game and its image side by side.
class Mirror {
 public:
  Mirror(const LaneGame& game, const Automorphism& renaming)
      : game_(game), renaming_(renaming), here_(game), there_(game) {}

  void play(Random& random, int most_plies) {
    Row row = game_.row(game_.ground().initial());
    row.resize(here_.words(), 0);
    for (int ply = 0; ply < most_plies && !::testing::Test::HasFailure(); ++ply) {
      here_.set_positions(row, 1);
      there_.set_positions(image(row), 1);
      ASSERT_EQ(here_.terminal(0), there_.terminal(0));
      const std::size_t roles = game_.ground().moves().size();
      std::vector<std::uint32_t> joint(roles);
      std::vector<std::uint32_t> joint_image(roles);
      bool over = here_.terminal(0);
      for (std::size_t role = 0; role < roles; ++role) {
        std::vector<std::uint32_t> moves;
        std::vector<std::uint32_t> others;
        here_.legal(0, role, moves);
        there_.legal(0, renaming_.roles[role], others);
        std::vector<std::uint32_t> images;
        for (const std::uint32_t move : moves) images.push_back(renaming_.moves[role][move]);
        std::ranges::sort(images);
        ASSERT_EQ(images, others);
        expect_same_goals(role);
        over = over || moves.empty();
        if (over) continue;
        joint[role] = moves[random.below(moves.size())];
        joint_image[renaming_.roles[role]] = renaming_.moves[role][joint[role]];
      }
      if (over) return;
      here_.set_joint(0, joint);
      there_.set_joint(0, joint_image);
      here_.step();
      there_.step();
      row.assign(here_.next(0).begin(), here_.next(0).end());
      const Row expected = image(row);
      ASSERT_TRUE(std::ranges::equal(expected, there_.next(0)));
    }
  }

 private:
  Row image(const Row& row) const {
    Row result(row.size(), 0);
    for (std::size_t f = 0; f < renaming_.fluents.size(); ++f) {
      const std::uint32_t to = renaming_.fluents[f];
      if (bit(row, f)) result[to / 64] |= std::uint64_t{1} << (to % 64);
    }
    return result;
  }
  void expect_same_goals(std::size_t role) const {
    std::vector<std::uint32_t> numbers;
    const auto terms = [&](const LaneEvaluator& lanes, std::size_t of) {
      std::vector<std::string> result;
      lanes.goals(0, of, numbers);
      for (const std::uint32_t n : numbers) {
        result.push_back(game_.ground().terms().text(game_.ground().goals()[of][n].term));
      }
      return result;
    };
    EXPECT_EQ(terms(here_, role), terms(there_, renaming_.roles[role]));
  }

  const LaneGame& game_;
  const Automorphism& renaming_;
  LaneEvaluator here_;
  LaneEvaluator there_;
};

std::shared_ptr<const ground::GroundProgram> whole_rules(const Game& game) {
  return LaneGame::instantiate(*GameAccess::core(game), false, ground::Splitting::none()).value();
}

// How many map the start to itself; each is played.
std::size_t symmetries(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  std::size_t count = 0;
  Random random(1);
  const auto whole = whole_rules(game);
  SymmetryFinder finder(*whole);
  EXPECT_TRUE(finder.each_of_start([&](const Automorphism& one) {
    const std::vector<bool> start = lanes.ground().initial();
    for (std::size_t f = 0; f < start.size(); ++f) EXPECT_EQ(start[f], start[one.fluents[f]]);
    for (int play = 0; play < 5; ++play) Mirror(lanes, one).play(random, 40);
    ++count;
    return !::testing::Test::HasFailure();
  }));
  return count;
}

std::size_t swaps(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  std::size_t count = 0;
  Random random(1);
  const auto whole = whole_rules(game);
  SymmetryFinder finder(*whole);
  finder.each_between(0, 1, [&](const Automorphism& one) {
    EXPECT_EQ(one.roles[0], 1u);
    for (int play = 0; play < 5; ++play) Mirror(lanes, one).play(random, 40);
    ++count;
    return !::testing::Test::HasFailure();
  });
  return count;
}

Game load(const char* name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::game_path(name), options).value();
}

// A trellis has a bottom, but left and right are the same.
TEST(Symmetry, OfBoards) {
  EXPECT_EQ(symmetries(load("espalier_3x3")), 2u);
  EXPECT_EQ(symmetries(load("espalier", {{"rows", 3}, {"columns", 4}})), 2u);
  EXPECT_EQ(symmetries(load("silo")), 1u);  // crates roll to the left before they roll to the right
}

TEST(Symmetry, OfRoles) {
  EXPECT_GT(swaps(load("espalier_3x3")), 0u);
  EXPECT_GT(swaps(load("silo")), 0u);
  EXPECT_GT(swaps(load("snails")), 0u);
  EXPECT_EQ(swaps(load("channel")), 0u);  // one digs, the other fills
}

// Two gates that differ in one rule are no symmetry, however far it is from what is seen.
TEST(Symmetry, OneRuleBreaksIt) {
  std::string rules = R"(
    (role hen) (gate north) (gate south) (init (shut north)) (init (shut south))
    (<= (legal hen (push ?g)) (gate ?g))
    (<= (next (shut ?g)) (true (shut ?g)) (not (does hen (push ?g))))
    (<= (next (ajar ?g)) (does hen (push ?g)))
    (<= (next (ajar ?g)) (true (ajar ?g)))
    (<= (out ?g) (true (ajar ?g)) (gate ?g))
    (<= terminal (out north) (out south))
    (<= (goal hen 100) terminal)
    (<= (goal hen 0) (not terminal))
  )";
  EXPECT_EQ(symmetries(Game::from_text(rules).value()), 2u);
  rules += "(<= (goal hen 50) (out north) (not (out south)))";
  EXPECT_EQ(symmetries(Game::from_text(rules).value()), 1u);
}

TEST(Symmetry, OfRandomDescriptions) {
  std::size_t found = 0;
  for (std::uint64_t seed = 0; seed < 200 && !HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game || GameAccess::core(*game)->lanes() == nullptr) continue;
    const LaneGame& lanes = *GameAccess::core(*game)->lanes();
    SymmetryFinder finder(lanes.ground());
    Random random(seed);
    bool identity = false;
    std::size_t here = 0;
    const bool all = finder.each_of_start([&](const Automorphism& one) {
      Mirror(lanes, one).play(random, 20);
      bool same = true;
      for (std::uint32_t f = 0; f < one.fluents.size(); ++f) same = same && one.fluents[f] == f;
      identity = identity || same;
      return ++here < 50 && !HasFailure();
    });
    EXPECT_TRUE(identity || !all || here >= 50);
    found += here;
  }
  std::printf("%zu automorphisms played\n", found);
  EXPECT_GT(found, 200u);
}

}  // namespace
}  // namespace orchard::explore::symmetry_test
