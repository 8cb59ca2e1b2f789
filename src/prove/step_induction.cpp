#include "prove/step_induction.hpp"

#include <algorithm>
#include <numeric>

#include "base/interruption.hpp"
#include "prove/values.hpp"

namespace orchard::prove {
namespace {

constexpr int most_conflicts = 3'000;
constexpr std::size_t largest_cone = 4'000;  // of a signal that is looked at after every step

bool is_group(const FluentSum& sum) {
  return sum.weights.empty();
}

std::int64_t value_of(const FluentSum& sum, const std::vector<bool>& position) {
  std::int64_t value = 0;
  for (std::size_t at = 0; at < sum.fluents.size(); ++at) {
    if (position[sum.fluents[at]]) value += sum.weight(at);
  }
  return value;
}

}  // namespace

StepInduction::StepInduction(const circuit::GameNetwork& game, const circuit::Network& network,
                             std::vector<bool> start)
    : game_(game),
      given_(network),
      network_(network),
      start_(std::move(start)),
      position_(game, network_, start_),
      value_(network.size()) {
  forget_step();
}

void StepInduction::know_never(const std::vector<Signal>& never) {
  position_.exclude(never);
  known_never_.insert(known_never_.end(), never.begin(), never.end());
}

// Every node is what it was before the step.
void StepInduction::forget_step() {
  for (std::uint32_t node = 0; node < value_.size(); ++node) value_[node] = Signal(node, false);
}

void StepInduction::know_group(const std::vector<std::uint32_t>& fluents, bool exactly_one) {
  groups_.push_back({fluents, exactly_one});
  add_group(exclusive_, groups_.back());
}

void StepInduction::add_group(ExclusiveSignals& to, const Group& group) const {
  std::vector<Signal> members;
  for (const std::uint32_t f : group.fluents) members.push_back(game_.fluents[f]);
  to.add(members, group.exactly_one);
}

bool StepInduction::find_steps() {
  std::optional<std::vector<SingleStep>> steps;
  try {
    steps = single_steps(game_, network_, known_never_);
  } catch (const Interrupted&) {
  }
  if (!steps) return false;
  // Neighbours are alike: those that are looked at first lie apart.
  std::size_t stride = steps->size() * 5 / 8 + 1;
  while (std::gcd(stride, steps->size()) != 1) ++stride;
  steps_.clear();
  for (std::size_t i = 0; i < steps->size(); ++i) {
    steps_.push_back(std::move((*steps)[i * stride % steps->size()]));
  }
  return true;
}

std::vector<std::uint32_t> StepInduction::cone(Signal signal) const {
  std::vector<std::uint32_t> result{signal.node()};
  absl::flat_hash_set<std::uint32_t> seen{signal.node()};
  for (std::size_t at = 0; at < result.size() && result.size() <= largest_cone; ++at) {
    for (const Signal operand : given_.of(result[at])) {
      if (seen.insert(operand.node()).second) result.push_back(operand.node());
    }
  }
  std::ranges::sort(result);
  return result;
}

std::vector<Signal> StepInduction::suspect(const std::vector<SumSuspect>& sums,
                                           std::vector<Signal> signals, std::uint64_t work) {
  Suspects suspects;
  for (const SumSuspect& sum : sums) {
    if (!sum.over.empty()) suspects.push_back({.sum = &sum, .below = false});
    if (!sum.under.empty()) suspects.push_back({.sum = &sum, .below = true});
  }
  std::ranges::sort(signals);
  signals.erase(std::unique(signals.begin(), signals.end()), signals.end());
  for (const Signal signal : signals) {
    if (signal == circuit::never) continue;
    auto nodes = cone(signal);
    if (nodes.size() <= largest_cone)
      suspects.push_back({.signal = signal, .cone = std::move(nodes)});
  }
  refute(suspects, start_);
  std::erase_if(suspects, [](const Suspect& suspect) { return !suspect.alive; });
  touched_by_.assign(game_.fluents.size(), {});
  std::vector<std::uint32_t> fluent_of(value_.size(), ~0u);
  for (std::uint32_t f = 0; f < game_.fluents.size(); ++f) fluent_of[game_.fluents[f].node()] = f;
  for (std::uint32_t s = 0; s < suspects.size(); ++s) {
    if (suspects[s].sum != nullptr) {
      for (const std::uint32_t f : suspects[s].sum->sum.fluents) touched_by_[f].push_back(s);
      continue;
    }
    for (const std::uint32_t node : suspects[s].cone) {
      if (fluent_of[node] != ~0u) touched_by_[fluent_of[node]].push_back(s);
    }
  }
  try {
    while (!pass(suspects, work)) end_if_interrupted();
  } catch (const Interrupted&) {
    forget_step();
    suppose({});
    return {};
  }
  std::vector<Signal> proved;
  for (std::size_t s = 0; s < suspects.size(); ++s) {
    const Suspect& suspect = suspects[s];
    if (!suspect.alive) continue;
    const auto never = suspect.never();
    proved.insert(proved.end(), never.begin(), never.end());
    if (auto group = group_of(suspects, s)) groups_.push_back(std::move(*group));
  }
  suppose({});
  know_never(proved);
  return proved;
}

void StepInduction::refute(Suspects& suspects, const std::vector<bool>& position) const {
  std::vector<bool> values;
  for (Suspect& suspect : suspects) {
    if (!suspect.alive) continue;
    if (suspect.sum == nullptr) {
      if (values.empty()) values = values_in(game_, given_, position);
      suspect.alive = !holds(values, suspect.signal);
      continue;
    }
    const std::int64_t value = value_of(suspect.sum->sum, position);
    suspect.alive = suspect.below ? value >= suspect.sum->least : value <= suspect.sum->most;
  }
}

// The group of which a suspect says that one of it holds at most.
std::optional<StepInduction::Group> StepInduction::group_of(const Suspects& suspects,
                                                            std::size_t number) {
  const Suspect& suspect = suspects[number];
  if (!suspect.alive || suspect.sum == nullptr || suspect.below) return std::nullopt;
  if (!is_group(suspect.sum->sum) || suspect.sum->most != 1) return std::nullopt;
  const bool exact = number + 1 < suspects.size() && suspects[number + 1].sum == suspect.sum &&
                     suspects[number + 1].alive && suspect.sum->least == 1;
  return Group{suspect.sum->sum.fluents, exact};
}

// That none of those left is broken, and the groups that this makes.
void StepInduction::suppose(const Suspects& suspects) {
  exclusive_ = {};
  for (const Group& group : groups_) add_group(exclusive_, group);
  std::vector<Signal> never;
  for (std::size_t s = 0; s < suspects.size(); ++s) {
    const Suspect& suspect = suspects[s];
    if (!suspect.alive) continue;
    const auto meant = suspect.never();
    never.insert(never.end(), meant.begin(), meant.end());
    if (const auto group = group_of(suspects, s)) add_group(exclusive_, *group);
  }
  position_.suppose(never);
}

// Whether nothing was refuted. What was found against one by what is supposed of all is as good if
// less is supposed, so a pass goes on to its end.
bool StepInduction::pass(Suspects& suspects, std::uint64_t work) {
  suppose(suspects);
  bool all = true;
  for (const SingleStep& step : steps_) {
    if (Interruption::asked()) return false;
    if (!look_at(step, suspects, work)) all = false;
  }
  return all;
}

Signal StepInduction::after_step(const Suspect& suspect) {
  std::vector<Signal> operands;
  std::vector<std::uint32_t> changed;
  for (const std::uint32_t node : suspect.cone) {
    if (!given_.is_gate(node)) continue;
    operands.clear();
    bool same = true;
    for (const Signal operand : given_.of(node)) {
      const Signal now = value_[operand.node()];
      same = same && now == Signal(operand.node(), false);
      operands.push_back(now ^ operand.negated());
    }
    if (same) continue;
    value_[node] = network_.all(operands);
    changed.push_back(node);
  }
  const Signal result = value_[suspect.signal.node()] ^ suspect.signal.negated();
  for (const std::uint32_t node : changed) value_[node] = Signal(node, false);
  return result;
}

LinearForm StepInduction::change_of(const FluentSum& sum, const SingleStep& step) const {
  LinearForm form;
  const auto add = [&](std::uint32_t fluent, std::int64_t weight) {
    const auto change =
        std::ranges::lower_bound(step.changes, fluent, {}, &SingleStep::Change::fluent);
    if (change == step.changes.end() || change->fluent != fluent) return;
    form.add(change->after, weight);
    form.add(game_.fluents[fluent], -weight);
  };
  for (std::size_t at = 0; at < sum.fluents.size(); ++at) add(sum.fluents[at], sum.weight(at));
  return form;
}

ExclusiveSignals StepInduction::groups_around(const SingleStep& step) const {
  ExclusiveSignals result = exclusive_;
  for (const Group& group : groups_) {
    std::vector<Signal> signals;
    bool touched = false;
    for (const std::uint32_t f : group.fluents) {
      const auto change =
          std::ranges::lower_bound(step.changes, f, {}, &SingleStep::Change::fluent);
      const bool changes = change != step.changes.end() && change->fluent == f;
      const Signal after = changes ? change->after : game_.fluents[f];
      touched = touched || changes;
      if (after == circuit::never) continue;
      signals.push_back(after);
    }
    if (touched) result.add(signals, group.exactly_one);
  }
  return result;
}

// Where a step breaks a suspect that was not broken before it. `exact`: both bounds of the sum are
// supposed, and they are the same.
std::optional<Signal> StepInduction::broken_after(const Suspect& suspect, bool exact,
                                                  const SingleStep& step) {
  if (suspect.sum == nullptr) return after_step(suspect);
  const bool below = suspect.below;
  LinearForm form = change_of(suspect.sum->sum, step);
  if (form.is_constant() && form.constant() == 0) return circuit::never;
  if (exact || !is_group(suspect.sum->sum)) {
    return sum_is(network_, form, exclusive_,
                  [&](std::int64_t by) { return below ? by < 0 : by > 0; });
  }
  for (const std::uint32_t f : suspect.sum->sum.fluents) form.add(game_.fluents[f], 1);
  return sum_is(network_, form, exclusive_, [&](std::int64_t value) {
    return below ? value < suspect.sum->least : value > suspect.sum->most;
  });
}

bool StepInduction::never(Signal signal) {
  // Behind that the copy has gates of its own.
  if (signal.node() >= value_.size()) return false;
  return position_.solve(std::vector{signal}, most_conflicts) == Solver::Answer::impossible;
}

Solver::Answer StepInduction::can_be(const SingleStep& step, Signal signal) {
  return position_.solve(std::vector{step.possible, signal}, most_conflicts);
}

std::vector<bool> StepInduction::after(const std::vector<bool>& position,
                                       const SingleStep& step) const {
  const std::vector<bool> values = values_in(game_, game_.network, position, &step.joint);
  std::vector<bool> result;
  for (const Signal next : game_.next) result.push_back(holds(values, next));
  return result;
}

// Whether a step breaks none.
bool StepInduction::look_at(const SingleStep& step, Suspects& suspects, std::uint64_t work) {
  std::vector<std::uint32_t> touched;
  for (const auto& [fluent, after] : step.changes) {
    const auto& those = touched_by_[fluent];
    touched.insert(touched.end(), those.begin(), those.end());
    value_[game_.fluents[fluent].node()] = after;
  }
  std::ranges::sort(touched);
  touched.erase(std::unique(touched.begin(), touched.end()), touched.end());
  std::vector<std::pair<std::uint32_t, Signal>> broken;
  bool all = true;
  for (const std::uint32_t s : touched) {
    Suspect& suspect = suspects[s];
    if (!suspect.alive) continue;
    const auto other = suspect.below ? s - 1 : s + 1;
    const bool exact = suspect.sum != nullptr && suspect.sum->least == suspect.sum->most &&
                       other < suspects.size() && suspects[other].sum == suspect.sum &&
                       suspects[other].alive;
    const auto signal = broken_after(suspect, exact, step);
    if (!signal) {
      suspect.alive = all = false;
    } else if (*signal != circuit::never) {
      broken.emplace_back(s, *signal);
    }
  }
  for (const auto& [fluent, after] : step.changes) {
    const std::uint32_t node = game_.fluents[fluent].node();
    value_[node] = Signal(node, false);
  }
  for (const auto& [s, signal] : broken) {
    Suspect& suspect = suspects[s];
    if (!suspect.alive) continue;
    const std::uint64_t before = position_.work();
    Solver::Answer answer = can_be(step, signal);
    suspect.work += position_.work() - before;
    if (suspect.work > work) answer = Solver::Answer::unknown;
    if (answer == Solver::Answer::impossible) continue;
    if (answer == Solver::Answer::possible) refute(suspects, after(found_position(), step));
    suspect.alive = all = false;
  }
  return all;
}

}  // namespace orchard::prove
