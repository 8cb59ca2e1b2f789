// export through the built command. The circuit is read back by a reader of its own, which knows
// the published format and nothing of this project, and played against the library.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "orchard/orchard.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::export_test {
namespace {

using ::testing::HasSubstr;
using Json = nlohmann::json;

// An ASCII AIGER file (version 1.9), simulated bit by bit.
class Aiger {
 public:
  explicit Aiger(const std::string& text) {
    std::istringstream in(text);
    std::string magic;
    std::size_t variables = 0;
    std::size_t inputs = 0;
    std::size_t latches = 0;
    std::size_t outputs = 0;
    std::size_t ands = 0;
    in >> magic >> variables >> inputs >> latches >> outputs >> ands;
    EXPECT_EQ(magic, "aag");
    EXPECT_EQ(variables, inputs + latches + ands);
    value_.assign(variables + 1, false);
    const auto numbers = [&](std::size_t count) {
      std::vector<std::size_t> result(count);
      for (std::size_t& number : result) in >> number;
      return result;
    };
    inputs_ = numbers(inputs);
    for (std::size_t i = 0; i < latches; ++i) latches_.push_back(numbers(3));
    outputs_ = numbers(outputs);
    for (std::size_t i = 0; i < ands; ++i) ands_.push_back(numbers(3));
    std::string symbol;
    in >> std::ws;
    while (std::getline(in, symbol) && !symbol.empty() && symbol[0] != 'c') {
      const std::size_t space = symbol.find(' ');
      const std::size_t number = std::stoul(symbol.substr(1, space - 1));
      names_[symbol[0]][symbol.substr(space + 1)] = number;
    }
    for (const auto& latch : latches_) value_[latch[0] / 2] = latch[2] == 1;
    compute();
  }

  void set_input(const std::string& name, bool on) {
    value_[inputs_.at(names_.at('i').at(name)) / 2] = on;
  }
  void compute() {
    for (const auto& gate : ands_) value_[gate[0] / 2] = literal(gate[1]) && literal(gate[2]);
  }
  void step() {
    std::vector<bool> next;
    for (const auto& latch : latches_) next.push_back(literal(latch[1]));
    for (std::size_t i = 0; i < latches_.size(); ++i) value_[latches_[i][0] / 2] = next[i];
    for (const std::size_t input : inputs_) value_[input / 2] = false;
    compute();
  }
  // Names of outputs of a kind that are on, such as all that begin with "(legal east ".
  std::set<std::string> outputs_on(const std::string& beginning) const {
    std::set<std::string> result;
    for (const auto& [name, number] : names_.at('o')) {
      if (name.starts_with(beginning) && literal(outputs_.at(number))) result.insert(name);
    }
    return result;
  }
  std::set<std::string> latches_on() const {
    std::set<std::string> result;
    for (const auto& [name, number] : names_.at('l')) {
      if (value_[latches_.at(number)[0] / 2]) result.insert(name);
    }
    return result;
  }

 private:
  bool literal(std::size_t number) const { return value_[number / 2] != (number % 2 == 1); }

  std::vector<bool> value_;
  std::vector<std::size_t> inputs_;
  std::vector<std::vector<std::size_t>> latches_;
  std::vector<std::size_t> outputs_;
  std::vector<std::vector<std::size_t>> ands_;
  std::map<char, std::map<std::string, std::size_t>> names_;
};

TEST(Export, TheCircuitPlaysTheGame) {
  for (const char* name : {"espalier_3x3", "silo", "channel", "barrow_lane", "hedgerow"}) {
    SCOPED_TRACE(name);
    const auto exported = run_orchard({"export", "aiger", game_path(name)});
    ASSERT_EQ(exported.status, 0) << exported.err;
    Aiger circuit(exported.out);
    const Game game = Game::load(game_path(name)).value();
    ASSERT_TRUE(random_walk(game, {}, [&](const WalkStep& step) {
                  std::set<std::string> fluents;
                  for (const Term& fluent : step.position.fluents()) {
                    fluents.insert("(true " + fluent.to_string() + ")");
                  }
                  EXPECT_EQ(circuit.latches_on(), fluents);
                  EXPECT_EQ(!circuit.outputs_on("terminal").empty(), game.terminal(step.position));
                  for (const Role& role : game.roles()) {
                    std::set<std::string> legal;
                    for (const Move& move : game.legal(step.position, role)) {
                      legal.insert("(legal " + role.name() + " " + move.to_string() + ")");
                    }
                    EXPECT_EQ(circuit.outputs_on("(legal " + role.name() + " "), legal);
                    std::set<std::string> goals;
                    for (const Term& value : game.goals(step.position, role)) {
                      goals.insert("(goal " + role.name() + " " + value.to_string() + ")");
                    }
                    EXPECT_EQ(circuit.outputs_on("(goal " + role.name() + " "), goals);
                    if (step.joint) {
                      circuit.set_input(
                          "(does " + role.name() + " " + (*step.joint)[role].to_string() + ")",
                          true);
                    }
                  }
                  circuit.compute();
                  if (step.joint) {
                    for (const Role& role : game.roles()) {
                      std::set<std::string> percepts;
                      const std::vector<Term> seen =
                          game.percepts(step.position, *step.joint, role).value();
                      for (const Term& percept : seen) {
                        percepts.insert("(sees " + role.name() + " " + percept.to_string() + ")");
                      }
                      EXPECT_EQ(circuit.outputs_on("(sees " + role.name() + " "), percepts);
                    }
                  }
                  circuit.step();
                  return !HasFailure();
                }).ok());
  }
}

// Ground rules and the circuit as rules are descriptions that mean the same: random games of the
// same seed are the same, position by position, percepts included.
TEST(Export, RulesReadBackAreTheSameGame) {
  const TemporaryFolder folder;
  for (const char* form : {"rules", "network"}) {
    for (const char* name :
         {"espalier_3x3", "silo", "channel", "barrow_lane", "pickers", "cellar"}) {
      SCOPED_TRACE(std::string(form) + " of " + name);
      const std::string file = folder.path(std::string(name) + ".gdl");
      ASSERT_EQ(run_orchard({"export", form, game_path(name), "--output", file}).status, 0);
      const auto walk = [](const std::string& path) {
        return run_orchard({"walk", path, "--games", "5", "--seed", "3", "--json"}).out;
      };
      const std::string walked = walk(file);
      EXPECT_GT(walked.size(), 1000u);
      EXPECT_EQ(walked, walk(game_path(name)));
    }
  }
  const auto network = run_orchard({"export", "network", game_path("espalier_3x3")});
  EXPECT_THAT(network.out, HasSubstr("(<= gate_"));
}

TEST(Export, StatisticsAndWrongCalls) {
  const auto text = run_orchard({"export", "stats", game_path("silo")});
  EXPECT_EQ(text.status, 0);
  EXPECT_THAT(text.out, HasSubstr("gates with 1 random choice"));
  const Json json = Json::parse(run_orchard({"export", "stats", game_path("silo"), "--json"}).out);
  EXPECT_EQ(json["choices"], 1);
  EXPECT_GT(json["operations"], 500);
  EXPECT_LT(json["operations"], json["play_pairs"]);
  EXPECT_EQ(run_orchard({"export", "music", game_path("silo")}).status, 2);
  EXPECT_EQ(run_orchard({"export", "aiger"}).status, 2);
}

// A counter in nested terms has no end of instances; everything else works without a circuit.
TEST(Export, TellsWhatHasNoCircuit) {
  const TemporaryFolder folder;
  const std::string file = folder.write(
      "grow.gdl",
      "(role bee) (init (n zero)) (legal bee go) (<= (next (n (s ?x))) (true (n ?x)))\n"
      "(init light)\n"
      "(<= (next light) (true light)) (<= terminal (true (n (s (s zero)))) (true light))"
      "(goal bee 100)\n");
  const std::string endless = folder.write(
      "endless.gdl",
      "(role bee) (init (n zero)) (legal bee go) (<= (next (n (s ?x))) (true (n ?x)))\n"
      "(goal bee 100)\n");
  const auto refused = run_orchard({"export", "stats", endless});
  EXPECT_EQ(refused.status, 3);
  EXPECT_THAT(refused.err,
              HasSubstr("endless.gdl:1:47: error: terms grow deeper than 64; most by this "
                        "rule [too-many-instances]"));
  const auto played = run_orchard({"playouts", file, "--games", "10", "--json"});
  EXPECT_EQ(Json::parse(played.out)["length"]["mean"], 2.0);
}

}  // namespace
}  // namespace orchard::testing::export_test
