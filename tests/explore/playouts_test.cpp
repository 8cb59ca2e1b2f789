#include "orchard/playouts.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "support/files.hpp"

namespace orchard::playouts_test {
namespace {

Game load(std::string_view name) {
  return Game::load(testing::game_path(name)).value();
}

PlayoutStatistics run(const Game& game, std::uint64_t games, unsigned threads = 1) {
  PlayoutOptions options;
  options.games = games;
  options.threads = threads;
  return run_playouts(game, options).value();
}

TEST(Playouts, AreTheSameForAnyNumberOfThreads) {
  const Game game = load("espalier_3x3");
  const PlayoutStatistics one = run(game, 300);
  const PlayoutStatistics three = run(load("espalier_3x3"), 300, 3);
  EXPECT_EQ(one.playouts, 300u);
  EXPECT_EQ(one.plies, three.plies);
  EXPECT_EQ(one.lengths, three.lengths);
  EXPECT_EQ(one.branching, three.branching);
  EXPECT_EQ(one.outcomes, three.outcomes);
  PlayoutOptions other;
  other.games = 300;
  other.seed = 2;
  EXPECT_NE(run_playouts(game, other).value().plies, one.plies);
}

TEST(Playouts, AddUpTheGamesThatWalkShows) {
  const Game game = load("silo");
  PlayoutOptions by_reference;
  by_reference.games = 30;
  by_reference.evaluation = Evaluation::reference;
  const PlayoutStatistics sum = run_playouts(game, by_reference).value();
  std::map<std::uint64_t, std::uint64_t> lengths;
  std::map<std::vector<std::vector<Term>>, std::uint64_t> outcomes;
  WalkOptions options;
  for (options.game = 0; options.game < 30; ++options.game) {
    EXPECT_TRUE(random_walk(game, options, [&](const WalkStep& step) {
                  if (step.joint) return true;
                  ++lengths[step.ply];
                  std::vector<std::vector<Term>> values;
                  for (const Role& role : game.roles()) {
                    values.push_back(game.goals(step.position, role));
                  }
                  ++outcomes[values];
                  return true;
                }).value());
  }
  EXPECT_EQ(sum.lengths, lengths);
  EXPECT_EQ(sum.outcomes, outcomes);
}

// The same games whatever runs the circuit, and the same statistics as straight from the rules but
// for chance: shares, mean lengths and numbers of moves within five standard errors.
TEST(Playouts, AreTheSameWhateverWorksThemOut) {
  for (const char* name : {"espalier_3x3", "silo", "channel", "barrow_lane", "hedgerow"}) {
    SCOPED_TRACE(name);
    const Game game = load(name);
    PlayoutOptions options;
    options.games = 1500;
    const PlayoutStatistics fast = run_playouts(game, options).value();
    options.evaluation = Evaluation::interpreter;
    const PlayoutStatistics plain = run_playouts(game, options).value();
    EXPECT_EQ(fast.outcomes, plain.outcomes);
    EXPECT_EQ(fast.lengths, plain.lengths);
    EXPECT_EQ(fast.branching, plain.branching);
    options.evaluation = Evaluation::reference;
    options.games = 400;
    const PlayoutStatistics slow = run_playouts(game, options).value();
    EXPECT_NEAR(fast.mean_length(), slow.mean_length(), 0.03 * slow.mean_length() + 0.2);
    for (std::size_t r = 0; r < fast.branching.size(); ++r) {
      EXPECT_NEAR(fast.branching[r], slow.branching[r], 0.05 * slow.branching[r]) << r;
    }
    for (const auto& [values, count] : slow.outcomes) {
      const double share = static_cast<double>(count) / 400;
      const auto found = fast.outcomes.find(values);
      const double other =
          found == fast.outcomes.end() ? 0 : static_cast<double>(found->second) / 1500;
      EXPECT_NEAR(share, other, 5 * std::sqrt((share * (1 - share) + 0.001) / 400));
    }
  }
}

TEST(Playouts, WalkFollowsTheRules) {
  const Game game = load("silo");
  std::optional<Position> expected;
  ASSERT_TRUE(random_walk(game, {}, [&](const WalkStep& step) {
                EXPECT_EQ(step.position, expected.value_or(game.initial()));
                if (step.joint) expected = game.next(step.position, *step.joint).value();
                return true;
              }).ok());
  EXPECT_TRUE(game.terminal(*expected));
}

const char* const coin = R"(
  (role random) (role a) (init start) (side heads) (side tails)
  (<= (legal random (toss ?s)) (side ?s)) (legal a wait)
  (<= (next (up ?s)) (does random (toss ?s)))
  (<= terminal (true (up ?s))) (<= (goal a 100) (true (up heads))) (<= (goal a 0) (true (up tails))))";

// Chi-square with one degree of freedom stays below 10.8 in 999 of 1000 seeds; this seed is fixed.
TEST(Playouts, ChanceIsUniform) {
  const PlayoutStatistics result = run(Game::from_text(coin).value(), 10'000);
  ASSERT_EQ(result.outcomes.size(), 2u);
  double chi_square = 0;
  for (const auto& [values, count] : result.outcomes) {
    const double off = static_cast<double>(count) - 5000;
    chi_square += off * off / 5000;
  }
  EXPECT_LT(chi_square, 10.8);
  EXPECT_DOUBLE_EQ(result.mean_length(), 1.0);
  EXPECT_DOUBLE_EQ(result.branching[0], 2.0);
}

TEST(Playouts, CountGamesThatDoNotEndAndGamesThatAreStuck) {
  const Game endless = Game::from_text("(role r)(init s)(next s)(legal r go)(legal r on)").value();
  PlayoutOptions options;
  options.games = 5;
  options.plies = 20;
  const PlayoutStatistics result = run_playouts(endless, options).value();
  EXPECT_EQ(result.unfinished, 5u);
  EXPECT_EQ(result.plies, 100u);
  EXPECT_EQ(result.finished(), 0u);
  EXPECT_EQ(result.median_length(), 0u);
  const Game stuck = Game::from_text("(role r)(role q)(init s)(legal r go)").value();
  EXPECT_EQ(run(stuck, 3).stuck, 3u);
  std::vector<Role> named;
  (void)random_walk(stuck, {}, [&](const WalkStep& step) {
    named = step.stuck;
    return true;
  });
  ASSERT_EQ(named.size(), 1u);
  EXPECT_EQ(named[0].name(), "q");
}

TEST(Playouts, BeginAnywhere) {
  const Game game = load("espalier_3x3");
  PlayoutOptions options;
  options.games = 10;
  options.from =
      game.position({Term::parse("(turn west)").value(), Term::parse("(square 1 1 bare)").value()})
          .value();
  const PlayoutStatistics result = run_playouts(game, options).value();
  EXPECT_EQ(result.lengths.begin()->first, 1u);
}

// Parts are finished or left as a whole: if games were left one by one, the long ones would be
// missing.
TEST(Playouts, LeaveOutNoLongGameWhereTimeEnds) {
  const Game game = load("silo");
  const double mean = run(game, 200'000).mean_length();
  PlayoutOptions options;
  options.budget.seconds = 0.05;
  options.threads = 2;
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    options.seed = seed;
    const PlayoutStatistics timed = run_playouts(game, options).value();
    EXPECT_EQ(timed.ending, Ending::time);
    ASSERT_GT(timed.playouts, 500u);
    EXPECT_EQ(timed.playouts % 512, 0u);  // lanes with as many games each
    EXPECT_NEAR(timed.mean_length(), mean, mean / 50);
    EXPECT_LT(timed.seconds, 1);  // wanted is a tenth; the machine may be busy
  }
}

TEST(Playouts, StopWhenAsked) {
  std::stop_source source;
  source.request_stop();
  PlayoutOptions options;
  options.budget.stop = source.get_token();
  const PlayoutStatistics result = run_playouts(load("silo"), options).value();
  EXPECT_EQ(result.ending, Ending::stopped);
  EXPECT_EQ(result.playouts, 0u);
}

}  // namespace
}  // namespace orchard::playouts_test
