// Random games from given positions: each position gets its own games, whatever else is played
// beside it.
#include "explore/sampling/random_games.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "explore/sampling/game_tree.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::random_games_test {
namespace {

using explore::GameTree;
using explore::Row;

using testing::load;

// Several thousand games, from positions of very different length to the end, mixed: the mean of
// each position against playouts from it alone, by another program.
TEST(RandomGames, OfManyPositionsAtOnceAreThoseOfEach) {
  for (const char* const name : {"espalier_3x3", "silo", "barrow_lane", "hedgerow"}) {
    SCOPED_TRACE(name);
    const Game game = load(name);
    const auto tree = GameTree::make(game);
    const std::vector<Position> positions = testing::positions_of(game, 3, 23);
    constexpr std::size_t games = 400;
    std::vector<std::uint64_t> rows;
    for (std::size_t i = 0; i < games; ++i) {
      for (const Position& position : positions) {
        const Row row = tree->row_of(position).value();
        rows.insert(rows.end(), row.begin(), row.end());
      }
    }
    RandomGames play(tree->lanes());
    Random random(7);
    const std::size_t roles = game.roles().size();
    const auto shares = play.play(rows, games * positions.size(), random);
    ASSERT_EQ(shares.size(), games * positions.size() * roles);
    EXPECT_GT(play.plies(), 0u);
    for (std::size_t p = 0; p < positions.size(); p += 5) {
      PlayoutOptions options;
      options.games = games;
      options.from = positions[p];
      options.evaluation = Evaluation::reference;
      if (game.terminal(positions[p])) continue;
      const PlayoutStatistics known = run_playouts(game, options).value();
      for (const Role& role : game.roles()) {
        if (role.is_chance()) continue;
        double wanted = 0;
        for (const auto& [goals, count] : known.outcomes) {
          const auto& own = goals[role.index()];
          const double share = own.size() == 1 ? static_cast<double>(*own[0].number()) / 100 : 0.5;
          wanted += share * static_cast<double>(count) / static_cast<double>(known.playouts);
        }
        double got = 0;
        for (std::size_t i = 0; i < games; ++i) {
          got += static_cast<double>(shares[(i * positions.size() + p) * roles + role.index()]);
        }
        // Five standard errors of a share, twice.
        EXPECT_NEAR(got / games, wanted, 5 * std::sqrt(2 * 0.25 / games))
            << p << " " << role.name();
      }
    }
  }
}

// The mean of many random games, against the same of the playouts of the library.
TEST(RandomGames, GoAsPlayoutsDo) {
  for (const char* name : {"espalier", "silo", "barrow_lane", "market_day", "pickers", "snails"}) {
    SCOPED_TRACE(name);
    const Game game = load(name);
    const auto tree = GameTree::make(game);
    constexpr std::size_t games = 4000;
    Random random(3);
    const std::vector<Row> rows(games, tree->row_of(game.initial()).value());
    const std::vector<float> shares = tree->play(rows, random);
    PlayoutOptions options;
    options.games = games;
    const PlayoutStatistics other = run_playouts(game, options).value();
    for (const Role& role : game.roles()) {
      if (role.is_chance()) continue;
      double mean = 0;
      for (std::size_t i = 0; i < games; ++i) mean += shares[i * tree->roles() + role.index()];
      mean /= games;
      double wanted = 0;
      for (const auto& [values, count] : other.outcomes) {
        wanted += static_cast<double>(*values[role.index()].front().number()) / 100 *
                  static_cast<double>(count);
      }
      wanted /= games;
      // Shares spread by 0.5 at most; five standard errors of the difference.
      EXPECT_NEAR(mean, wanted, 5 * 0.5 * std::sqrt(2.0 / games)) << role;
    }
  }
}

TEST(RandomGames, EndsAreJudgedAsTheyStand) {
  const Game game = load("espalier_3x3");
  const auto tree = GameTree::make(game);
  std::vector<std::uint64_t> rows;
  std::vector<float> wanted;
  for (std::uint64_t number = 0; number < 700; ++number) {
    const Position end = testing::positions_of(game, number, 23).back();
    ASSERT_TRUE(game.terminal(end));
    const Row row = tree->row_of(end).value();
    rows.insert(rows.end(), row.begin(), row.end());
    for (const Role& role : game.roles()) {
      wanted.push_back(static_cast<float>(game.goal(end, role).value()) / 100.0F);
    }
  }
  RandomGames play(tree->lanes());
  Random random(1);
  EXPECT_EQ(play.play(rows, 700, random), wanted);
  EXPECT_EQ(play.plies(), 0u);
}

TEST(RandomGames, AreTheSameForTheSameRandomNumbers) {
  const Game game = load("graft");
  const auto tree = GameTree::make(game);
  const Row row = tree->row_of(game.initial()).value();
  std::vector<std::uint64_t> rows;
  for (int i = 0; i < 900; ++i) rows.insert(rows.end(), row.begin(), row.end());
  RandomGames first(tree->lanes());
  RandomGames second(tree->lanes());
  Random random(5);
  Random same(5);
  const auto played = first.play(rows, 900, random);
  EXPECT_EQ(second.play(rows, 900, same), played);
  EXPECT_NE(first.play(rows, 900, random), played);  // other games the next time
}

TEST(RandomGames, AreBrokenOffAfterTheMostPlies) {
  const Game endless = Game::from_text(R"(
    (role r) (init (at a)) (step a b) (step b c) (step c a)
    (legal r on) (<= (next (at ?y)) (true (at ?x)) (step ?x ?y))
    (<= terminal (true (at nowhere))) (goal r 100) (step nowhere nowhere)
    (<= (base (at ?x)) (step ?x ?y)))")
                           .value();
  const auto tree = GameTree::make(endless);
  const Row row = tree->row_of(endless.initial()).value();
  RandomGames play(tree->lanes());
  Random random(5);
  const auto shares = play.play(row, 1, random, 40);
  EXPECT_EQ(shares, std::vector<float>{GoalShares::undecided});
  EXPECT_EQ(play.plies(), 40u);
}

}  // namespace
}  // namespace orchard::random_games_test
