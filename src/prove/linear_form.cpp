#include "prove/linear_form.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <map>

namespace orchard::prove {

using circuit::Signal;

void LinearForm::add(Signal signal, std::int64_t weight) {
  if (weight == 0 || signal == circuit::never) return;
  if (signal == circuit::always) {
    constant_ += weight;
    return;
  }
  if (signal.negated()) {
    constant_ += weight;
    weight = -weight;
  }
  const auto place = weights_.emplace(signal.node(), 0).first;
  place->second += weight;
  if (place->second == 0) weights_.erase(place);
}

void ExclusiveSignals::add(const std::vector<Signal>& signals, bool exactly_one) {
  const auto number = static_cast<std::uint32_t>(groups_.size());
  groups_.push_back({signals.size(), exactly_one});
  for (const Signal signal : signals) {
    groups_of_[signal.node()].push_back({number, signal.negated()});
  }
}

ExclusiveSignals::Parts ExclusiveSignals::parts(const LinearForm& form) const {
  std::map<std::uint32_t, std::vector<Signal>> by_group;
  std::vector<std::uint32_t> left;
  for (const auto& [node, weight] : form.weights()) left.push_back(node);
  std::ranges::sort(left);
  for (const std::uint32_t node : left) {
    const auto groups = groups_of_.find(node);
    if (groups == groups_of_.end()) continue;
    for (const auto& [group, negated] : groups->second) {
      by_group[group].push_back(Signal(node, negated));
    }
  }
  Parts result;
  result.constant = form.constant();
  while (true) {
    const auto largest = std::ranges::max_element(
        by_group, {}, [](const auto& entry) { return entry.second.size(); });
    if (largest == by_group.end() || largest->second.size() < 2) break;
    const std::vector<Signal> signals = std::move(largest->second);
    const Group& group = groups_[largest->first];
    by_group.erase(largest);
    Part& part = result.parts.emplace_back();
    part.exactly_one = group.exactly_one && group.size == signals.size();
    absl::flat_hash_set<std::uint32_t> taken;
    for (const Signal signal : signals) {
      // What a negated signal adds where it does not hold is counted beforehand.
      const std::int64_t weight = form.weights().at(signal.node());
      if (!taken.insert(signal.node()).second) continue;
      if (signal.negated()) result.constant += weight;
      part.weights.emplace_back(signal, signal.negated() ? -weight : weight);
    }
    for (auto& [number, others] : by_group) {
      std::erase_if(others, [&](Signal signal) { return taken.contains(signal.node()); });
    }
    std::erase_if(left, [&](std::uint32_t node) { return taken.contains(node); });
  }
  for (const std::uint32_t node : left) {
    result.parts.push_back({{{Signal(node, false), form.weights().at(node)}}});
  }
  return result;
}

namespace {

class Diagram {
 public:
  Diagram(circuit::Network& network, ExclusiveSignals::Parts parts,
          const std::function<bool(std::int64_t)>& wrong)
      : network_(network), parts_(std::move(parts)), wrong_(wrong) {}

  std::optional<Signal> from_start() {
    const Signal result = from(0, parts_.constant);
    if (known_.size() > most_sums) return std::nullopt;
    return result;
  }

 private:
  static constexpr std::size_t most_sums = 4'000;

  // Whether the sum is wrong if it is `sum` before a part.
  Signal from(std::size_t number, std::int64_t sum) {
    if (number == parts_.parts.size()) return wrong_(sum) ? circuit::always : circuit::never;
    if (known_.size() > most_sums) return circuit::never;
    const std::pair<std::size_t, std::int64_t> place{number, sum};
    if (const auto known = known_.find(place); known != known_.end()) return known->second;
    const auto& [weights, exactly_one] = parts_.parts[number];
    // What holds, by what that leads to.
    std::map<Signal, std::vector<Signal>> by_rest;
    for (const auto& [signal, weight] : weights) {
      by_rest[from(number + 1, sum + weight)].push_back(signal);
    }
    const Signal none = exactly_one ? circuit::never : from(number + 1, sum);
    const bool same_anyway = by_rest.size() == 1 && (exactly_one || by_rest.begin()->first == none);
    std::vector<Signal> either;
    std::vector<Signal> others;  // that lead elsewhere than none of them does
    for (auto& [rest, holding] : by_rest) {
      if (!exactly_one && rest == none) continue;
      if (!exactly_one) others.insert(others.end(), holding.begin(), holding.end());
      either.push_back(network_.both(network_.any(std::move(holding)), rest));
    }
    if (!exactly_one) either.push_back(network_.both(!network_.any(std::move(others)), none));
    const Signal result = same_anyway ? by_rest.begin()->first : network_.any(std::move(either));
    known_.emplace(place, result);
    return result;
  }

  circuit::Network& network_;
  ExclusiveSignals::Parts parts_;
  const std::function<bool(std::int64_t)>& wrong_;
  absl::flat_hash_map<std::pair<std::size_t, std::int64_t>, Signal> known_;
};

// A node on which several gates of the form depend directly, so that they come and go together;
// nothing if there is none.
std::optional<std::uint32_t> common_operand(const circuit::Network& network,
                                            const LinearForm& form) {
  constexpr std::uint32_t least = 3;
  std::map<std::uint32_t, std::uint32_t> times;
  for (const auto& [node, weight] : form.weights()) {
    for (const Signal operand : network.of(node)) ++times[operand.node()];
  }
  const auto most =
      std::ranges::max_element(times, {}, [](const auto& entry) { return entry.second; });
  if (most == times.end() || most->second < least) return std::nullopt;
  return most->first;
}

// The form where a node is what it is said to be.
LinearForm form_where(circuit::Network& network, const LinearForm& form, Signal holds) {
  LinearForm result;
  result.add(form.constant());
  std::vector<std::pair<std::uint32_t, std::int64_t>> weights(form.weights().begin(),
                                                              form.weights().end());
  std::ranges::sort(weights);
  for (const auto& [node, weight] : weights) {
    Signal now(node, false);
    if (node == holds.node()) {
      now = holds.negated() ? circuit::never : circuit::always;
    } else if (network.is_gate(node)) {
      std::vector<Signal> rest;
      bool fails = false;
      for (const Signal operand : network.of(node)) {
        fails = fails || operand == !holds;
        if (operand != holds) rest.push_back(operand);
      }
      if (fails) {
        now = circuit::never;
      } else if (rest.size() < network.of(node).size()) {
        now = network.all(std::move(rest));
      }
    }
    result.add(now, weight);
  }
  return result;
}

std::optional<Signal> sum_is(circuit::Network& network, const LinearForm& form,
                             const ExclusiveSignals& exclusive,
                             const std::function<bool(std::int64_t)>& wrong, int splits) {
  if (form.is_constant()) return wrong(form.constant()) ? circuit::always : circuit::never;
  if (const auto node = splits > 0 ? common_operand(network, form) : std::nullopt) {
    const Signal here(*node, false);
    const auto with =
        sum_is(network, form_where(network, form, here), exclusive, wrong, splits - 1);
    const auto without =
        sum_is(network, form_where(network, form, !here), exclusive, wrong, splits - 1);
    if (!with || !without) return std::nullopt;
    return network.choose(here, *with, *without);
  }
  return Diagram(network, exclusive.parts(form), wrong).from_start();
}

}  // namespace

std::optional<Signal> sum_is(circuit::Network& network, const LinearForm& form,
                             const ExclusiveSignals& exclusive,
                             const std::function<bool(std::int64_t)>& wrong) {
  constexpr int most_splits = 6;
  return sum_is(network, form, exclusive, wrong, most_splits);
}

}  // namespace orchard::prove
