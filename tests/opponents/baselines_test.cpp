// The players written by hand that opponents are measured against: their rules are those of the
// descriptions, and they find wins.
#include <gtest/gtest.h>

#include "baselines/alpha_beta.hpp"
#include "baselines/graft_player.hpp"
#include "baselines/silo_player.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::bench::baselines_test {
namespace {

using orchard::testing::load;

// Every move of random games, by the engine and by hand.
template <class State>
void compare(const Game& game, std::uint64_t games) {
  for (std::uint64_t number = 0; number < games; ++number) {
    WalkOptions walk;
    walk.game = number;
    walk.seed = 9;
    (void)random_walk(game, walk, [&](const WalkStep& step) {
      if (game.terminal(step.position)) return true;
      const Role role = game.to_move(step.position).front();
      const State state = State::of(game, step.position, role);
      EXPECT_FALSE(state.over());
      int moves[State::most_moves];
      const int count = state.moves(moves);
      const std::vector<Move> legal = game.legal(step.position, role);
      EXPECT_EQ(static_cast<std::size_t>(count), legal.size());
      for (int i = 0; i < count; ++i) {
        const Move move = game.move(Term::parse(State::text_of(moves[i])).value());
        const auto joint = game.joint_move(step.position, role, move);
        EXPECT_TRUE(joint);
        const Position next = game.next(step.position, *joint).value();
        const State after = state.after(moves[i]);
        EXPECT_EQ(after, State::of(game, next, game.roles()[1 - role.index()]));
        EXPECT_EQ(after.over(), game.terminal(next));
      }
      return true;
    });
  }
}

TEST(Baselines, SiloByHandIsSilo) {
  compare<SiloState<6, 6>>(load("silo", {{"heights", 6}, {"bins", 6}}), 15);
  compare<SiloState<4, 5>>(load("silo", {{"heights", 4}, {"bins", 5}}), 15);
}

TEST(Baselines, GraftByHandIsGraft) {
  compare<GraftState<6, 6>>(load("graft", {}), 12);
  compare<GraftState<5, 5>>(load("graft", {{"rows", 5}, {"columns", 5}}), 12);
}

// Wherever a move wins at once, it is made.
template <class State>
void takes_wins(const Game& game, std::uint64_t games) {
  std::size_t met = 0;
  for (std::uint64_t number = 0; number < games; ++number) {
    WalkOptions walk;
    walk.game = number;
    (void)random_walk(game, walk, [&](const WalkStep& step) {
      if (!step.joint) return true;
      const Role role = game.to_move(step.position).front();
      const auto wins = [&](const Move& move) {
        const auto joint = game.joint_move(step.position, role, move).value();
        const Position next = game.next(step.position, joint).value();
        return game.terminal(next) && game.goal(next, role) == 100;
      };
      if (std::ranges::none_of(game.legal(step.position, role), wins)) return true;
      ++met;
      AlphaBeta<State, State::most_moves> search;
      SearchReport report;
      const int move = search.choose(State::of(game, step.position, role), 1, report);
      EXPECT_TRUE(wins(game.move(Term::parse(State::text_of(move)).value()))) << step.position;
      EXPECT_EQ(report.nodes > 0, game.legal(step.position, role).size() > 1);
      return true;
    });
  }
  EXPECT_GT(met, 5u);
}

TEST(Baselines, AlphaBetaTakesAWin) {
  takes_wins<SiloState<4, 5>>(load("silo", {{"heights", 4}, {"bins", 5}}), 80);
}

}  // namespace
}  // namespace orchard::bench::baselines_test
