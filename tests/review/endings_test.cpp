// The order in which all that follows a position comes before it, and the cycles that prevent it.
#include <gtest/gtest.h>

#include "game/core.hpp"
#include "review/inquiry/end_order.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::review::endings_test {
namespace {

using explore::StateSpace;

// Explores a game as far as a budget goes.
std::unique_ptr<StateSpace> explored(const Game& game, std::uint64_t positions) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr) return nullptr;
  auto space = std::make_unique<StateSpace>(*lanes);
  Budget budget;
  budget.positions = positions;
  const auto bits = lanes->bits(GameAccess::state(game.initial()).fluents());
  EXPECT_TRUE(space->explore(lanes->row(*bits), budget).ok());
  return space;
}

// The plies of a shortest line to a position that comes again, looked for from every position.
std::size_t shortest_round(const StateSpace& space) {
  std::size_t result = ~std::size_t{0};
  for (StateSpace::Number from = 0; from < space.expanded(); ++from) {
    std::vector<std::size_t> plies(space.size(), 0);  // 0: not met
    std::vector<StateSpace::Number> queue{from};
    for (std::size_t i = 0; i < queue.size(); ++i) {
      if (queue[i] >= space.expanded()) continue;
      const std::size_t next = (i == 0 ? 0 : plies[queue[i]]) + 1;
      for (const StateSpace::Number to : space.steps(queue[i])) {
        if (to == from) result = std::min(result, space.depth(from) + next);
        if (to == from || plies[to] != 0) continue;
        plies[to] = next;
        queue.push_back(to);
      }
    }
  }
  return result;
}

void expect_order(const StateSpace& space) {
  const EndOrder order = end_order(space);
  std::vector<bool> done(space.size(), false);
  for (StateSpace::Number p = space.expanded(); p < space.size(); ++p) done[p] = true;
  for (const StateSpace::Number p : order.order) {
    for (const StateSpace::Number next : space.steps(p)) EXPECT_TRUE(done[next]);
    EXPECT_FALSE(done[p]);  // once
    done[p] = true;
  }
  EXPECT_EQ(order.cycle.empty(), order.order.size() == space.expanded());
  if (order.cycle.empty()) return;
  // A line from the start that comes back to one of its own positions, and to no other before.
  EXPECT_EQ(order.cycle.front(), 0u);
  ASSERT_LT(order.repeats_from, order.cycle.size() - 1);
  EXPECT_EQ(order.cycle[order.repeats_from], order.cycle.back());
  EXPECT_TRUE(order.is_shortest);
  EXPECT_EQ(order.cycle.size() - 1, shortest_round(space));
  for (std::size_t i = 0; i + 1 < order.cycle.size(); ++i) {
    const auto steps = space.steps(order.cycle[i]);
    EXPECT_NE(std::ranges::find(steps, order.cycle[i + 1]), steps.end());
  }
}

TEST(EndOrder, FollowersComeFirstOrThereIsACycle) {
  std::size_t cycles = 0;
  std::size_t ordered = 0;
  for (std::uint64_t seed = 1; seed <= 80; ++seed) {
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game) continue;
    const auto space = explored(*game, 1500);
    if (space == nullptr) continue;
    expect_order(*space);
    (end_order(*space).cycle.empty() ? ordered : cycles) += 1;
  }
  EXPECT_GE(cycles, 10u);
  EXPECT_GE(ordered, 1u);
  for (const char* name : {"snails", "espalier_3x3", "market_day", "beeline", "sprinklers"}) {
    const auto space = explored(Game::load(testing::game_path(name)).value(), 10'000);
    expect_order(*space);
    EXPECT_TRUE(end_order(*space).cycle.empty()) << name;
  }
}

TEST(EndOrder, ABudgetLeavesTheRestOut) {
  const Game game = Game::load(testing::game_path("silo")).value();
  const auto space = explored(game, 3000);
  ASSERT_FALSE(space->complete());
  expect_order(*space);
  EXPECT_TRUE(end_order(*space).cycle.empty());
}

}  // namespace
}  // namespace orchard::review::endings_test
