#include "explore/keys/keyed_game.hpp"

#include <algorithm>

#include "circuit/lanes/mapping.hpp"
#include "circuit/network/copier.hpp"
#include "circuit/network/numbers.hpp"
#include "explore/sampling/grouped_joints.hpp"

namespace orchard::explore {

using circuit::always;
using circuit::Network;
using circuit::never;
using circuit::Signal;

namespace {

constexpr std::uint64_t most_gates = 30'000'000;  // copied for all steps

std::unique_ptr<const circuit::Executor> compile(const Network& network,
                                                 std::vector<Signal> outputs, std::size_t reports) {
  const Network pairs = circuit::in_pairs(network, outputs);
  circuit::LaneProgram program = circuit::map_to_lanes(pairs, outputs);
  program.state_inputs = network.inputs();
  program.reports = static_cast<std::uint32_t>(reports);
  return circuit::make_executor(program);
}

}  // namespace

bool KeyedGame::can_be_made(const LaneGame& game) {
  const std::size_t joints = grouped_joints(game.choice_groups()).size();
  return joints > 0 && joints * game.network().network.size() <= most_gates;
}

std::unique_ptr<const KeyedGame> KeyedGame::make(const LaneGame& game, PositionCode code,
                                                 Measure measure, Renamings renamings,
                                                 const Lookout& lookout) {
  if (code.bits > PositionCode::most_bits) return nullptr;
  const std::vector<JointNumbers> joints = grouped_joints(game.choice_groups());
  std::unique_ptr<KeyedGame> result(
      new KeyedGame(game, std::move(code), std::move(measure), std::move(renamings)));
  for (const PositionCode::Group& group : result->code_.groups) {
    result->plans_.push_back(plans_of(group));
  }
  std::vector<Draft> drafts;
  for (const JointNumbers& joint : joints) drafts.push_back(result->draft(joint));
  result->arrange(drafts);
  result->make_look(std::move(drafts), lookout);
  return result;
}

KeyedGame::Plans KeyedGame::plans_of(const PositionCode::Group& group) {
  using circuit::DecisionPlan;
  const std::size_t places = group.fluents.size();
  Plans result{{}, DecisionPlan::one_of(group.patterns, places), {}};
  std::vector<circuit::Combination> numbers(group.patterns.size());
  for (std::uint32_t b = 0; b < group.bits; ++b) {
    std::vector<bool> wanted;
    for (std::size_t n = 0; n < group.patterns.size(); ++n) {
      wanted.push_back((n >> b & 1) != 0);
      if (wanted.back()) numbers[n].push_back(static_cast<std::uint16_t>(b));
    }
    result.bits.push_back(DecisionPlan::telling(group.patterns, places, wanted));
  }
  for (std::size_t place = 0; place < places; ++place) {
    std::vector<bool> wanted;
    for (const circuit::Combination& pattern : group.patterns) {
      wanted.push_back(std::ranges::binary_search(pattern, place));
    }
    result.fluents.push_back(DecisionPlan::telling(numbers, group.bits, wanted));
  }
  return result;
}

namespace {

std::vector<Signal> signals_of(const PositionCode::Group& group, const std::vector<Signal>& fluents,
                               const std::vector<std::uint32_t>* renaming) {
  std::vector<Signal> result;
  for (const std::uint32_t fluent : group.fluents) {
    result.push_back(fluents[renaming == nullptr ? fluent : (*renaming)[fluent]]);
  }
  return result;
}

}  // namespace

std::vector<Signal> KeyedGame::renamed_bits(Network& network, const std::vector<Signal>& fluents,
                                            const std::vector<std::uint32_t>& renaming) const {
  std::vector<Signal> result(code_.bits, never);
  for (std::size_t g = 0; g < code_.groups.size(); ++g) {
    const PositionCode::Group& group = code_.groups[g];
    const std::vector<Signal> signals = signals_of(group, fluents, &renaming);
    for (std::uint32_t b = 0; b < group.bits; ++b) {
      result[group.first_bit + b] = plans_[g].bits[b].build(network, signals);
    }
  }
  return result;
}

// The bits of the key are the inputs, then what the clock says.
std::vector<Signal> KeyedGame::fluents_of_bits(Network& network) const {
  std::vector<Signal> bits;
  for (std::uint32_t b = 0; b < code_.bits; ++b) bits.push_back(network.add_input());
  std::vector<Signal> result(game_.network().fluents.size(), never);
  for (const std::uint32_t fluent : code_.clock.fluents) result[fluent] = network.add_input();
  for (const std::uint32_t fluent : code_.always) result[fluent] = always;
  for (std::size_t g = 0; g < code_.groups.size(); ++g) {
    const PositionCode::Group& group = code_.groups[g];
    for (std::size_t place = 0; place < group.fluents.size(); ++place) {
      result[group.fluents[place]] = plans_[g].fluents[place].build(
          network, std::span(bits).subspan(group.first_bit, group.bits));
    }
  }
  return result;
}

void KeyedGame::make_look(std::vector<Draft> drafts, const Lookout& lookout) {
  const circuit::GameNetwork& game = game_.network();
  Network network;
  const std::vector<Signal> fluents = fluents_of_bits(network);
  circuit::Copier copy(lookout.network == nullptr ? game.network : *lookout.network, network);
  for (std::size_t f = 0; f < fluents.size(); ++f) copy.put(game.fluents[f], fluents[f]);

  const Signal terminal = copy(game.terminal);
  std::vector<std::vector<Signal>> legal;
  std::vector<Signal> can_move;
  for (const std::vector<Signal>& of_role : game.legal) {
    std::vector<Signal>& moves = legal.emplace_back();
    for (const Signal move : of_role) moves.push_back(copy(move));
    can_move.push_back(network.any(moves));
  }
  const Signal all_can = network.all(can_move);
  const Signal open = network.both(!terminal, all_can);
  const Signal more = other_joints(network, game_.choice_groups(), legal);
  std::vector<Signal> outputs{terminal, network.both(!terminal, !all_can),
                              network.both(open, more)};
  std::vector<Signal> same;
  for (const std::vector<std::uint32_t>& renaming : renamings_) {
    const std::vector<Signal> renamed = renamed_bits(network, fluents, renaming);
    std::vector<Signal> equal;
    for (std::uint32_t b = 0; b < code_.bits; ++b) {
      equal.push_back(!network.differ(Signal(network.input(b), false), renamed[b]));
    }
    same.push_back(network.all(std::move(equal)));
  }
  const circuit::Number same_number = circuit::count(network, same);
  same_bits_ = same_number.size();
  outputs.insert(outputs.end(), same_number.begin(), same_number.end());
  signals_ = lookout.signals.size();
  for (const Signal signal : lookout.signals) outputs.push_back(copy(signal));
  for (Draft& draft : drafts) {
    std::vector<Signal> made{open};
    for (std::size_t role = 0; role < draft.joint.size(); ++role) {
      made.push_back(legal[role][draft.joint[role]]);
    }
    const Signal possible = network.all(std::move(made));
    if (possible == never) continue;
    outputs.push_back(possible);
    make_step(std::move(draft));
  }
  const std::size_t reports = outputs.size();
  outputs.insert(outputs.end(), fluents.begin(), fluents.end());
  look_ = compile(network, std::move(outputs), reports);
}

KeyedGame::Draft KeyedGame::draft(const JointNumbers& joint) const {
  const circuit::GameNetwork& game = game_.network();
  Draft result;
  result.joint = joint;
  Network& network = result.network;
  std::vector<Signal> now;
  for (std::size_t f = 0; f < game.fluents.size(); ++f) now.push_back(network.add_input());
  for (const std::uint32_t fluent : code_.always) now[fluent] = always;
  for (const std::uint32_t fluent : code_.never) now[fluent] = never;
  circuit::Copier copy(game.network, network);
  for (std::size_t f = 0; f < now.size(); ++f) copy.put(game.fluents[f], now[f]);
  for (std::size_t role = 0; role < joint.size(); ++role) {
    for (std::uint32_t m = 0; m < game.does[role].size(); ++m) {
      copy.put(game.does[role][m], m == joint[role] ? always : never);
    }
  }
  for (const Signal next : game.next) result.next.push_back(copy(next));
  for (const std::uint32_t fluent : code_.always) {
    result.unwritable.push_back(!result.next[fluent]);
  }
  for (const std::uint32_t fluent : code_.never) result.unwritable.push_back(result.next[fluent]);
  if (measure_.step != 0) {
    // Of the fluents that may change: one more must hold than did before, or one less.
    std::vector<Signal> before;
    std::vector<Signal> after;
    for (const std::uint32_t fluent : measure_.fluents) {
      if (now[fluent] == result.next[fluent]) continue;
      before.push_back(now[fluent]);
      after.push_back(result.next[fluent]);
    }
    (measure_.step > 0 ? before : after).push_back(always);
    result.mismeasured =
        circuit::differ(network, circuit::count(network, before), circuit::count(network, after));
  }
  for (const std::uint32_t fluent : code_.clock.fluents) {
    result.unwritable.push_back(network.differ(result.next[fluent], network.add_input()));
  }
  for (std::size_t g = 0; g < code_.groups.size(); ++g) {
    const PositionCode::Group& group = code_.groups[g];
    const std::vector<Signal> next = signals_of(group, result.next, nullptr);
    const bool changes = next != signals_of(group, now, nullptr);
    if (changes) result.unwritable.push_back(!plans_[g].known.build(network, next));
    result.changes.push_back(changes);
  }
  return result;
}

// Bits that the same joint moves change stand together, so that writing them touches few bytes.
void KeyedGame::arrange(const std::vector<Draft>& drafts) {
  std::vector<std::pair<std::vector<std::size_t>, std::size_t>> order;
  for (std::size_t g = 0; g < code_.groups.size(); ++g) {
    std::vector<std::size_t> changed_by;
    for (std::size_t d = 0; d < drafts.size(); ++d) {
      if (drafts[d].changes[g]) changed_by.push_back(d);
    }
    order.emplace_back(std::move(changed_by), g);
  }
  std::ranges::sort(order);
  std::uint32_t bit = 0;
  for (const auto& [changed_by, g] : order) {
    code_.groups[g].first_bit = bit;
    bit += code_.groups[g].bits;
  }
}

void KeyedGame::make_step(Draft draft) {
  Step step;
  step.joint = std::move(draft.joint);
  std::vector<std::pair<std::uint32_t, Signal>> written;
  for (std::size_t g = 0; g < code_.groups.size(); ++g) {
    const PositionCode::Group& group = code_.groups[g];
    if (!draft.changes[g]) continue;
    const std::vector<Signal> next = signals_of(group, draft.next, nullptr);
    for (std::uint32_t b = 0; b < group.bits; ++b) {
      written.emplace_back(group.first_bit + b, plans_[g].bits[b].build(draft.network, next));
    }
  }
  std::ranges::sort(written);
  std::vector<Signal> outputs{draft.network.any(std::move(draft.unwritable)), draft.mismeasured};
  for (const auto& [bit, signal] : written) {
    step.bits.push_back(bit);
    outputs.push_back(signal);
  }
  for (const std::vector<std::uint32_t>& renaming : renamings_) {
    const std::vector<Signal> renamed = renamed_bits(draft.network, draft.next, renaming);
    outputs.insert(outputs.end(), renamed.begin(), renamed.end());
  }
  const std::size_t reports = outputs.size();
  step.executor = compile(draft.network, std::move(outputs), reports);
  steps_.push_back(std::move(step));
}

}  // namespace orchard::explore
