// Looks at every position against the explored space: what holds where, and the lines to it.
#include <gtest/gtest.h>

#include "explore/census/sweep.hpp"
#include "explore/space/state_space.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::explore::sweep_test {
namespace {

using circuit::Signal;

// Every fluent, legal move and goal, the end, and what is made of two of them.
std::vector<Signal> signals_of(const LaneGame& lanes, circuit::Network& network) {
  const circuit::GameNetwork& game = lanes.network();
  std::vector<Signal> result = game.fluents;
  for (const auto* lists : {&game.legal, &game.goals}) {
    for (const auto& of_role : *lists) result.insert(result.end(), of_role.begin(), of_role.end());
  }
  const std::size_t plain = result.size();
  for (std::size_t s = 0; s + 1 < plain; s += 2) {
    result.push_back(network.both(result[s], !result[s + 1]));
  }
  result.push_back(game.terminal);
  result.push_back(circuit::never);
  result.push_back(circuit::always);
  return result;
}

constexpr std::uint64_t any = ~std::uint64_t{0};
constexpr Sweep::Most many{any, any};
constexpr Sweep::Most coded{0, any};
constexpr Sweep::Most in_bits{any, 0};

// False if the game cannot be swept.
bool expect_as_explored(const Game& game, unsigned threads, const Sweep::Most& most = many) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  circuit::Network network = lanes.network().network;
  const std::vector<Signal> signals = signals_of(lanes, network);
  const auto sweep = Sweep::run(lanes, start, {&network, signals}, Budget{}, most, threads);
  if (!sweep) return false;
  StateSpace space(lanes);
  EXPECT_EQ(space.explore(start, Budget{}).value(), Ending::complete);
  EXPECT_EQ(sweep->positions(), space.size());
  EXPECT_EQ(sweep->depths().size(), space.depths().size());
  Watch watch(lanes, network, signals);
  std::vector<std::uint64_t> counts(signals.size(), 0);
  std::vector<std::uint64_t> depths(signals.size(), ~std::uint64_t{0});
  for (StateSpace::Number p = 0; p < space.size(); ++p) {
    watch.look(space.row(p), 1);
    for (std::size_t s = 0; s < signals.size(); ++s) {
      if (!watch.holds(s, 0)) continue;
      ++counts[s];
      depths[s] = std::min<std::uint64_t>(depths[s], space.depth(p));
    }
  }
  for (std::size_t s = 0; s < signals.size(); ++s) {
    const Sweep::Sighting& sighting = sweep->sightings()[s];
    EXPECT_EQ(sighting.count, counts[s]) << "signal " << s;
    if (counts[s] == 0) continue;
    EXPECT_EQ(sighting.depth, depths[s]) << "signal " << s;
    if (s % 5 != 0) continue;
    // The line is played by joint moves that are legal, and leads to where the signal holds.
    LaneEvaluator evaluator(lanes);
    std::vector<std::uint64_t> row = start;
    const auto line = sweep->line_to(sighting);
    EXPECT_EQ(line.size(), sighting.depth);
    for (const auto& joint : line) {
      evaluator.set_positions(row, 1);
      EXPECT_FALSE(evaluator.terminal(0));
      for (std::size_t role = 0; role < joint.size(); ++role) {
        EXPECT_TRUE(evaluator.is_legal(0, role, joint[role]));
      }
      evaluator.set_joint(0, joint);
      evaluator.step();
      row.assign(evaluator.next(0).begin(), evaluator.next(0).end());
    }
    watch.look(row, 1);
    EXPECT_TRUE(watch.holds(s, 0)) << "signal " << s;
  }
  return true;
}

TEST(Sweep, SeesWhatIsInTheExploredSpace) {
  EXPECT_TRUE(expect_as_explored(testing::load("espalier_3x3"), 1));
  EXPECT_TRUE(expect_as_explored(testing::load("espalier_3x3"), 3));
  EXPECT_TRUE(expect_as_explored(testing::load("silo", {{"heights", 3}, {"bins", 3}}), 1));
  EXPECT_TRUE(expect_as_explored(testing::load("silo", {{"heights", 2}, {"bins", 4}}), 2));
  EXPECT_TRUE(expect_as_explored(testing::load("beeline"), 1));
  EXPECT_TRUE(expect_as_explored(testing::load("espalier_3x3"), 2, coded));
  EXPECT_TRUE(expect_as_explored(testing::load("beeline"), 1, coded));
  // Nothing tells depths apart.
  for (const char* name : {"sprinklers", "cellar", "snails"}) {
    SCOPED_TRACE(name);
    EXPECT_FALSE(expect_as_explored(testing::load(name), 1, in_bits));
    EXPECT_TRUE(expect_as_explored(testing::load(name), 1));
    EXPECT_TRUE(expect_as_explored(testing::load(name), 3));
  }
  // Keys of two words.
  EXPECT_TRUE(expect_as_explored(testing::load("channel", {{"rows", 2}, {"columns", 3}}), 2));
}

TEST(Sweep, OfRandomDescriptions) {
  int swept = 0;
  for (std::uint64_t seed = 0; seed < 40 && !::testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game || GameAccess::core(*game)->lanes() == nullptr) continue;
    swept += expect_as_explored(*game, 1 + seed % 2, coded) ? 1 : 0;
  }
  std::printf("%d descriptions swept\n", swept);
  EXPECT_GT(swept, 20);
}

TEST(Sweep, OfRandomDescriptionsWithAClock) {
  int swept = 0;
  for (std::uint64_t seed = 0; seed < 40 && !::testing::Test::HasFailure(); ++seed) {
    // Each ply leaves a mark, so that there is a measure.
    std::string rules = testing::random_rules(seed);
    SCOPED_TRACE(rules);
    rules += "(<= (next (mark 1)) (not (true (mark 1)))) (<= (next (mark ?n)) (true (mark ?n)))";
    for (int n = 1; n < 6; ++n) {
      const std::string here = std::to_string(n);
      const std::string after = std::to_string(n + 1);
      rules += "(<= (next (mark " + after + ")) (true (mark " + here + ")))";
    }
    rules += "(<= terminal (true (mark 6)))";
    const auto game = Game::from_text(rules);
    if (!game || GameAccess::core(*game)->lanes() == nullptr) continue;
    swept += expect_as_explored(*game, 1 + seed % 2) ? 1 : 0;
  }
  std::printf("%d descriptions swept\n", swept);
  EXPECT_GT(swept, 20);
}

// A gardener climbs a ladder and slips to its foot by every second move, so that random games
// hardly see its top, where a bell rings for good: keys are mended on the way.
TEST(Sweep, MendsWhatRandomGamesDoNotShow) {
  std::string rules = R"(
    (role gardener) (init (rung 0)) (init (step 0))
    (legal gardener climb) (legal gardener slip)
    (<= (next (rung ?m)) (does gardener climb) (true (rung ?n)) (after ?n ?m) (distinct ?n 17))
    (<= (next (rung 0)) (does gardener slip))
    (<= (next (step ?n)) (true (step ?n)))
    (<= (next (step ?m)) (true (step ?n)) (after ?n ?m))
    (<= (next bell) (true (rung 17)))
    (<= (next bell) (true bell))
    (<= terminal (true (step 21)))
    (<= (goal gardener 100) (true bell))
    (<= (goal gardener 0) (not (true bell)))
  )";
  for (int n = 0; n < 21; ++n) {
    rules += "(after " + std::to_string(n) + " " + std::to_string(n + 1) + ")";
  }
  const Game game = Game::from_text(rules).value();
  for (const unsigned threads : {1u, 2u}) {
    EXPECT_TRUE(expect_as_explored(game, threads, in_bits));
    EXPECT_TRUE(expect_as_explored(game, threads, coded));
  }
}

TEST(Sweep, KeepsToItsBudget) {
  const Game game = testing::load("silo", {{"heights", 3}, {"bins", 4}});
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  const circuit::Network network = lanes.network().network;
  const auto swept = [&](const Budget& budget, const Sweep::Most& most) {
    const auto sweep = Sweep::run(lanes, start, {&network, {}}, budget, most, 1);
    return sweep != nullptr && sweep->complete();
  };
  EXPECT_FALSE(swept({}, {300, any}));
  EXPECT_TRUE(swept({}, in_bits));
  EXPECT_FALSE(swept({}, {0, 300}));
  EXPECT_TRUE(swept({}, coded));
  Budget few;
  few.positions = 300;
  EXPECT_TRUE(swept(few, in_bits));
  EXPECT_TRUE(swept(few, coded));
  Budget little;
  little.memory_bytes = 1000;
  EXPECT_FALSE(swept(little, many));
  EXPECT_FALSE(swept(little, coded));
}

// Ended by its budget it knows of whole depths what the whole look knows of them.
TEST(Sweep, KnowsOfWholeDepthsWhereItsBudgetEndsIt) {
  std::size_t ended = 0;
  for (const char* name : {"espalier_3x3", "snails", "beeline"}) {
    SCOPED_TRACE(name);
    const Game game = testing::load(name);
    const LaneGame& lanes = *GameAccess::core(game)->lanes();
    const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
    circuit::Network network = lanes.network().network;
    const std::vector<Signal> signals = signals_of(lanes, network);
    StateSpace space(lanes);
    ASSERT_EQ(space.explore(start, Budget{}).value(), Ending::complete);
    Watch watch(lanes, network, signals);
    for (const std::uint64_t most : {40u, 200u, 600u}) {
      for (const unsigned threads : {1u, 2u}) {
        const auto sweep =
            Sweep::run(lanes, start, {&network, signals}, Budget{}, {most, most}, threads);
        ASSERT_NE(sweep, nullptr);
        if (sweep->complete()) continue;
        ++ended;
        const std::size_t depths = sweep->depths().size();
        ASSERT_GT(depths, 1u);
        ASSERT_LT(depths, space.depths().size());
        const StateSpace::Number end = space.depths()[depths];
        EXPECT_EQ(sweep->positions(), end);
        std::vector<std::uint64_t> counts(signals.size(), 0);
        for (StateSpace::Number p = 0; p < end; ++p) {
          watch.look(space.row(p), 1);
          for (std::size_t s = 0; s < signals.size(); ++s) counts[s] += watch.holds(s, 0) ? 1 : 0;
        }
        for (std::size_t s = 0; s < signals.size(); ++s) {
          const Sweep::Sighting& sighting = sweep->sightings()[s];
          EXPECT_EQ(sighting.count, counts[s]) << "signal " << s;
          if (sighting.count > 0) {
            EXPECT_EQ(sweep->line_to(sighting).size(), sighting.depth);
          }
        }
      }
    }
  }
  EXPECT_GE(ended, 10u);
}

}  // namespace
}  // namespace orchard::explore::sweep_test
