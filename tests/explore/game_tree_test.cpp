// What opponents and solvers look ahead with, judged by the game's own moves.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "explore/sampling/joint_moves.hpp"

#include "explore/sampling/game_tree.hpp"
#include "orchard/playouts.hpp"
#include "orchard/view.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::game_tree_test {
namespace {

using testing::walk;

using explore::Children;
using explore::GameTree;
using explore::Node;
using explore::Row;

// Every joint move, the first role's choice changing fastest.
std::vector<JointMove> joint_moves(const Game& game, const Position& position) {
  std::vector<std::vector<Move>> legal;
  for (const Role& role : game.roles()) legal.push_back(game.legal(position, role));
  std::vector<std::size_t> choice(legal.size(), 0);
  std::vector<JointMove> result;
  for (std::size_t role = 0; role < legal.size();) {
    JointMove joint;
    for (std::size_t r = 0; r < legal.size(); ++r) joint.add(legal[r][choice[r]]);
    result.push_back(joint);
    for (role = 0; role < legal.size() && ++choice[role] == legal[role].size(); ++role) {
      choice[role] = 0;
    }
  }
  return result;
}

TEST(GameTree, AgreesWithTheGameEverywhere) {
  for (const std::string& path : testing::demo_games()) {
    SCOPED_TRACE(path);
    const Game game = Game::load(path).value();
    const auto tree = GameTree::make(game);
    ASSERT_NE(tree, nullptr);
    walk(game, 21, 10, [&](const WalkStep& step) {
      if (step.ply % 3 != 0) return;
      const Row row = tree->row_of(step.position).value();
      const Node node = tree->node(row);
      EXPECT_EQ(node.over, game.terminal(step.position));
      for (const Role& role : game.roles()) {
        if (const auto goal = game.goal(step.position, role)) {
          EXPECT_FLOAT_EQ(node.shares[role.index()], static_cast<float>(*goal) / 100.0F);
        }
        if (node.over) continue;
        // The same moves, by number; the circuit has an order of its own.
        std::set<std::uint32_t> numbers;
        for (const Move& move : game.legal(step.position, role)) {
          numbers.insert(tree->move_number(role.index(), move).value());
        }
        EXPECT_EQ(std::set<std::uint32_t>(node.legal[role.index()].begin(),
                                          node.legal[role.index()].end()),
                  numbers);
      }
      if (node.over || explore::count_of_joint_moves(node.legal) > 300) return;
      const Children children = tree->children(row, node);
      const auto joints = joint_moves(game, step.position);
      ASSERT_EQ(children.rows.size(), joints.size());
      std::multiset<Row> wanted;
      for (const JointMove& joint : joints) {
        wanted.insert(tree->row_of(game.next(step.position, joint).value()).value());
      }
      EXPECT_EQ(std::multiset<Row>(children.rows.begin(), children.rows.end()), wanted);
      for (std::size_t at = 0; at < children.rows.size(); at += 7) {
        EXPECT_EQ(children.nodes[at].over, tree->node(children.rows[at]).over);
      }
    });
  }
}

// Positions that fit, tracked on the circuit, against every one there is.
TEST(View, TrackedOnLanesIsWhatFits) {
  LoadOptions sizes;
  sizes.sizes = {{"rows", 3}, {"columns", 3}, {"moles", 2}};
  const Game game = Game::load(testing::game_path("moles"), sizes).value();
  const Role digger = *game.role("digger");
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    View view(game, digger);
    std::set<std::string> fitting{game.initial().to_string()};
    std::vector<Position> all{game.initial()};
    walk(game, seed, 7, [&](const WalkStep& step) {
      EXPECT_EQ(view.positions(), all.size());
      const auto some = view.some(3, seed);
      EXPECT_EQ(some.size(), std::min<std::size_t>(3, all.size()));
      for (const Position& position : some) {
        EXPECT_NE(std::ranges::find(all, position), all.end());
      }
      if (!step.joint) return;
      const auto seen = game.percepts(step.position, *step.joint, digger).value();
      std::vector<Position> next;
      for (const Position& position : all) {
        if (game.terminal(position)) continue;
        for (const JointMove& joint : joint_moves(game, position)) {
          if (joint[digger] != (*step.joint)[digger]) continue;
          if (game.percepts(position, joint, digger).value() != seen) continue;
          const Position after = game.next(position, joint).value();
          if (std::ranges::find(next, after) == next.end()) next.push_back(after);
        }
      }
      all = std::move(next);
      EXPECT_TRUE(view.advance(step.position, *step.joint).empty());
    });
  }
}

}  // namespace
}  // namespace orchard::game_tree_test
