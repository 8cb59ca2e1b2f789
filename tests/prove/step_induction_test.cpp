// Proofs one joint move at a time, against every position explored.
#include "prove/step_induction.hpp"

#include <gtest/gtest.h>

#include <map>

#include "base/interruption.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "explore/space/watch.hpp"
#include "prove/measures.hpp"
#include "prove/proved_game.hpp"
#include "prove/values.hpp"

namespace orchard::prove::step_induction_test {
namespace {

constexpr std::uint64_t enough_work = 10'000'000;

// All groups and counts of a game as sums.
std::vector<SumSuspect> sums_of(const Proved& game) {
  std::vector<SumSuspect> result = game.sums;
  for (const FluentGroup& group : game.groups) {
    result.push_back({{group.fluents, {}}, 1, 1, {group.several}, {group.none}});
  }
  return result;
}

struct ByStep {
  // What is known of whose turn it is tells which joint moves can be made; the same of all fluents
  // that are the only ones of their name.
  explicit ByStep(const Proved& game)
      : induction(game.lanes.network(), game.network, game.lanes.ground().initial()) {
    for (const FluentGroup& group : game.groups) {
      const ground::GroundProgram& ground = game.lanes.ground();
      const auto of_name = std::ranges::count_if(ground.fluents(), [&](const auto& fluent) {
        return ground.terms().term(fluent.term).name() == group.name;
      });
      if (of_name != std::ssize(group.fluents) || !game.induction->never(group.several)) continue;
      induction.know_never({group.several});
      const bool exact = game.induction->never(group.none);
      if (exact) induction.know_never({group.none});
      induction.know_group(group.fluents, exact);
    }
    few_enough = induction.find_steps();
  }

  StepInduction induction;
  bool few_enough = false;
};

TEST(SingleSteps, AreTheStepsOfEveryPositionExplored) {
  std::size_t looked_at = 0;
  for (const Game& game : small_games()) {
    SCOPED_TRACE(game.name());
    const Proved proved(game);
    ByStep by_step(proved);
    ASSERT_TRUE(by_step.few_enough);
    std::map<std::vector<std::uint32_t>, const SingleStep*> by_joint;
    for (const SingleStep& step : by_step.induction.steps()) by_joint.emplace(step.joint, &step);
    StateSpace space(proved.lanes);
    Budget budget;
    budget.positions = 60;
    (void)space.explore(proved.start, budget);
    const circuit::GameNetwork& network = proved.lanes.network();
    const circuit::Network& gates = by_step.induction.network();
    LaneEvaluator evaluator(proved.lanes);
    for (StateSpace::Number p = 0; p < space.expanded(); ++p) {
      if (space.kind(p) != StateSpace::Kind::open) continue;
      std::vector<bool> position;
      for (std::size_t f = 0; f < network.fluents.size(); ++f) {
        position.push_back((space.row(p)[f / 64] >> f % 64 & 1) != 0);
      }
      std::vector<std::vector<std::uint32_t>> legal(network.does.size());
      evaluator.set_positions(space.row(p), 1);
      for (std::size_t role = 0; role < legal.size(); ++role) evaluator.legal(0, role, legal[role]);
      const std::vector<bool> values = values_in(network, gates, position);
      explore::each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
        const auto step = by_joint.find(joint);
        ASSERT_NE(step, by_joint.end());
        EXPECT_TRUE(holds(values, step->second->possible));
        std::vector<bool> after = position;
        for (const auto& [fluent, signal] : step->second->changes) {
          after[fluent] = holds(values, signal);
        }
        EXPECT_EQ(after, by_step.induction.after(position, *step->second));
        ++looked_at;
      });
    }
  }
  EXPECT_GE(looked_at, 2'000u);
}

TEST(StepInduction, WhatIsProvedHoldsInEveryPositionExplored) {
  std::size_t sums = 0;
  std::size_t signals = 0;
  std::size_t endings = 0;
  for (const Game& game : small_games()) {
    SCOPED_TRACE(game.name());
    const Proved proved(game);
    ByStep by_step(proved);
    std::vector<Signal> never = by_step.induction.suspect(sums_of(proved), {}, enough_work);
    sums += never.size();
    const auto more = by_step.induction.suspect({}, proved.suspects, enough_work);
    signals += more.size();
    never.insert(never.end(), more.begin(), more.end());
    for (const Signal signal : proved.suspects) {
      if (by_step.induction.never(signal)) never.push_back(signal);
    }
    StateSpace space(proved.lanes);
    Budget budget;
    budget.positions = 3000;
    (void)space.explore(proved.start, budget);
    explore::Watch watch(proved.lanes, proved.network, never);
    space.each_block([&](StateSpace::Row rows, std::span<const StateSpace::Number> positions) {
      watch.look(rows, positions.size());
      for (std::size_t s = 0; s < never.size(); ++s) ASSERT_EQ(watch.count(s), 0u);
    });
    if (!prove_ending_by_sums(by_step.induction, proved.lanes.ground(), proved.steps())) continue;
    ++endings;
    EXPECT_TRUE(longest_line(space).has_value());
  }
  EXPECT_GE(sums, 200u);
  EXPECT_GE(signals, 300u);
  EXPECT_GE(endings, 8u);
}

// What one move at a time proves, all moves at once prove as well.
TEST(StepInduction, WhatItProvesInductionProvesToo) {
  std::size_t compared = 0;
  for (const Game& game : small_games()) {
    SCOPED_TRACE(game.name());
    const Proved proved(game);
    std::vector<Signal> signals;
    for (const SumSuspect& sum : sums_of(proved)) {
      signals.insert(signals.end(), sum.over.begin(), sum.over.end());
      signals.insert(signals.end(), sum.under.begin(), sum.under.end());
    }
    Induction all(proved.lanes.network(), proved.network, proved.lanes.ground().initial());
    all.suspect(signals);
    ByStep by_step(proved);
    const auto never = by_step.induction.suspect(sums_of(proved), {}, enough_work);
    for (const Signal signal : never) EXPECT_TRUE(all.never(signal));
    compared += never.size();
  }
  EXPECT_GE(compared, 200u);
}

TEST(StepInduction, WithoutWorkOrTimeNothingIsProved) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Proved proved(game);
  const auto proved_by = [&](std::uint64_t work) {
    return ByStep(proved).induction.suspect(sums_of(proved), proved.suspects, work).size();
  };
  EXPECT_LT(proved_by(0), proved_by(enough_work));
  ByStep stopped(proved);
  const std::vector<SampledStep> steps = proved.steps();
  Budget spent;
  spent.seconds = 0;
  const Interruption interruption(spent);
  EXPECT_TRUE(stopped.induction.suspect(sums_of(proved), proved.suspects, enough_work).empty());
  EXPECT_FALSE(prove_ending_by_sums(stopped.induction, proved.lanes.ground(), steps));
}

// Bees of two swarms on a comb, a count of calm moves that a worker or a catch sets back: no chain
// of fluents moves with every ply, sums do.
TEST(Measures, PlayOfALargeGameEndsBySumsOnly) {
  LoadOptions load;
  load.sizes = {{"rows", 4}, {"columns", 4}, {"patience", 2}};
  const Game game = Game::load(testing::game_path("skep"), load).value();
  Proved proved(game);
  ByStep by_step(proved);
  ASSERT_TRUE(by_step.few_enough);
  const auto never = by_step.induction.suspect(sums_of(proved), {}, enough_work);
  EXPECT_GE(never.size(), 2u * 4 * 4);
  const auto proof = prove_ending_by_sums(by_step.induction, proved.lanes.ground(), proved.steps());
  ASSERT_TRUE(proof.has_value());
  EXPECT_EQ(proof->levels.front(), std::vector<std::string>{"comb"});
  EXPECT_EQ(proof->levels.back(), std::vector<std::string>{"calm"});
}

// Gates that the network gets later have numbers that the copy uses for others.
TEST(StepInduction, KnowsNothingOfLaterGates) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  Proved proved(game);
  ByStep by_step(proved);
  by_step.induction.suspect(sums_of(proved), {}, enough_work);
  const std::uint32_t before = proved.network.size();
  const auto& fluents = proved.lanes.network().fluents;
  for (std::size_t f = 0; f + 2 < fluents.size(); ++f) {
    proved.network.all({!fluents[f], !fluents[f + 1], !fluents[f + 2]});
  }
  ASSERT_GT(proved.network.size(), before);
  for (std::uint32_t node = before; node < proved.network.size(); ++node) {
    EXPECT_FALSE(by_step.induction.never(Signal(node, false)));
    EXPECT_FALSE(by_step.induction.never(Signal(node, true)));
  }
}

// Sums of very large numbers might not fit; nothing is made of them.
TEST(StepInduction, VeryLargeNumbersAreNotCounted) {
  const Game game = Game::from_text(R"(
    (role ada) (init (jar 0)) (init (lid 1)) (init (lid 2))
    (full 9000000000000000000)
    (<= (legal ada pour) (true (jar 0)))
    (<= (legal ada empty) (true (jar ?much)) (full ?much))
    (<= (next (jar ?much)) (does ada pour) (full ?much))
    (<= (next (jar 0)) (does ada empty))
    (<= (next (lid ?n)) (does ada empty) (true (lid ?n)))
    (<= terminal (true (lid 3)))
    (goal ada 100))")
                        .value();
  Proved proved(game);
  EXPECT_TRUE(proved.sums.empty());
  ByStep by_step(proved);
  EXPECT_GE(by_step.induction.suspect(sums_of(proved), {}, enough_work).size(), 2u);
  EXPECT_FALSE(
      prove_ending_by_sums(by_step.induction, proved.lanes.ground(), proved.steps()).has_value());
}

// A sum over random signals, some of them in groups, is wrong where its signal says so.
TEST(LinearForm, SaysWhereASumIsWrong) {
  Random random(7);
  constexpr std::size_t inputs = 9;
  std::size_t wrong_somewhere = 0;
  for (int round = 0; round < 300; ++round) {
    circuit::Network network;
    std::vector<Signal> signals;
    for (std::size_t i = 0; i < inputs; ++i) signals.push_back(network.add_input());
    for (int gate = 0; gate < 8; ++gate) {
      const auto any = [&] {
        return signals[random.below(signals.size())] ^ (random.below(2) == 1);
      };
      signals.push_back(network.all({any(), any(), any()}));
    }
    ExclusiveSignals exclusive;
    const std::vector<Signal> first{signals[0], signals[1], !signals[2]};
    const std::vector<Signal> second{signals[3], signals[4], signals[5], signals[6]};
    exclusive.add(first, true);
    exclusive.add(second, false);
    LinearForm form;
    form.add(static_cast<std::int64_t>(random.below(5)) - 2);
    for (const Signal signal : signals) {
      if (random.below(3) > 0) form.add(signal, static_cast<std::int64_t>(random.below(9)) - 4);
    }
    const auto bound = static_cast<std::int64_t>(random.below(7)) - 3;
    const auto result =
        sum_is(network, form, exclusive, [&](std::int64_t sum) { return sum > bound; });
    ASSERT_TRUE(result.has_value());
    for (std::uint32_t bits = 0; bits < 1u << inputs; ++bits) {
      std::vector<bool> values(network.size(), false);
      for (std::uint32_t node = 1; node < network.size(); ++node) {
        values[node] = !network.is_gate(node)
                           ? (bits >> (node - 1) & 1) != 0
                           : std::ranges::all_of(network.of(node), [&](Signal operand) {
                               return holds(values, operand);
                             });
      }
      const auto held = [&](const std::vector<Signal>& group) {
        return std::ranges::count_if(group, [&](Signal s) { return holds(values, s); });
      };
      if (held(first) != 1 || held(second) > 1) continue;
      std::int64_t sum = form.constant();
      for (const auto& [node, weight] : form.weights()) sum += values[node] ? weight : 0;
      EXPECT_EQ(holds(values, *result), sum > bound);
      wrong_somewhere += sum > bound ? 1 : 0;
    }
  }
  EXPECT_GE(wrong_somewhere, 3'000u);
}

// A few clauses at a time give the answer that all positions give.
TEST(LazyPosition, AnswersAsAllPositionsDo) {
  std::size_t possible = 0;
  std::size_t impossible = 0;
  Random random(3);
  for (const Game& game : small_games()) {
    const LaneGame& lanes = *GameAccess::core(game)->lanes();
    const circuit::GameNetwork& network = lanes.network();
    constexpr std::size_t most_fluents = 12;
    if (network.fluents.size() > most_fluents) continue;
    SCOPED_TRACE(game.name());
    std::vector<std::vector<bool>> all;  // values, by position
    for (std::uint32_t bits = 0; bits < 1u << network.fluents.size(); ++bits) {
      std::vector<bool> position;
      for (std::size_t f = 0; f < network.fluents.size(); ++f) {
        position.push_back((bits >> f & 1) != 0);
      }
      all.push_back(values_in(network, network.network, position));
    }
    std::vector<Signal> signals = network.fluents;
    signals.push_back(network.terminal);
    for (const auto& legal : network.legal)
      signals.insert(signals.end(), legal.begin(), legal.end());
    const auto any = [&] { return signals[random.below(signals.size())] ^ (random.below(2) == 1); };
    const std::vector<bool> usual = lanes.ground().initial();
    const std::vector<bool> usual_values = values_in(network, network.network, usual);
    for (int question = 0; question < 20; ++question) {
      LazyPosition position(network, network.network, usual);
      const Signal excluded = any();
      const bool excludes = !holds(usual_values, excluded);
      if (excludes) position.exclude({excluded});
      const std::vector<Signal> asked{any(), any(), any()};
      const bool exists = std::ranges::any_of(all, [&](const std::vector<bool>& values) {
        return !(excludes && holds(values, excluded)) &&
               std::ranges::all_of(asked, [&](Signal s) { return holds(values, s); });
      });
      const Solver::Answer answer = position.solve(asked, 10'000);
      ASSERT_EQ(answer, exists ? Solver::Answer::possible : Solver::Answer::impossible);
      (exists ? possible : impossible) += 1;
      if (!exists) continue;
      const auto values = values_in(network, network.network, position.found_position());
      for (const Signal signal : asked) EXPECT_TRUE(holds(values, signal));
      EXPECT_FALSE(excludes && holds(values, excluded));
    }
  }
  EXPECT_GE(possible, 300u);
  EXPECT_GE(impossible, 100u);
}

}  // namespace
}  // namespace orchard::prove::step_induction_test
