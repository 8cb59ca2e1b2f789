// Lane programs: every executor against the network itself, random play against the reference
// evaluator lane by lane, and the evenness of the choices.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <bit>
#include <cmath>

#include "circuit/lanes/mapping.hpp"
#include "circuit/programs/choice.hpp"
#include "circuit/programs/lane_player.hpp"
#include "logic/evaluator.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::circuit::lanes_test {
namespace {

using ground::GroundProgram;
using rules::TermId;

std::shared_ptr<const rules::Description> describe(syntax::Source source) {
  Diagnostics diagnostics;
  return rules::Description::build(std::move(source), {}, diagnostics);
}

struct Prepared {
  explicit Prepared(std::shared_ptr<const rules::Description> description, bool shared = true)
      : ground(GroundProgram::make(std::move(description), {}).value()),
        network(build_network(*ground)),
        groups(shared ? sampled_groups(*ground, network) : separate_groups(network)),
        initial(ground->initial()),
        play(make_play_program(network, groups, {initial, groups.waits})) {}
  std::shared_ptr<const GroundProgram> ground;
  GameNetwork network;
  ChoiceGroups groups;
  std::vector<bool> initial;
  PlayProgram play;
};

std::vector<std::unique_ptr<Executor>> executors(const LaneProgram& program) {
  std::vector<std::unique_ptr<Executor>> result;
  for (const Executor::Kind kind : all_executor_kinds) {
    auto executor = make_executor(program, kind);
    if (!executor) continue;
    EXPECT_EQ(executor->kind(), kind);
    result.push_back(std::move(executor));
  }
  return result;
}

LaneBlock random_block(Random& random) {
  LaneBlock block;
  for (std::uint64_t& word : block.words) word = random.below(~std::uint64_t{0});
  return block;
}

// Gates of any kind, straight from the definition.
std::vector<LaneBlock> simulated(const Network& network, const std::vector<LaneBlock>& inputs) {
  std::vector<LaneBlock> values(network.size());
  for (std::uint32_t i = 0; i < network.inputs(); ++i) values[network.input(i)] = inputs[i];
  for (std::uint32_t node = 0; node < network.size(); ++node) {
    if (!network.is_gate(node)) continue;
    values[node].words.fill(~std::uint64_t{0});
    for (const Signal signal : network.of(node)) {
      for (std::size_t w = 0; w < 8; ++w) {
        const std::uint64_t word = values[signal.node()].words[w];
        values[node].words[w] &= signal.negated() ? ~word : word;
      }
    }
  }
  return values;
}

// Networks of random gates, deep and wide: many spills.
TEST(Lanes, EveryExecutorComputesTheNetwork) {
  Random random(11);
  for (int round = 0; round < 40; ++round) {
    Network network;
    std::vector<Signal> signals;
    const std::uint64_t inputs = 1 + random.below(60);
    for (std::uint64_t i = 0; i < inputs; ++i) signals.push_back(network.add_input());
    const std::uint64_t gates = random.below(600);
    for (std::uint64_t g = 0; g < gates; ++g) {
      std::vector<Signal> operands;
      for (std::uint64_t k = 0; k < 2 + random.below(4); ++k) {
        operands.push_back(signals[random.below(signals.size())] ^ (random.below(2) != 0));
      }
      signals.push_back(random.below(4) == 0 ? network.differ(operands[0], operands[1])
                                             : network.all(operands));
    }
    std::vector<Signal> outputs{never, always, signals.front(), !signals.front()};
    for (int o = 0; o < 50; ++o) {
      outputs.push_back(signals[random.below(signals.size())] ^ (random.below(2) != 0));
    }
    std::vector<LaneBlock> in;
    for (std::uint64_t i = 0; i < inputs; ++i) in.push_back(random_block(random));
    const std::vector<LaneBlock> values = simulated(network, in);
    std::vector<Signal> of_pairs = outputs;
    const Network pairs = in_pairs(network, of_pairs);
    LaneProgram program = map_to_lanes(pairs, of_pairs);
    program.reports = 3;
    program.state_inputs = static_cast<std::uint32_t>(inputs / 2);
    for (const auto& executor : executors(program)) {
      std::vector<LaneBlock> next(outputs.size());
      std::vector<LaneBlock> reports(3);
      std::vector<LaneBlock> scratch(executor->scratch_blocks());
      executor->run(
          {in.data(), in.data() + inputs / 2, next.data(), reports.data(), scratch.data()});
      for (std::size_t o = 0; o < outputs.size(); ++o) {
        const LaneBlock& got = o < 3 ? reports[o] : next[o - 3];
        for (std::size_t w = 0; w < 8; ++w) {
          const std::uint64_t word = values[outputs[o].node()].words[w];
          ASSERT_EQ(got.words[w], outputs[o].negated() ? ~word : word)
              << name_of(executor->kind()) << " round " << round << " output " << o;
        }
      }
    }
  }
}

bool bit_of(const LaneBlock& block, std::uint32_t lane) {
  return (block.words[lane / 64] >> lane % 64 & 1) != 0;
}

std::vector<bool> bits_of(const LaneBlock* planes, std::uint32_t count, std::uint32_t lane) {
  std::vector<bool> bits;
  for (std::uint32_t b = 0; b < count; ++b) bits.push_back(bit_of(planes[b], lane));
  return bits;
}

// One ply after the other: the position of some lanes is that of the reference evaluator after the
// moves that the same random bits choose, or the same one where they choose none.
void follow_lanes(const std::shared_ptr<const rules::Description>& description, int plies,
                  bool shared) {
  const Prepared game(description, shared);
  const auto program = logic::Program::make(description, {}).value();
  logic::Evaluator evaluator(program);
  const auto executor = make_executor(game.play.program);
  RandomPlanes random(5, 0);
  std::vector<LaneBlock> state(game.initial.size() + 1);
  for (std::size_t f = 0; f < game.initial.size(); ++f) {
    state[f].words.fill(game.initial[f] ? ~std::uint64_t{0} : 0);
  }
  state.back().words.fill(~std::uint64_t{0});
  std::vector<LaneBlock> next(state.size());
  std::vector<LaneBlock> reports(game.play.program.reports);
  std::vector<LaneBlock> scratch(executor->scratch_blocks());
  const auto position_of = [&](const std::vector<LaneBlock>& blocks, std::uint32_t lane) {
    std::vector<TermId> position;
    for (std::size_t f = 0; f < game.initial.size(); ++f) {
      if (bit_of(blocks[f], lane)) position.push_back(game.ground->fluents()[f].term);
    }
    std::ranges::sort(position);
    return position;
  };
  for (int ply = 0; ply < plies; ++ply) {
    const LaneBlock* const planes = random.take(game.play.random_blocks);
    executor->run({state.data(), planes, next.data(), reports.data(), scratch.data()});
    for (const std::uint32_t lane : {0u, 63u, 64u, 200u, 511u}) {
      const auto report = [&](std::uint32_t r) { return bit_of(reports[r], lane); };
      evaluator.set_position(position_of(state, lane));
      ASSERT_EQ(report(PlayProgram::terminal), evaluator.terminal());
      const auto goals = evaluator.goals();
      for (std::size_t r = 0; r < goals.size(); ++r) {
        std::vector<TermId> values;
        for (std::size_t v = 0; v < game.ground->goals()[r].size(); ++v) {
          if (report(game.play.first_goal[r] + static_cast<std::uint32_t>(v))) {
            values.push_back(game.ground->goals()[r][v].term);
          }
        }
        ASSERT_EQ(values, goals[r]);
      }
      const auto legal = evaluator.legal();
      const bool stuck =
          std::ranges::any_of(legal, [](const auto& moves) { return moves.empty(); });
      ASSERT_EQ(report(PlayProgram::over), stuck || evaluator.terminal());
      std::vector<TermId> wanted = program->initial();
      if (!evaluator.terminal() && !stuck) {
        if (report(PlayProgram::conflict)) continue;  // another program is asked then
        std::vector<TermId> joint;
        for (std::size_t r = 0; r < legal.size(); ++r) {
          const auto& [first, candidates] = game.play.planes[r];
          const auto choices = static_cast<std::uint32_t>(legal[r].size());
          const auto rank =
              choices == 1 ? std::optional<std::uint32_t>(0)
                           : chosen_rank(candidates, choices,
                                         bits_of(planes + first, choice_planes(candidates), lane));
          if (rank) joint.push_back(legal[r][*rank]);
        }
        ASSERT_EQ(report(PlayProgram::moved), joint.size() == legal.size());
        wanted = position_of(state, lane);
        if (joint.size() == legal.size()) {
          evaluator.set_joint_move(joint);
          wanted = evaluator.next();
        }
      }
      std::ranges::sort(wanted);
      ASSERT_EQ(position_of(next, lane), wanted) << "ply " << ply << " lane " << lane;
    }
    std::swap(state, next);
    state.back() = next.back();
  }
}

TEST(Lanes, PlayTheDemoGamesByTheRules) {
  for (const std::string& path : testing::demo_games()) {
    SCOPED_TRACE(path);
    follow_lanes(describe(syntax::Source::from_file(path).value()), 20, true);
    follow_lanes(describe(syntax::Source::from_file(path).value()), 20, false);
  }
}

TEST(Lanes, PlayRandomDescriptionsByTheRules) {
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    SCOPED_TRACE(seed);
    const auto description = describe(syntax::Source("r.gdl", testing::random_rules(seed)));
    if (!description || !logic::Program::make(description, {}).ok()) continue;
    if (!GroundProgram::make(description, {}).ok()) continue;
    follow_lanes(description, 10, seed % 2 == 0);
    if (HasFatalFailure()) return;
  }
}

// Which of the candidates that hold is chosen: chi-squared over 512 lanes times many draws. None is
// where no try succeeds.
TEST(Choice, IsEven) {
  for (const std::uint32_t size : {2u, 3u, 7u, 20u, 65u}) {
    Network network;
    std::vector<Signal> candidates;
    std::vector<Signal> random;
    for (std::uint32_t i = 0; i < size; ++i) candidates.push_back(network.add_input());
    const std::uint32_t plane_count = choice_planes(size);
    for (std::uint32_t i = 0; i < plane_count; ++i) random.push_back(network.add_input());
    const auto [chosen, total, made] = choose_uniformly(network, candidates, random);
    RandomPlanes planes(3, size);
    Random holding(size);
    std::vector<LaneBlock> inputs(size);
    std::uint32_t count = 0;
    for (LaneBlock& block : inputs) {  // the same candidates in every lane
      const bool holds = holding.below(3) > 0 || count == 0;
      block.words.fill(holds ? ~std::uint64_t{0} : 0);
      count += holds ? 1 : 0;
    }
    inputs.resize(size + plane_count);
    std::vector<double> times(size, 0);
    constexpr int draws = 200;
    double draws_made = 0;
    for (int draw = 0; draw < draws; ++draw) {
      std::copy_n(planes.take(plane_count), plane_count, inputs.begin() + size);
      const std::vector<LaneBlock> values = simulated(network, inputs);
      const auto held = static_cast<double>(count_lanes(values[made.node()]));
      draws_made += made.negated() ? 512 - held : held;
      for (std::uint32_t i = 0; i < size; ++i) {
        for (const std::uint64_t word : values[chosen[i].node()].words) {
          times[i] += std::popcount(chosen[i].negated() ? ~word : word);
        }
      }
    }
    const double expected = draws_made / count;
    double chi = 0;
    double all = 0;
    for (std::uint32_t i = 0; i < size; ++i) {
      const bool holds = inputs[i].words[0] != 0;
      if (!holds) {
        EXPECT_EQ(times[i], 0);
        continue;
      }
      chi += (times[i] - expected) * (times[i] - expected) / expected;
      all += times[i];
    }
    EXPECT_EQ(all, draws_made);
    EXPECT_GT(draws_made, 0.85 * 512 * draws);
    const double freedom = count - 1;
    EXPECT_LT(chi, freedom + 4 * std::sqrt(2 * freedom) + 4) << size;
  }
}

TEST(LanePlayer, PlaysExactlyTheGamesAskedForWhateverTheExecutor) {
  const Prepared game(
      describe(syntax::Source::from_file(testing::game_path("espalier_3x3")).value()));
  for (const std::uint64_t games : {1u, 7u, 512u, 700u, 5000u}) {
    std::vector<LaneStatistics> results;
    for (const auto& executor : executors(game.play.program)) {
      LanePlayer player(game.play, *executor, game.initial);
      results.push_back(player.play(games, 9, 0, 1000));
    }
    for (const LaneStatistics& result : results) {
      EXPECT_EQ(result.games, games);
      EXPECT_EQ(result.outcomes, results.front().outcomes);
      EXPECT_EQ(result.lengths, results.front().lengths);
      EXPECT_EQ(result.plies, results.front().plies);
      std::uint64_t counted = 0;
      std::uint64_t plies = 0;
      for (const auto& [length, times] : result.lengths) {
        counted += times;
        plies += length * times;
      }
      EXPECT_EQ(counted, games);
      EXPECT_EQ(plies, result.plies);
    }
  }
}

TEST(ChoiceGroups, RolesThatMoveInTurnShareAChoice) {
  const Prepared espalier(
      describe(syntax::Source::from_file(testing::game_path("espalier")).value()));
  EXPECT_EQ(espalier.groups.groups.size(), 1u);
  EXPECT_EQ(espalier.play.choices, 1u);
  const char* const at_once =
      "(role a) (role b) (init (n 0)) (legal a x) (legal a y) (legal b x) (legal b y)"
      "(<= (next (n 1)) (does a x) (does b y)) (<= terminal (true (n 1))) (goal a 1) (goal b 1)";
  const Prepared simultaneous(describe(syntax::Source("r.gdl", at_once)));
  EXPECT_EQ(simultaneous.groups.groups.size(), 2u);
}

// What the sample did not see: after 200 plies both choose at once.
TEST(ChoiceGroups, AConflictIsReported) {
  std::string rules =
      "(role a) (role b) (init (turn a)) (init (n 0)) (next late) (<= (legal ?r x) (true (turn "
      "?r)))"
      "(<= (legal ?r y) (true (turn ?r))) (<= (legal ?r wait) (role ?r) (not (true (turn ?r))))"
      "(<= (next (turn b)) (true (turn a))) (<= (next (turn a)) (true (turn b)))"
      "(<= (next (turn ?r)) (role ?r) (true (n 200))) (<= (next (n ?m)) (true (n ?n)) (up ?n ?m))"
      "(<= terminal (true (n 300))) (goal a 50) (goal b 50)";
  for (int n = 0; n < 300; ++n) {
    rules += "(up " + std::to_string(n) + " " + std::to_string(n + 1) + ")";
  }
  const auto description = describe(syntax::Source("r.gdl", rules));
  const Prepared shared(description);
  EXPECT_EQ(shared.groups.groups.size(), 1u);
  const auto executor = make_executor(shared.play.program);
  EXPECT_TRUE(LanePlayer(shared.play, *executor, shared.initial).play(600, 1, 0, 1000).conflict);
  const Prepared separate(description, false);
  const auto other = make_executor(separate.play.program);
  const auto result = LanePlayer(separate.play, *other, separate.initial).play(600, 1, 0, 1000);
  EXPECT_FALSE(result.conflict);
  EXPECT_EQ(result.lengths, (std::map<std::uint64_t, std::uint64_t>{{300, 600}}));
}

TEST(LanePlayer, BreaksOffGamesThatAreTooLong) {
  const Prepared game(describe(syntax::Source::from_file(testing::game_path("silo")).value()));
  const auto executor = make_executor(game.play.program);
  LanePlayer player(game.play, *executor, game.initial);
  const LaneStatistics result = player.play(1000, 1, 0, 3);
  EXPECT_EQ(result.unfinished, 1000u);
  EXPECT_EQ(result.plies, 3000u);
  EXPECT_TRUE(result.lengths.empty());
}

}  // namespace
}  // namespace orchard::circuit::lanes_test
