// The explored space of positions against the same found through the public face.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/interruption.hpp"
#include "explore/sampling/sampled_games.hpp"
#include "explore/space/state_space.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "support/explored_by_hand.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::explore::state_space_test {
namespace {

std::vector<std::uint64_t> row_of(const LaneGame& lanes, const Position& position) {
  return lanes.row(lanes.bits(GameAccess::state(position).fluents()).value());
}

std::vector<Game> some_games() {
  std::vector<Game> games;
  for (const char* name : {"espalier_3x3", "snails", "market_day", "beeline"}) {
    games.push_back(Game::load(testing::game_path(name)).value());
  }
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    auto game = Game::from_text(testing::random_rules(seed));
    if (game) games.push_back(*game);
  }
  return games;
}

TEST(StateSpace, IsWhatOneFindsByHand) {
  std::size_t compared = 0;
  for (const Game& game : some_games()) {
    const auto by_hand = testing::explore_by_hand(game, 3000);
    const LaneGame* const lanes = GameAccess::core(game)->lanes();
    if (by_hand.empty() || lanes == nullptr) continue;
    ++compared;
    StateSpace space(*lanes);
    EXPECT_EQ(space.explore(row_of(*lanes, game.initial()), {}).value(), Ending::complete);
    ASSERT_EQ(space.size(), by_hand.size()) << game.name();
    for (const testing::ByHand& one : by_hand) {
      const auto number = space.find(row_of(*lanes, one.position));
      ASSERT_TRUE(number.has_value());
      EXPECT_EQ(space.depth(*number), one.depth);
      EXPECT_EQ(space.kind(*number) == StateSpace::Kind::terminal, one.terminal);
      EXPECT_EQ(space.kind(*number) == StateSpace::Kind::stuck, one.stuck);
      ASSERT_EQ(space.steps(*number).size(), one.next.size());
      for (const auto& [choice, next] : one.next) {
        std::size_t step = 0;
        std::size_t stride = 1;
        for (std::size_t role = 0; role < choice.size(); ++role) {
          step += stride * choice[role];
          stride *= space.choices(*number, role);
        }
        EXPECT_EQ(space.find(row_of(*lanes, by_hand[next].position)), space.steps(*number)[step]);
      }
    }
  }
  EXPECT_GE(compared, 30u);
}

TEST(StateSpace, LinesAreShortestAndFollowSteps) {
  const Game game = Game::load(testing::game_path("snails")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  StateSpace space(lanes);
  ASSERT_TRUE(space.explore(row_of(lanes, game.initial()), {}).ok());
  for (StateSpace::Number p = 0; p < space.size(); p += 7) {
    const auto line = space.line_to(p);
    ASSERT_EQ(line.size(), space.depth(p) + 1u);
    EXPECT_EQ(line.front(), 0u);
    EXPECT_EQ(line.back(), p);
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
      EXPECT_THAT(space.class_steps(line[i]), ::testing::Contains(line[i + 1]));
    }
  }
}

TEST(StateSpace, IsTheSameWhateverTheThreads) {
  for (const char* name : {"pickers", "silo", "barrow_lane"}) {
    const Game game = Game::load(testing::game_path(name)).value();
    const LaneGame& lanes = *GameAccess::core(game)->lanes();
    Budget budget;
    budget.positions = 40'000;
    StateSpace one(lanes);
    const Ending ending = one.explore(row_of(lanes, game.initial()), budget, 1).value();
    for (const unsigned threads : {2u, 5u}) {
      StateSpace several(lanes);
      EXPECT_EQ(several.explore(row_of(lanes, game.initial()), budget, threads).value(), ending);
      ASSERT_EQ(several.size(), one.size()) << name;
      ASSERT_EQ(several.expanded(), one.expanded());
      EXPECT_EQ(several.depths(), one.depths());
      for (StateSpace::Number p = 0; p < one.expanded(); ++p) {
        ASSERT_EQ(several.kind(p), one.kind(p));
        ASSERT_TRUE(std::ranges::equal(several.row(p), one.row(p)));
        ASSERT_TRUE(std::ranges::equal(several.steps(p), one.steps(p)));
        ASSERT_EQ(several.outcome(p), one.outcome(p));
      }
    }
  }
}

TEST(StateSpace, EndsWithItsBudgetAndSaysHowFarItLooked) {
  const Game game = Game::load(testing::game_path("silo")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  StateSpace by_count(lanes);
  Budget budget;
  budget.positions = 5000;
  EXPECT_EQ(by_count.explore(row_of(lanes, game.initial()), budget).value(), Ending::positions);
  EXPECT_GE(by_count.size(), 5000u);
  EXPECT_LT(by_count.expanded(), by_count.size());
  EXPECT_FALSE(by_count.complete());
  // Lines to positions that were found but not looked at, too.
  for (StateSpace::Number p = 0; p < by_count.size(); p += 13) {
    const auto line = by_count.line_to(p);
    ASSERT_EQ(line.front(), 0u);
    ASSERT_EQ(line.back(), p);
    ASSERT_EQ(line.size(), by_count.depth(p) + 1u);
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
      ASSERT_THAT(by_count.class_steps(line[i]), ::testing::Contains(line[i + 1]));
    }
  }
  StateSpace by_memory(lanes);
  Budget memory;
  memory.memory_bytes = 1 << 20;
  EXPECT_EQ(by_memory.explore(row_of(lanes, game.initial()), memory).value(), Ending::memory);
}

// Legal moves as a watch sees them, beside those of the evaluator; a signal of a step with its
// move.
TEST(Watch, SeesSignalsOfPositionsAndSteps) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  StateSpace space(lanes);
  ASSERT_TRUE(space.explore(row_of(lanes, game.initial()), {}).ok());
  const auto& network = lanes.network();
  std::vector<circuit::Signal> signals = network.legal[0];
  signals.push_back(network.does[0][0]);
  signals.push_back(circuit::always);
  Watch watch(lanes, network.network, signals);
  LaneEvaluator evaluator(lanes);
  const std::size_t count = std::min<std::size_t>(space.size(), 300);
  std::vector<std::uint64_t> rows;
  for (StateSpace::Number p = 0; p < count; ++p) {
    rows.insert(rows.end(), space.row(p).begin(), space.row(p).end());
  }
  evaluator.set_positions(rows, count);
  const std::vector<std::uint32_t> first_move{0, 0};
  watch.set_joint(5, first_move);
  watch.set_joint(6, first_move);
  watch.set_joint(6, {});  // taken back
  watch.look(rows, count);
  for (std::size_t at = 0; at < count; ++at) {
    for (std::size_t move = 0; move < network.legal[0].size(); ++move) {
      EXPECT_EQ(watch.holds(move, at), evaluator.is_legal(at, 0, move));
    }
  }
  for (std::size_t move = 0; move < network.legal[0].size(); ++move) {
    std::vector<std::size_t> held;
    for (std::size_t at = 0; at < count; ++at) {
      if (watch.holds(move, at)) held.push_back(at);
    }
    EXPECT_EQ(watch.count(move), held.size());
    ASSERT_FALSE(held.empty());
    EXPECT_EQ(watch.first(move), held.front());
  }
  const std::size_t done = network.legal[0].size();
  EXPECT_EQ(watch.count(done), 1u);
  EXPECT_TRUE(watch.holds(done, 5));
  EXPECT_EQ(watch.count(done + 1), count);  // not beyond the positions there are
}

TEST(SampledGames, RemembersTheLinesItPlayed) {
  const Game game = Game::load(testing::game_path("barrow_lane")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  SampledGames samples(lanes);
  Random random(4);
  std::vector<std::pair<SampledGames::Place, std::vector<std::uint64_t>>> met;
  samples.play(40, row_of(lanes, game.initial()), random, 30,
               [&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> places,
                   const LaneEvaluator& evaluator) {
                 const std::size_t words = evaluator.words();
                 for (std::size_t at = 0; at < places.size(); ++at) {
                   const auto row = rows.subspan(at * words, words);
                   met.emplace_back(places[at], std::vector<std::uint64_t>(row.begin(), row.end()));
                 }
               });
  EXPECT_EQ(samples.games(), 40u);
  EXPECT_GT(met.size(), 400u);
  for (std::size_t i = 0; i < met.size(); i += 17) {
    Position position = game.initial();
    for (const auto& numbers : samples.line_to(met[i].first)) {
      JointMove joint;
      for (std::size_t role = 0; role < numbers.size(); ++role) {
        const auto term = lanes.ground().moves()[role][numbers[role]].term;
        joint.add(game.move(lanes.ground().terms().term(term)));
      }
      position = game.next(position, joint).value();
    }
    EXPECT_EQ(row_of(lanes, position), met[i].second);
  }
}

// What was begun when time ran out is forgotten; the next block is as if nothing had been.
TEST(StateSpace, GoesOnAfterABlockThatWasLeftInTheMiddle) {
  const Game game = Game::load(testing::game_path("snails")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto row = row_of(lanes, game.initial());
  const SymmetryGroup none;
  constexpr std::uint64_t all_steps = 1 << 20;
  BlockExpander fresh(lanes, none, all_steps);
  ExpandedBlock expected;
  fresh.expand(row, 1, expected);
  ASSERT_GT(expected.steps.front(), 1u);
  BlockExpander expander(lanes, none, all_steps);
  ExpandedBlock block;
  for (int i = 0; i < 600; ++i) {
    Budget spent;
    spent.seconds = 0;
    const Interruption interruption(spent);
    EXPECT_THROW(expander.expand(row, 1, block), Interrupted);
  }
  expander.expand(row, 1, block);
  EXPECT_EQ(block.rows, expected.rows);
  EXPECT_EQ(block.hashes, expected.hashes);
  EXPECT_EQ(block.steps, expected.steps);
}

TEST(StateSpace, JointMovesAreCountedBeforeTheyAreMade) {
  const Game game = Game::load(testing::game_path("market_day")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto row = row_of(lanes, game.initial());
  const SymmetryGroup none;
  ExpandedBlock block;
  BlockExpander(lanes, none, 1 << 20).expand(row, 1, block);
  const std::uint64_t steps = block.steps.front();
  ASSERT_GT(steps, 1u);
  BlockExpander(lanes, none, steps).expand(row, 1, block);
  EXPECT_FALSE(block.too_many);
  BlockExpander(lanes, none, steps - 1).expand(row, 1, block);
  EXPECT_TRUE(block.too_many);
  EXPECT_TRUE(block.rows.empty());
}

TEST(StateSpace, EndsWithTheScopeAroundIt) {
  const Game game = Game::load(testing::game_path("espalier")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto row = row_of(lanes, game.initial());
  for (const unsigned threads : {1u, 3u}) {
    StateSpace space(lanes);
    Budget part;
    part.positions = 2'000;
    {
      std::stop_source source;
      Budget stopped;
      stopped.stop = source.get_token();
      const Interruption interruption(stopped);
      source.request_stop();
      EXPECT_EQ(space.explore(row, part, threads).value(), Ending::stopped);
    }
    EXPECT_EQ(space.explore(row, part, threads).value(), Ending::positions);
    StateSpace in_one_go(lanes);
    EXPECT_EQ(in_one_go.explore(row, part, threads).value(), Ending::positions);
    EXPECT_EQ(space.size(), in_one_go.size());
  }
}

}  // namespace
}  // namespace orchard::explore::state_space_test
