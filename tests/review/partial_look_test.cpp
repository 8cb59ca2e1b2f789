// Answers where a budget ends both the exploration and the look at every position.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

#include <map>

#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "review/inquiry/exploration.hpp"
#include "support/answers.hpp"
#include "support/discs.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"
#include "support/symmetric_rules.hpp"

namespace orchard::partial_look_test {
namespace {

using ::testing::AllOf;
using testing::answer;
using ::testing::HasSubstr;
using testing::load;
using ::testing::StartsWith;

std::uint64_t positions_up_to(const Review& review, std::size_t depth) {
  std::uint64_t result = 0;
  for (std::size_t d = 0; d <= depth; ++d) result += review.depths[d].positions;
  return result;
}

// The look keeps less of a position, so it gets deeper than what is explored in the same memory.
TEST(PartialLook, SaysHowDeepItCame) {
  const Game game = load("channel", {{"rows", 3}, {"columns", 3}});
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.symmetry = ReviewOptions::Symmetry::never;
  options.claims = folder.write(
      "some.claims",
      "(claim \"late\" (never (and terminal (goal warden 100))))\n"
      "(claim \"hoped\" (possible (and terminal (goal warden 100))))\n"
      "(claim \"early\" (never (and (true (square 1 1 water)) (true (square 2 1 water)))))\n");
  const Review whole = review_rules(game, options).value();
  ASSERT_TRUE(whole.complete());
  ASSERT_TRUE(whole.looked_at_all);
  std::size_t partial = 0;
  std::size_t unknown = 0;
  for (const std::uint64_t megabytes : {1, 2, 4}) {
    SCOPED_TRACE(megabytes);
    options.budget.memory_bytes = megabytes << 20;
    const Review review = review_rules(game, options).value();
    EXPECT_FALSE(review.complete());
    EXPECT_FALSE(review.looked_at_all);
    if (!review.looked_at) continue;
    ++partial;
    const std::size_t depth = review.depths.size() - 1;
    ASSERT_LT(depth, whole.depths.size() - 1);
    EXPECT_GT(*review.looked_at, review.positions);
    EXPECT_EQ(*review.looked_at, positions_up_to(whole, depth));
    for (std::size_t d = 0; d <= depth; ++d) {
      EXPECT_EQ(review.depths[d].positions, whole.depths[d].positions);
      EXPECT_EQ(review.depths[d].ends, whole.depths[d].ends);
    }
    EXPECT_GT(review.random_games, 0u);
    EXPECT_EQ(answer(review, "dead").verdict, Verdict::unknown);
    EXPECT_EQ(answer(review, "dead").evidence.reach.kind, Reach::Kind::random_games);
    const Reach extent{Reach::Kind::depths, *review.looked_at, depth};
    EXPECT_EQ(extent.text(), fmt::format("in all {} positions up to depth {}; unknown beyond",
                                         *review.looked_at, depth));
    // The warden wins late, seldom by chance.
    for (const char* id : {"late", "hoped", "winnable:warden"}) {
      unknown += answer(review, id).verdict == Verdict::unknown ? 1 : 0;
    }
    const Answer& late = answer(review, "late");
    if (late.verdict == Verdict::unknown) {
      EXPECT_EQ(late.evidence, (Evidence{{}, {}, {}, {}, extent}));
    }
    const Answer& hoped = answer(review, "hoped");
    if (hoped.verdict == Verdict::unknown) {
      EXPECT_EQ(hoped.evidence.reach, extent);
    }
    const Answer& winnable = answer(review, "winnable:warden");
    if (winnable.verdict == Verdict::unknown) {
      EXPECT_EQ(winnable.evidence.reach, extent);
    }
    // What was met is met after as many plies.
    EXPECT_EQ(answer(review, "early").verdict, answer(whole, "early").verdict);
    if (answer(whole, "early").line) {
      EXPECT_EQ(answer(review, "early").line->joints.size(),
                answer(whole, "early").line->joints.size());
    }
  }
  EXPECT_GE(partial, 2u);
  EXPECT_GE(unknown, 4u);
}

TEST(PartialLook, OfWhatIsExploredSaysHowDeepToo) {
  const Game game = Game::from_text(testing::discs(4)).value();
  ReviewOptions options;
  options.allow = question_ids();
  const testing::TemporaryFolder folder;
  options.claims =
      folder.write("some.claims",
                   "(claim \"first\" (never (and back (true odd) (does miller (turn 1)))))\n"
                   "(claim \"second\" (never (and back (true odd) (does miller (turn 2)))))\n");
  const Review whole = review_rules(game, options).value();
  ASSERT_TRUE(whole.complete());
  std::size_t read = 0;
  for (const std::uint64_t positions : {1u, 2u, 30u, 300u}) {
    SCOPED_TRACE(positions);
    options.budget.positions = positions;
    const Review review = review_rules(game, options).value();
    ASSERT_FALSE(review.complete());
    EXPECT_FALSE(review.looked_at.has_value());
    for (const Answer& claim : review.claims) {
      if (claim.verdict != Verdict::unknown) continue;
      const Reach& reach = claim.evidence.reach;
      ASSERT_EQ(reach.kind, Reach::Kind::depths) << claim.evidence.text();
      EXPECT_TRUE(reach.joint_moves);
      if (reach.depth == 0) {
        EXPECT_EQ(claim.evidence.text(), "at the start and every joint move; unknown beyond");
        continue;
      }
      // As the whole exploration counts them.
      EXPECT_EQ(reach.positions, positions_up_to(whole, reach.depth));
      EXPECT_LE(reach.positions, review.positions);
      ++read;
    }
  }
  EXPECT_GE(read, 4u);
}

// What cannot be is proved not to be, beyond what is explored.
TEST(PartialLook, WhatIsHopedForIsProvedImpossible) {
  const Game game = load("silo");
  ReviewOptions options;
  options.budget.positions = 2000;
  const testing::TemporaryFolder folder;
  options.claims = folder.write(
      "some.claims",
      "(claim \"both win\" (possible (and (wins miller) (wins baker))))\n"
      "(claim \"two in turn\" (possible (and (true (turn ?who)) (true (turn ?other)) (distinct "
      "?who ?other))))\n"
      "(claim \"the floor is taken\" (possible (true (place 1 1 ?who))))\n"
      "(claim \"full\" (possible (and terminal (goal miller 50))))\n");
  const Review review = review_rules(game, options).value();
  EXPECT_FALSE(review.complete());
  for (const char* id : {"both win", "two in turn"}) {
    EXPECT_EQ(answer(review, id).verdict, Verdict::fails);
    EXPECT_THAT(answer(review, id).evidence.text(),
                AllOf(StartsWith("never holds"),
                      HasSubstr(", in every reachable position: proved by induction")));
  }
  EXPECT_EQ(answer(review, "the floor is taken").verdict, Verdict::holds);
  EXPECT_NE(answer(review, "full").verdict, Verdict::fails);
  const Sought nowhere = find_position(game, "(and (wins miller) (wins baker))", options).value();
  EXPECT_TRUE(nowhere.proved);
  EXPECT_FALSE(nowhere.line.has_value());
  // A full silo is met late, but it is not excluded.
  const Sought full =
      find_position(game, "(and terminal (goal miller 50) (not room_left))", options).value();
  EXPECT_FALSE(full.proved);
}

// All roles together force whatever was met, and nobody forces what cannot be; with the start alone
// explored, against the whole space.
TEST(PartialLook, WhatRolesForceIsAsInTheWholeSpace) {
  const testing::TemporaryFolder folder;
  std::map<Verdict, std::size_t> certain;
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    const std::string rules =
        seed <= 30 ? testing::random_rules(seed) : testing::symmetric_rules(seed);
    const auto game = Game::from_text(rules);
    if (!game) continue;
    std::string claims;
    const auto claim = [&](const std::string& roles, const std::string& formula) {
      claims += fmt::format("(claim \"{}\" (can-force {} {}))\n", claims.size(), roles, formula);
    };
    std::string everybody;
    for (const Role& role : game->roles()) everybody += role.name() + " ";
    WalkOptions walk;
    walk.plies = 12;
    (void)random_walk(*game, walk, [&](const WalkStep& step) {
      for (const Term& fluent : step.position.fluents()) {
        claim(everybody, fmt::format("(true {})", fluent.to_string()));
        claim(game->roles()[0].name(), fmt::format("(true {})", fluent.to_string()));
      }
      return claims.size() < 2000;
    });
    for (const Role& role : game->roles()) {
      claim(everybody, fmt::format("(and terminal (goal {} 100))", role.name()));
      claim(everybody,
            fmt::format("(and terminal (goal {} 50) (goal {} 100))", role.name(), role.name()));
    }
    SCOPED_TRACE(rules + claims);
    ReviewOptions options;
    options.claims = folder.write("some.claims", claims);
    options.allow = question_ids();
    options.budget.positions = 3000;
    const auto whole = review_rules(*game, options);
    if (!whole || !whole->complete()) continue;
    options.budget.positions = 1;
    const Review few = review_rules(*game, options).value();
    for (std::size_t c = 0; c < few.claims.size(); ++c) {
      if (few.claims[c].verdict == Verdict::unknown) continue;
      EXPECT_EQ(few.claims[c].verdict, whole->claims[c].verdict)
          << few.claims[c].id << ": " << few.claims[c].evidence.text();
      ++certain[few.claims[c].verdict];
    }
  }
  EXPECT_GE(certain[Verdict::holds], 300u);
  EXPECT_GE(certain[Verdict::fails], 30u);
}

// What was explored when the time ended is looked at all the same. How long a machine takes to
// prepare is not known, so the time is doubled until something was explored.
TEST(PartialLook, WhatIsExploredInTimeIsFound) {
  const testing::TemporaryFolder folder;
  const Game game = Game::load(testing::game_path("graft")).value();
  const auto look_for = [&](const std::string& formula, double seconds) {
    ReviewOptions options;
    options.budget.seconds = seconds;
    options.budget.positions = 1'000'000'000;
    // A folder for each call, so that there is no early look and nothing to go on from.
    options.budget.checkpoint =
        Checkpoint{folder.path(fmt::format("{} {}", formula.size(), seconds))};
    return find_position(game, formula, options).value();
  };
  const auto in_some_time = [&](const std::string& formula, auto&& enough) {
    for (const double seconds : {1.0, 2.0, 4.0, 8.0, 16.0}) {
      const Sought sought = look_for(formula, seconds);
      if (enough(sought)) return sought;
    }
    return Sought{};
  };
  const Sought sought = in_some_time("(not (true (turn ?first)))",
                                     [](const Sought& each) { return each.positions > 0; });
  EXPECT_GT(sought.positions, 0u);
  EXPECT_EQ(sought.ending, Ending::time);
  const Sought met =
      in_some_time("(not terminal)", [](const Sought& each) { return each.line.has_value(); });
  EXPECT_TRUE(met.line.has_value());
}

// An interrupt while random games are played again takes nothing away from what was seen in them.
TEST(PartialLook, WhatWasSeenInRandomGamesKeepsItsLine) {
  const Game game = Game::load(testing::game_path("silo")).value();
  review::Exploration exploration(game, game, 1);
  std::optional<explore::SampledGames::Place> deepest;
  exploration.sample([&](auto, std::span<const explore::SampledGames::Place> places,
                         const LaneEvaluator&) { deepest = places.back(); });
  ASSERT_TRUE(deepest);
  ASSERT_GT(deepest->ply, 5u);
  const Line line = exploration.line_to(*deepest);
  EXPECT_THROW(exploration.sample(
                   [](auto, auto, const LaneEvaluator&) { throw Interrupted{Ending::stopped}; }),
               Interrupted);
  EXPECT_EQ(exploration.line_to(*deepest).last(), line.last());
  EXPECT_EQ(line.joints.size(), deepest->ply);
}

TEST(PartialLook, ALineMayLieDeeperThanAnyExplorationComes) {
  const Game game = Game::from_text(testing::discs(8)).value();
  ReviewOptions options;
  options.budget.positions = 5'000;
  const Sought sought = find_position(game, "opened", options).value();
  ASSERT_TRUE(sought.line);
  EXPECT_GE(sought.line->joints.size(), 8u * 9u);
  EXPECT_FALSE(sought.shortest);
  EXPECT_TRUE(game.terminal(sought.line->last()));
  // The reviewer meets it, too; and what cannot be is proved.
  const Review review = review_rules(game, options).value();
  EXPECT_EQ(answer(review, "winnable:miller").verdict, Verdict::holds);
  const Sought none = find_position(game, "(and (true (at 1 3)) (true (at 1 4)))", options).value();
  EXPECT_FALSE(none.line);
  EXPECT_TRUE(none.proved);
}

}  // namespace
}  // namespace orchard::partial_look_test
