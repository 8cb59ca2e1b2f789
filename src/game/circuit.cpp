#include "orchard/circuit.hpp"

#include <chrono>

#include "circuit/programs/aiger.hpp"
#include "circuit/programs/network_rules.hpp"
#include "game/core.hpp"
#include "game/lane_game.hpp"

namespace orchard {
namespace {

// The lanes of a game, or why it has none.
Result<const LaneGame*> lanes_of(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  if (const LaneGame* lanes = core.lanes()) return lanes;
  return core.lanes_fault();
}

class Watch {
 public:
  double lap() {
    const auto now = std::chrono::steady_clock::now();
    return std::chrono::duration<double>(now - std::exchange(last_, now)).count();
  }

 private:
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

}  // namespace

Result<std::string> to_aiger(const Game& game) {
  const auto lanes = lanes_of(game);
  if (!lanes) return lanes.diagnostics();
  return circuit::to_aiger((*lanes)->ground(), (*lanes)->network());
}

namespace {

std::string roles_and_start(const Game& game) {
  std::string text;
  for (const Role& role : game.roles()) text += "(role " + role.name() + ")\n";
  for (const Term& fluent : game.initial().fluents()) {
    text += "(init " + fluent.to_string() + ")\n";
  }
  return text;
}

}  // namespace

Result<std::string> ground_rules(const Game& game) {
  const auto lanes = lanes_of(game);
  if (!lanes) return lanes.diagnostics();
  return roles_and_start(game) + (*lanes)->ground().text();
}

Result<std::string> network_rules(const Game& game) {
  const auto lanes = lanes_of(game);
  if (!lanes) return lanes.diagnostics();
  return roles_and_start(game) + circuit::to_rules((*lanes)->ground(), (*lanes)->network());
}

Result<CircuitStatistics> circuit_statistics(const Game& game) {
  const auto lanes = lanes_of(game);
  if (!lanes) return lanes.diagnostics();
  const GameCore& core = *GameAccess::core(game);
  CircuitStatistics result;
  Watch watch;
  const auto ground = LaneGame::instantiate(core);
  result.ground_seconds = watch.lap();
  const circuit::GameNetwork network = circuit::build_network(**ground);
  result.network_seconds = watch.lap();
  const circuit::PlayProgram play = (*lanes)->play_program((*ground)->initial(), true);
  result.mapping_seconds = watch.lap();
  const auto executor = circuit::make_executor(play.program);
  result.code_seconds = watch.lap();
  result.fluents = (*ground)->fluents().size();
  for (const auto& moves : (*ground)->moves()) result.moves += moves.size();
  result.atoms = (*ground)->atom_count();
  result.clauses = (*ground)->clauses().size();
  result.gates = network.network.gates();
  result.play_gates = play.gates;
  result.play_pairs = play.pairs;
  result.operations = play.program.operations.size();
  result.choices = play.choices;
  result.scratch_blocks = executor->scratch_blocks();
  result.code_bytes = executor->code_bytes();
  result.executor = name_of(executor->kind());
  return result;
}

}  // namespace orchard
