// Many positions at once answer as each of them alone.
#include "orchard/batch.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "circuit/lanes/transpose.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"

namespace orchard::batch_test {
namespace {

using ::testing::HasSubstr;

Game load(const char* name) {
  return Game::load(testing::game_path(name)).value();
}

// Random games side by side, more than fit into the lanes once, against the same games alone.
TEST(Batch, PlaysAsTheGameDoes) {
  for (const char* const name : {"espalier_3x3", "channel", "barrow_lane"}) {
    const Game game = load(name);
    Batch batch = Batch::make(game).value();
    std::vector<Position> positions(600, game.initial());
    ASSERT_TRUE(batch.assign(positions).empty());
    ASSERT_EQ(batch.size(), 600u);
    Random random(3);
    for (int ply = 0; ply < 6; ++ply) {
      std::vector<JointMove> joints;
      for (std::size_t i = 0; i < positions.size(); ++i) {
        ASSERT_EQ(batch.terminal(i), game.terminal(positions[i]));
        JointMove joint;
        for (const Role& role : game.roles()) {
          const auto legal = game.legal(positions[i], role);
          ASSERT_EQ(batch.legal(i, role), legal);
          ASSERT_EQ(batch.legal_count(i, role), legal.size());
          ASSERT_EQ(batch.goals(i, role), game.goals(positions[i], role));
          if (!legal.empty()) joint.add(legal[random.below(legal.size())]);
        }
        joints.push_back(joint);
        if (!game.terminal(positions[i])) positions[i] = game.next(positions[i], joint).value();
      }
      ASSERT_TRUE(batch.advance(joints).empty());
      for (std::size_t i = 0; i < positions.size(); ++i) {
        ASSERT_EQ(batch.position(i), positions[i]) << name << " ply " << ply;
      }
    }
  }
}

TEST(Batch, RefusesMovesThatAreNotLegalAndChangesNothing) {
  const Game game = load("espalier_3x3");
  Batch batch = Batch::make(game).value();
  ASSERT_TRUE(batch.assign(std::vector(3, game.initial())).empty());
  std::vector<JointMove> joints;
  for (int i = 0; i < 3; ++i) {
    joints.push_back(game.joint_move(game.initial(), game.roles()[0],
                                     game.legal(game.initial(), game.roles()[0])[0])
                         .value());
  }
  joints[2] = JointMove({joints[0][1], joints[0][1]});
  const std::string fault = batch.advance(joints).render();
  EXPECT_THAT(fault, HasSubstr("east cannot play wait here"));
  EXPECT_THAT(fault, HasSubstr("position 2"));
  EXPECT_EQ(batch.position(0), game.initial());
  EXPECT_THROW((void)batch.advance(std::span(joints).first(2)), std::logic_error);
  EXPECT_THROW((void)batch.terminal(3), std::logic_error);
}

TEST(Batch, RefusesWhatNoPlayCanLeadTo) {
  const Game game =
      Game::from_text(
          "(role a) (init (n 0)) (legal a go) (<= (next (n 1)) (true (n 0))) (goal a 1)"
          "(<= (next (n ?x)) (true (m ?x))) (<= (next (m ?x)) (true (m ?x)))")
          .value();
  Batch batch = Batch::make(game).value();
  const Position odd = game.position({Term::parse("(m 7)").value()}).value();
  EXPECT_THAT(batch.assign({{odd}}).render(), HasSubstr("unforeseen-fluent"));
  EXPECT_EQ(batch.size(), 0u);
  EXPECT_EQ(game.next(odd, JointMove({game.move(Term::parse("go").value())})).value().to_string(),
            "(position (m 7) (n 7))");
}

TEST(Batch, NeedsRulesWithoutUnboundedGrowth) {
  const Game game = Game::from_text(
                        "(role a) (init (n z)) (legal a go) (<= (next (n (s ?x))) (true (n ?x)))"
                        "(init more) (<= terminal (true (n (s (s (s z))))) (true more)) (goal a 1)")
                        .value();
  EXPECT_THAT(Batch::make(game).diagnostics().render(), HasSubstr("[too-many-instances]"));
}

TEST(Transpose, ThereAndBackIsTheSame) {
  Random random(5);
  for (const std::size_t bits : {1u, 63u, 64u, 65u, 200u}) {
    for (const std::size_t count : {1u, 64u, 100u, 512u}) {
      const std::size_t words = circuit::words_for(bits);
      std::vector<std::uint64_t> rows(count * words);
      for (std::size_t i = 0; i < rows.size(); ++i) {
        rows[i] = random.below(~std::uint64_t{0});
        if (i % words == words - 1 && bits % 64 != 0) rows[i] &= (1ull << bits % 64) - 1;
      }
      std::vector<circuit::LaneBlock> blocks(bits);
      circuit::rows_to_lanes(rows, count, blocks);
      for (std::size_t b = 0; b < bits; ++b) {
        const std::size_t lane = random.below(count);
        EXPECT_EQ(blocks[b].words[lane / 64] >> (lane % 64) & 1,
                  rows[lane * words + b / 64] >> (b % 64) & 1);
      }
      std::vector<std::uint64_t> back(rows.size(), 1);
      circuit::lanes_to_rows(blocks, count, back);
      EXPECT_EQ(back, rows);
    }
  }
}

}  // namespace
}  // namespace orchard::batch_test
