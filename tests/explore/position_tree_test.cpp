// The public tree says what Game says, move by move.
#include "orchard/position_tree.hpp"

#include <gtest/gtest.h>

#include <set>

#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::position_tree_test {
namespace {

TEST(PositionTree, SaysWhatTheGameSays) {
  for (const char* name : {"espalier_3x3", "snails", "market_day", "hedgerow", "barrow_lane"}) {
    SCOPED_TRACE(name);
    const Game game = Game::load(testing::game_path(name)).value();
    PositionTree tree = PositionTree::make(game).value();
    WalkOptions options;
    options.plies = 12;
    for (options.seed = 1; options.seed <= 3; ++options.seed) {
      const auto walked = random_walk(game, options, [&](const WalkStep& step) {
        const auto row = tree.row(step.position).value();
        EXPECT_EQ(tree.position(row).value(), step.position);
        const auto node = tree.node(row);
        EXPECT_EQ(node.over, game.terminal(step.position));
        for (const Role& role : game.roles()) {
          if (const auto goal = game.goal(step.position, role)) {
            EXPECT_FLOAT_EQ(node.shares[role.index()], static_cast<float>(*goal) / 100);
          }
          std::vector<Move> legal;
          for (const auto number : node.legal[role.index()]) {
            legal.push_back(tree.move(role, number));
            EXPECT_EQ(tree.number(role, legal.back()), number);
          }
          if (!node.over) {
            EXPECT_EQ(std::set(legal.begin(), legal.end()).size(), legal.size());
            auto wanted = game.legal(step.position, role);
            std::ranges::sort(wanted);
            std::ranges::sort(legal);
            EXPECT_EQ(legal, wanted);
          }
        }
        const auto children = tree.children(row);
        EXPECT_EQ(children.empty(), node.over);
        for (const auto& child : children) {
          JointMove joint;
          for (const Role& role : game.roles()) {
            joint.add(tree.move(role, child.joint[role.index()]));
          }
          const Position next = game.next(step.position, joint).value();
          EXPECT_EQ(tree.row(next), child.row);
          EXPECT_EQ(child.node.over, game.terminal(next));
        }
        return true;
      });
      ASSERT_TRUE(walked.ok());
    }
  }
}

TEST(PositionTree, PlaysGamesToTheirEnds) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  PositionTree tree = PositionTree::make(game).value();
  Random random(3);
  const std::vector rows(700, tree.row(game.initial()).value());
  const auto shares = tree.play(rows, random);
  ASSERT_EQ(shares.size(), rows.size() * game.roles().size());
  for (std::size_t g = 0; g < rows.size(); ++g) EXPECT_EQ(shares[2 * g] + shares[2 * g + 1], 1.0F);
  Random same(3);
  EXPECT_EQ(tree.play(rows, same), shares);
}

TEST(PositionTree, SaysWhyThereIsNone) {
  LoadOptions options;
  options.circuit_bytes = 0;
  const Game game = Game::load(testing::game_path("espalier_3x3"), options).value();
  const auto none = PositionTree::make(game);
  ASSERT_FALSE(none.ok());
  EXPECT_EQ(none.diagnostics().items().front().code, "too-many-instances");
}

}  // namespace
}  // namespace orchard::position_tree_test
