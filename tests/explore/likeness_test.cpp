// Positions that the rules do not tell apart: the same stands for all of them, and moves go along.
#include "explore/symmetry/likeness.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "orchard/playouts.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::explore::likeness_test {
namespace {

Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::game_path(name), options).value();
}

std::vector<std::string> sorted_texts(const std::vector<Move>& moves) {
  std::vector<std::string> result;
  for (const Move& move : moves) result.push_back(move.to_string());
  std::ranges::sort(result);
  return result;
}

TEST(Likeness, FindsWhatTheRulesDoNotTellApart) {
  EXPECT_EQ(Likeness(load("espalier_3x3")).renamings(), 1u);  // seen from behind
  EXPECT_EQ(Likeness(load("silo")).renamings(), 0u);          // crates topple to the left first
  EXPECT_EQ(Likeness(load("snails")).renamings(), 0u);
}

// Of every position of random games: what stands for it is legal in the same way, goes on to
// positions that stand for the same, and stands for itself.
TEST(Likeness, StandsForThePositionInEveryWay) {
  std::size_t renamed = 0;
  for (const char* const name : {"espalier_3x3", "espalier", "graft", "sprinklers", "silo"}) {
    SCOPED_TRACE(name);
    const Game game = load(name);
    const Likeness likeness(game);
    for (std::uint64_t number = 0; number < 4; ++number) {
      WalkOptions walk;
      walk.game = number;
      walk.seed = 17;
      (void)random_walk(game, walk, [&](const WalkStep& step) {
        if (game.terminal(step.position) || step.ply % 3 != 1) return true;
        const Role role = game.to_move(step.position).front();
        const std::vector<Move> legal = game.legal(step.position, role);
        const auto alike = likeness.standing_for(game, step.position, role, legal);
        renamed += alike.position == step.position ? 0 : 1;
        const std::vector<Move> there = game.legal(alike.position, role);
        EXPECT_EQ(there.size(), legal.size());
        for (const Move& move : alike.moves) {
          EXPECT_TRUE(std::ranges::find(there, move) != there.end()) << move;
        }
        const auto again = likeness.standing_for(game, alike.position, role, there);
        EXPECT_EQ(again.position, alike.position);
        for (std::size_t i = 0; i < legal.size(); i += 3) {
          const Position next =
              game.next(step.position, game.joint_move(step.position, role, legal[i]).value())
                  .value();
          const Position other =
              game.next(alike.position,
                        game.joint_move(alike.position, role, alike.moves[i]).value())
                  .value();
          EXPECT_EQ(likeness.standing_for(game, next, role, {}).position,
                    likeness.standing_for(game, other, role, {}).position);
        }
        return true;
      });
    }
  }
  EXPECT_GT(renamed, 10u);
}

// At the start of a mirrored board, left and right are the same move.
TEST(Likeness, MovesThatAPositionDoesNotTellApartAreOne) {
  const Game game = load("espalier_3x3");
  const Likeness likeness(game);
  const Role& east = game.roles()[0];
  const std::vector<Move> legal = game.legal(game.initial(), east);
  const auto alike = likeness.standing_for(game, game.initial(), east, legal);
  EXPECT_EQ(alike.position, game.initial());
  const std::vector<std::string> texts = sorted_texts(alike.moves);
  EXPECT_EQ(texts, (std::vector<std::string>{"(tie 1 1)", "(tie 1 1)", "(tie 1 2)"}));
}

TEST(Likeness, WithoutACircuitEverythingStandsForItself) {
  const Game growing = Game::from_text(R"(
    (role r) (init (grown seed)) (legal r grow)
    (<= (next (grown (leaf ?x))) (true (grown ?x)) (does r grow))
    (<= terminal (true (grown (leaf (leaf ?x))))) (goal r 100))")
                           .value();
  const Likeness likeness(growing);
  EXPECT_EQ(likeness.renamings(), 0u);
  const auto alike = likeness.standing_for(growing, growing.initial(), growing.roles()[0], {});
  EXPECT_EQ(alike.position, growing.initial());
}

}  // namespace
}  // namespace orchard::explore::likeness_test
