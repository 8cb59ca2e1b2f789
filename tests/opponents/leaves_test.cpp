// Leaves worked out many at a time, against the game's own moves one by one.
#include "opponents/leaves.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "explore/sampling/game_tree.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::opponents::leaves_test {
namespace {

using explore::GameTree;
using explore::Node;
using explore::Row;

struct Asked {
  Leaves leaves;
  std::vector<Row> next;  // where each joint move leads
};

// Joint moves of random games, with the positions they are made in.
Asked ask(const Game& game, GameTree& tree, std::uint64_t games) {
  Asked asked;
  for (std::uint64_t number = 0; number < games; ++number) {
    WalkOptions walk;
    walk.game = number;
    walk.seed = 41;
    (void)random_walk(game, walk, [&](const WalkStep& step) {
      if (!step.joint) return true;
      const Row row = tree.row_of(step.position).value();
      asked.leaves.from.insert(asked.leaves.from.end(), row.begin(), row.end());
      for (const Role& role : game.roles()) {
        asked.leaves.joints.push_back(tree.move_number(role.index(), (*step.joint)[role]).value());
      }
      asked.leaves.games.push_back(1 + static_cast<std::uint32_t>(number % 3));
      asked.next.push_back(tree.row_of(game.next(step.position, *step.joint).value()).value());
      return true;
    });
  }
  return asked;
}

TEST(LeafWorker, SaysWhatTheGameSays) {
  for (const char* const name :
       {"espalier", "silo", "graft", "barrow_lane", "pickers", "sprinklers", "market_day"}) {
    SCOPED_TRACE(name);
    const Game game = Game::load(testing::game_path(name)).value();
    const auto tree = GameTree::make(game);
    LeafWorker worker(tree->lanes());
    auto [leaves, next] = ask(game, *tree, 40);
    ASSERT_GT(leaves.count(), 40u);
    Random random(3);
    worker.work(leaves, random);
    const std::size_t roles = worker.roles();
    std::set<std::pair<std::uint32_t, std::uint32_t>> ends;
    for (const auto& end : leaves.ends) ends.emplace(end.leaf, end.choice);
    EXPECT_EQ(ends.size(), leaves.ends.size());
    std::size_t expected_ends = 0;
    for (std::size_t leaf = 0; leaf < leaves.count(); ++leaf) {
      const auto at = leaves.rows.begin() + static_cast<std::ptrdiff_t>(leaf * worker.words());
      EXPECT_TRUE(std::equal(next[leaf].begin(), next[leaf].end(), at));
      const Node node = tree->node(next[leaf]);
      EXPECT_EQ(leaves.over[leaf] != 0, node.over);
      std::size_t choosers = 0;
      bool chance = false;
      for (std::size_t role = 0; role < roles; ++role) {
        const std::size_t first = leaves.first_move[leaf * roles + role];
        const std::size_t end = leaves.first_move[leaf * roles + role + 1];
        const std::vector<std::uint32_t> moves(
            leaves.moves.begin() + static_cast<std::ptrdiff_t>(first),
            leaves.moves.begin() + static_cast<std::ptrdiff_t>(end));
        const float share = leaves.shares[leaf * roles + role];
        if (node.over) {
          EXPECT_TRUE(moves.empty());
          EXPECT_EQ(share, node.shares[role]);
          continue;
        }
        EXPECT_EQ(moves, node.legal[role]);
        EXPECT_GE(share, 0);
        EXPECT_LE(share, 1);
        choosers += moves.size() > 1 ? 1 : 0;
        chance = chance || (moves.size() > 1 && worker.is_chance(role));
      }
      if (node.over || choosers > 1 || chance) continue;
      // Moves of the only chooser that end the game, and what the ends are worth.
      const auto children = tree->children(next[leaf], node);
      for (std::uint32_t choice = 0; choice < children.nodes.size(); ++choice) {
        const bool found = ends.contains({static_cast<std::uint32_t>(leaf), choice});
        EXPECT_EQ(found, children.nodes[choice].over) << leaf << " " << choice;
        expected_ends += found ? 1 : 0;
      }
    }
    EXPECT_EQ(expected_ends, leaves.ends.size());
    for (std::size_t i = 0; i < leaves.ends.size(); ++i) {
      const auto& end = leaves.ends[i];
      const auto children = tree->children(next[end.leaf], tree->node(next[end.leaf]));
      for (std::size_t role = 0; role < roles; ++role) {
        EXPECT_EQ(leaves.end_shares[i * roles + role], children.nodes[end.choice].shares[role]);
      }
    }
  }
}

TEST(LeafWorker, LooksAtOnePositionByItself) {
  const Game game = Game::load(testing::game_path("silo")).value();
  const auto tree = GameTree::make(game);
  LeafWorker worker(tree->lanes());
  Leaves leaves;
  worker.look_at(tree->row_of(game.initial()).value(), leaves);
  ASSERT_EQ(leaves.over.size(), 1u);
  EXPECT_EQ(leaves.over[0], 0);
  EXPECT_EQ(leaves.first_move.back(), 6u);  // five bins, and the other's waiting
  EXPECT_TRUE(leaves.ends.empty());
}

}  // namespace
}  // namespace orchard::opponents::leaves_test
