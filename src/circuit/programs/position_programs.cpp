#include "circuit/programs/position_programs.hpp"

#include "circuit/lanes/mapping.hpp"
#include "circuit/programs/watch_program.hpp"

namespace orchard::circuit {
namespace {

LaneProgram map(const Network& network, std::vector<Signal> outputs, std::size_t reports) {
  const Network pairs = in_pairs(network, outputs);
  LaneProgram program = map_to_lanes(pairs, outputs);
  program.state_inputs = network.inputs();
  program.reports = static_cast<std::uint32_t>(reports);
  return program;
}

}  // namespace

PositionPrograms make_position_programs(const GameNetwork& game) {
  std::vector<Signal> of_position{game.terminal};
  for (const auto& legal : game.legal) {
    of_position.insert(of_position.end(), legal.begin(), legal.end());
  }
  for (const auto& goals : game.goals) {
    of_position.insert(of_position.end(), goals.begin(), goals.end());
  }
  of_position.push_back(game.undeclared_legal);
  std::vector<Signal> of_step;
  for (const auto& percepts : game.percepts) {
    of_step.insert(of_step.end(), percepts.begin(), percepts.end());
  }
  of_step.push_back(game.undeclared_next);
  const std::size_t reports = of_step.size();
  of_step.insert(of_step.end(), game.next.begin(), game.next.end());
  const std::size_t all = of_position.size();
  return {map(game.network, std::move(of_position), all),
          map(game.network, std::move(of_step), reports)};
}

LaneProgram make_watch_program(const Network& network, std::vector<Signal> signals) {
  const std::size_t all = signals.size();
  return map(network, std::move(signals), all);
}

}  // namespace orchard::circuit
