// The network of a game against the reference evaluator: legal moves, what follows, ends, values
// and percepts at every position of random games. (What is made of it, for demo games too:
// tests/game/judge_test.cpp.)
#include "circuit/programs/game_network.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "circuit/lanes/equivalence.hpp"
#include "logic/evaluator.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::circuit::game_network_test {
namespace {

using ground::GroundProgram;
using rules::TermId;

struct Loaded {
  std::shared_ptr<const rules::Description> description;
  std::shared_ptr<const logic::Program> program;
  std::shared_ptr<const GroundProgram> ground;  // null if it has too many instances
};

// Every body that can be split is.
constexpr ground::Splitting all_split{0, 0};

std::optional<Loaded> load(syntax::Source source, const ground::Splitting& splitting = {}) {
  Diagnostics diagnostics;
  Loaded loaded;
  loaded.description = rules::Description::build(std::move(source), {}, diagnostics);
  if (!loaded.description) return std::nullopt;
  auto program = logic::Program::make(loaded.description, {});
  if (!program) return std::nullopt;
  loaded.program = *program;
  ground::Limits limits;
  limits.bytes = 64 << 20;
  limits.term_depth = 8;
  limits.splitting = splitting;
  auto ground = GroundProgram::make(loaded.description, limits);
  if (ground) loaded.ground = *ground;
  return loaded;
}

// Plays random games; every position is asked of both. Gives the number of positions compared.
class Comparison {
 public:
  explicit Comparison(const Loaded& loaded)
      : loaded_(loaded), network_(build_network(*loaded.ground)), evaluator_(loaded.program) {}

  int play(Random& random, int most_plies) {
    std::vector<TermId> position = loaded_.program->initial();
    int compared = 0;
    for (int ply = 0; ply <= most_plies; ++ply) {
      evaluator_.set_position(position);
      const auto legal = evaluator_.legal();
      std::vector<TermId> joint;
      for (const auto& moves : legal) {
        if (moves.empty()) break;
        joint.push_back(moves[random.below(moves.size())]);
      }
      const bool goes_on = joint.size() == legal.size() && !evaluator_.terminal();
      set_inputs(position, goes_on ? joint : std::vector<TermId>{});
      compare_position(legal);
      ++compared;
      if (!goes_on || ::testing::Test::HasFailure()) break;
      evaluator_.set_joint_move(joint);
      position = evaluator_.next();
      compare_step(position);
    }
    return compared;
  }

 private:
  void set_inputs(const std::vector<TermId>& position, const std::vector<TermId>& joint) {
    const GroundProgram& ground = *loaded_.ground;
    values_.assign(network_.network.size(), false);
    std::size_t found = 0;
    for (std::size_t f = 0; f < ground.fluents().size(); ++f) {
      const bool holds = std::ranges::find(position, ground.fluents()[f].term) != position.end();
      values_[network_.fluents[f].node()] = holds;
      found += holds ? 1 : 0;
    }
    ASSERT_EQ(found, position.size()) << "a reachable fluent was not foreseen";
    for (std::size_t r = 0; r < joint.size(); ++r) {
      for (std::size_t m = 0; m < ground.moves()[r].size(); ++m) {
        values_[network_.does[r][m].node()] = ground.moves()[r][m].term == joint[r];
      }
    }
    for (std::uint32_t node = 1; node < network_.network.size(); ++node) {
      if (!network_.network.is_gate(node)) continue;
      bool all = true;
      for (const Signal signal : network_.network.of(node)) all = all && value(signal);
      values_[node] = all;
    }
  }
  bool value(Signal signal) const { return values_[signal.node()] != signal.negated(); }

  void compare_position(const std::vector<std::vector<TermId>>& legal) {
    const GroundProgram& ground = *loaded_.ground;
    const auto goals = evaluator_.goals();
    for (std::size_t r = 0; r < legal.size(); ++r) {
      std::vector<TermId> derived;
      for (std::size_t m = 0; m < ground.moves()[r].size(); ++m) {
        if (value(network_.legal[r][m])) derived.push_back(ground.moves()[r][m].term);
      }
      EXPECT_EQ(derived, legal[r]);
      EXPECT_EQ(held(ground.goals()[r], network_.goals[r]), goals[r]);
    }
    EXPECT_EQ(value(network_.terminal), evaluator_.terminal());
  }

  void compare_step(std::vector<TermId> position) {
    const GroundProgram& ground = *loaded_.ground;
    std::vector<TermId> next;
    for (std::size_t f = 0; f < ground.fluents().size(); ++f) {
      if (value(network_.next[f])) next.push_back(ground.fluents()[f].term);
    }
    std::ranges::sort(next);
    std::ranges::sort(position);
    EXPECT_EQ(next, position);
    const auto percepts = evaluator_.percepts();
    for (std::size_t r = 0; r < percepts.size(); ++r) {
      EXPECT_EQ(held(ground.percepts()[r], network_.percepts[r]), percepts[r]);
    }
  }

  std::vector<TermId> held(const std::vector<GroundProgram::Value>& values,
                           const std::vector<Signal>& signals) const {
    std::vector<TermId> result;
    for (std::size_t v = 0; v < values.size(); ++v) {
      if (value(signals[v])) result.push_back(values[v].term);
    }
    return result;
  }

  const Loaded& loaded_;
  GameNetwork network_;
  logic::Evaluator evaluator_;
  std::vector<bool> values_;
};

TEST(GameNetwork, OfRandomDescriptionsEqualsTheReference) {
  int compared = 0;
  int too_large = 0;
  for (std::uint64_t seed = 0; seed < 300; ++seed) {
    const std::string rules = testing::random_rules(seed);
    SCOPED_TRACE(rules);
    const auto loaded = load(syntax::Source("random.gdl", rules));
    if (!loaded) continue;
    if (!loaded->ground) {
      ++too_large;
      continue;
    }
    Comparison comparison(*loaded);
    Random random(seed);
    for (int game = 0; game < 3; ++game) compared += comparison.play(random, 20);
    if (HasFailure()) break;
  }
  std::printf("%d positions compared, %d descriptions too large to instantiate\n", compared,
              too_large);
  EXPECT_GT(compared, 1000);
}

std::size_t parts(const GroundProgram& ground) {
  std::size_t result = 0;
  for (std::uint32_t a = 0; a < ground.atom_count(); ++a) {
    result += ground.is_part(ground::AtomId{a}) ? 1 : 0;
  }
  return result;
}

// All that the network puts out.
std::vector<Signal> outputs(const GameNetwork& game) {
  std::vector<Signal> result = game.next;
  result.push_back(game.terminal);
  for (const auto* lists : {&game.legal, &game.goals, &game.percepts}) {
    for (const auto& of_role : *lists) result.insert(result.end(), of_role.begin(), of_role.end());
  }
  return result;
}

// The same game, its rules split wherever they can be.
void expect_same_when_split(const syntax::Source& source, std::size_t& split) {
  const auto whole = load(source);
  if (!whole || !whole->ground) return;
  const auto in_parts = load(source, all_split);
  ASSERT_TRUE(in_parts && in_parts->ground);
  split += parts(*in_parts->ground);
  const GameNetwork a = build_network(*whole->ground);
  const GameNetwork b = build_network(*in_parts->ground);
  ASSERT_EQ(a.fluents.size(), b.fluents.size());
  ASSERT_EQ(a.network.inputs(), b.network.inputs());
  ASSERT_EQ(outputs(a).size(), outputs(b).size());
  EXPECT_TRUE(same_on_random_inputs(a.network, outputs(a), b.network, outputs(b), 50));
}

TEST(GameNetwork, OfSplitBodiesIsTheSame) {
  std::size_t split = 0;
  for (std::uint64_t seed = 0; seed < 300 && !HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    expect_same_when_split(syntax::Source("random.gdl", testing::random_rules(seed)), split);
  }
  EXPECT_GT(split, 100u);
  split = 0;
  for (const char* name : {"barrow_lane", "cellar", "channel", "espalier", "graft", "hedgerow",
                           "market_day", "moles", "pickers", "silo", "snails"}) {
    SCOPED_TRACE(name);
    expect_same_when_split(syntax::Source::from_file(testing::game_path(name)).value(), split);
  }
  EXPECT_GT(split, 100u);
}

TEST(Network, KeepsEqualGatesOnce) {
  Network network;
  const Signal a = network.add_input();
  const Signal b = network.add_input();
  EXPECT_EQ(network.both(a, b), network.both(b, a));
  EXPECT_EQ(network.both(a, !a), never);
  EXPECT_EQ(network.either(a, !a), always);
  EXPECT_EQ(network.both(a, always), a);
  EXPECT_EQ(network.any({}), never);
  EXPECT_EQ(network.gates(), 1u);
}

TEST(Network, TakesOutWhatTermsShare) {
  using Sum = std::vector<std::vector<Signal>>;
  Network network;
  std::vector<Signal> in;
  for (int i = 0; i < 5; ++i) in.push_back(network.add_input());
  const Signal sum =
      network.any_of_all(Sum{{in[0], in[1]}, {in[0], in[2]}, {in[0], in[3]}, {in[4]}});
  EXPECT_EQ(sum, network.either(network.both(in[0], network.any({in[1], in[2], in[3]})), in[4]));
  EXPECT_EQ(network.any_of_all(Sum{{}, {in[0]}}), always);
  // As long as no hand writes them: neither the stack nor time runs out.
  Sum long_terms(2);
  for (int i = 0; i < 20'000; ++i) {
    const Signal shared = network.add_input();
    for (auto& term : long_terms) term.push_back(shared);
  }
  long_terms[0].push_back(in[0]);
  long_terms[1].push_back(in[1]);
  const std::uint32_t before = network.gates();
  EXPECT_NE(network.any_of_all(long_terms), always);
  EXPECT_GT(network.gates(), before);
  EXPECT_EQ(network.any_of_all(Sum{}), never);
}

}  // namespace
}  // namespace orchard::circuit::game_network_test
