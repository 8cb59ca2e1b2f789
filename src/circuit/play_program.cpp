#include "circuit/play_program.hpp"

#include "circuit/choice.hpp"
#include "circuit/mapping.hpp"

namespace orchard::circuit {
namespace {

// Copies gates of one network into another, with signals in place of its inputs.
class Copier {
 public:
  Copier(const Network& from, Network& to)
      : from_(from), to_(to), copy_(from.size(), never), done_(from.size(), false) {
    done_[0] = true;
  }

  void put(Signal input, Signal by) {
    copy_[input.node()] = by ^ input.negated();
    done_[input.node()] = true;
  }

  Signal operator()(Signal signal) {
    std::vector<std::uint32_t> open{signal.node()};
    while (!open.empty()) {
      const std::uint32_t node = open.back();
      if (done_[node]) {
        open.pop_back();
        continue;
      }
      bool ready = true;
      for (const Signal operand : from_.of(node)) {
        if (done_[operand.node()]) continue;
        ready = false;
        open.push_back(operand.node());
      }
      if (!ready) continue;
      std::vector<Signal> operands;
      for (const Signal operand : from_.of(node)) {
        operands.push_back(copy_[operand.node()] ^ operand.negated());
      }
      copy_[node] = to_.all(std::move(operands));
      done_[node] = true;
      open.pop_back();
    }
    return copy_[signal.node()] ^ signal.negated();
  }

 private:
  const Network& from_;
  Network& to_;
  std::vector<Signal> copy_;
  std::vector<bool> done_;
};

}  // namespace

PlayProgram make_play_program(const GameNetwork& game, const ChoiceGroups& groups,
                              const PlaySetting& setting) {
  PlayProgram result;
  Network network;
  Copier copy(game.network, network);
  for (const Signal fluent : game.fluents) copy.put(fluent, network.add_input());
  std::vector<std::vector<Signal>> legal;
  std::vector<Signal> can_move;
  for (const std::vector<Signal>& of_role : game.legal) {
    std::vector<Signal>& moves = legal.emplace_back();
    for (const Signal move : of_role) moves.push_back(copy(move));
    can_move.push_back(network.any(moves));
  }
  std::vector<Signal> conflicts;
  std::vector<Signal> active_by_role(legal.size(), never);
  std::vector<std::vector<Signal>> count_by_role(legal.size());
  result.first_plane.assign(legal.size(), PlayProgram::none);
  for (const std::vector<std::size_t>& group : groups.groups) {
    // Moves of the same number stand in one place: only one role of the group has any.
    std::vector<std::vector<Signal>> places;
    std::vector<Signal> active;  // by member
    for (const std::size_t role : group) {
      std::vector<Signal> waiting;
      std::vector<Signal> others;
      for (std::size_t m = 0; m < legal[role].size(); ++m) {
        if (groups.waits[role][m]) {
          waiting.push_back(legal[role][m]);
          continue;
        }
        if (places.size() == others.size()) places.emplace_back();
        places[others.size()].push_back(legal[role][m]);
        others.push_back(legal[role][m]);
      }
      active.push_back(network.any(others));
      // Two waiting moves at once, or one beside another move.
      for (std::size_t i = 0; i < waiting.size(); ++i) {
        conflicts.push_back(network.both(waiting[i], active.back()));
        for (std::size_t j = 0; j < i; ++j) {
          conflicts.push_back(network.both(waiting[i], waiting[j]));
        }
      }
    }
    for (std::size_t i = 0; i < active.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) conflicts.push_back(network.both(active[i], active[j]));
    }
    std::vector<Signal> candidates;
    for (std::vector<Signal>& place : places) candidates.push_back(network.any(std::move(place)));
    std::vector<Signal> random;
    if (candidates.size() > 1) {
      for (const std::size_t role : group) result.first_plane[role] = result.random_blocks;
      for (std::uint32_t i = 0; i < choice_planes; ++i) random.push_back(network.add_input());
      result.random_blocks += choice_planes;
    }
    const auto [chosen, count] = choose_uniformly(network, candidates, random);
    for (std::size_t i = 0; i < group.size(); ++i) {
      const std::size_t role = group[i];
      active_by_role[role] = active[i];
      count_by_role[role] = count;
      std::size_t place = 0;
      for (std::size_t m = 0; m < legal[role].size(); ++m) {
        const Signal made =
            groups.waits[role][m] ? legal[role][m] : network.both(chosen[place++], legal[role][m]);
        copy.put(game.does[role][m], made);
      }
    }
  }
  const Signal terminal = copy(game.terminal);
  const Signal stuck = network.both(!terminal, !network.all(can_move));
  const Signal begins_again = network.either(terminal, stuck);
  const Signal conflict = network.both(!terminal, network.any(std::move(conflicts)));
  std::vector<Signal> outputs{terminal, stuck, conflict};
  const auto put = [&](Signal signal) {
    outputs.push_back(signal);
    return static_cast<std::uint32_t>(outputs.size() - 1);
  };
  for (std::size_t r = 0; r < legal.size(); ++r) {
    std::vector<Signal> others;
    for (std::size_t m = 0; m < legal[r].size(); ++m) {
      if (!setting.waiting[r][m]) others.push_back(legal[r][m]);
    }
    const Signal to_move = network.any(std::move(others));
    PlayProgram::MoveReports reports;
    reports.to_move = put(to_move);
    reports.forced = put(network.both(to_move, !active_by_role[r]));
    reports.count = static_cast<std::uint32_t>(outputs.size());
    reports.count_bits = static_cast<std::uint32_t>(count_by_role[r].size());
    for (const Signal bit : count_by_role[r]) put(bit);
    result.moves.push_back(reports);
  }
  result.first_value = static_cast<std::uint32_t>(outputs.size());
  for (const std::vector<Signal>& values : game.goals) {
    result.first_goal.push_back(static_cast<std::uint32_t>(outputs.size()));
    for (const Signal value : values) outputs.push_back(copy(value));
  }
  const auto reports = static_cast<std::uint32_t>(outputs.size());
  for (std::size_t f = 0; f < game.next.size(); ++f) {
    const Signal initial = setting.initial[f] ? always : never;
    outputs.push_back(network.choose(begins_again, initial, copy(game.next[f])));
  }
  const Network pairs = in_pairs(network, outputs);
  result.gates = network.gates();
  result.pairs = pairs.gates();
  result.program = map_to_lanes(pairs, outputs);
  result.program.state_inputs = static_cast<std::uint32_t>(game.fluents.size());
  result.program.reports = reports;
  return result;
}

}  // namespace orchard::circuit
