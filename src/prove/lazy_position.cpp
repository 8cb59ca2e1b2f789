#include "prove/lazy_position.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard::prove {

LazyPosition::LazyPosition(const circuit::GameNetwork& game, const circuit::Network& network,
                           std::vector<bool> usual)
    : game_(game),
      network_(network),
      usual_(std::move(usual)),
      fluent_of_(network.size(), static_cast<std::uint32_t>(game.fluents.size())),
      touching_(game.fluents.size()) {
  for (std::uint32_t f = 0; f < game.fluents.size(); ++f) fluent_of_[game.fluents[f].node()] = f;
  begin_anew();
}

void LazyPosition::begin_anew() {
  solver_ = std::make_unique<Solver>();
  for (const std::uint32_t node : known_nodes_) {
    variables_[node] = 0;
    has_clauses_[node] = false;
  }
  known_nodes_.clear();
  for (Excluded& excluded : excluded_) excluded.is_clause = false;
  solver_->add({-variable(0)});
}

void LazyPosition::add_excluded(Signal signal) {
  const auto number = static_cast<std::uint32_t>(excluded_.size());
  excluded_.push_back({signal});
  std::vector<std::uint32_t> open{signal.node()};
  absl::flat_hash_set<std::uint32_t> seen{signal.node()};
  while (!open.empty()) {
    const std::uint32_t node = open.back();
    open.pop_back();
    if (node < fluent_of_.size() && fluent_of_[node] < touching_.size()) {
      touching_[fluent_of_[node]].push_back(number);
    }
    for (const Signal operand : network_.of(node)) {
      if (seen.insert(operand.node()).second) open.push_back(operand.node());
    }
  }
}

void LazyPosition::suppose(const std::vector<Signal>& never) {
  excluded_.resize(known_);
  for (auto& those : touching_) {
    std::erase_if(those, [&](std::uint32_t number) { return number >= known_; });
  }
  for (const Signal signal : never) add_excluded(signal);
  begin_anew();
}

void LazyPosition::exclude(const std::vector<Signal>& never) {
  suppose({});
  for (const Signal signal : never) add_excluded(signal);
  known_ = excluded_.size();
}

int LazyPosition::variable(std::uint32_t node) {
  if (variables_.size() <= node) {
    variables_.resize(network_.size(), 0);
    has_clauses_.resize(network_.size(), false);
  }
  if (variables_[node] != 0) return variables_[node];
  known_nodes_.push_back(node);
  const int result = solver_->new_variable();
  if (node < fluent_of_.size() && fluent_of_[node] < usual_.size()) {
    solver_->prefer(usual_[fluent_of_[node]] ? result : -result);
  }
  return variables_[node] = result;
}

void LazyPosition::make_clauses(std::uint32_t node) {
  const int gate = variable(node);
  if (has_clauses_[node] || !network_.is_gate(node)) return;
  has_clauses_[node] = true;
  std::vector<int> clause{gate};
  for (const Signal operand : network_.of(node)) {
    const int literal = operand.negated() ? -variable(operand.node()) : variable(operand.node());
    solver_->add({-gate, literal});
    clause.push_back(-literal);
  }
  solver_->add(clause);
}

int LazyPosition::literal(Signal signal) {
  return signal.negated() ? -variable(signal.node()) : variable(signal.node());
}

void LazyPosition::make_all_clauses(Signal signal) {
  std::vector<std::uint32_t> open{signal.node()};
  absl::flat_hash_set<std::uint32_t> seen{signal.node()};
  while (!open.empty()) {
    const std::uint32_t node = open.back();
    open.pop_back();
    make_clauses(node);
    for (const Signal operand : network_.of(node)) {
      if (seen.insert(operand.node()).second) open.push_back(operand.node());
    }
  }
}

// What a node is in the position found. Operands are looked at one after the other, up to one that
// fails: of large parts of the network nothing need be known.
bool LazyPosition::value(std::uint32_t node) {
  constexpr std::int8_t open = -1;
  struct Place {
    std::uint32_t node;
    std::uint32_t operand;
  };
  if (values_[node] != open) return values_[node] != 0;
  std::vector<Place> waiting{{node, 0}};
  while (!waiting.empty()) {
    Place& last = waiting.back();
    const auto operands = network_.of(last.node);
    std::int8_t all = 1;
    for (; last.operand < operands.size(); ++last.operand) {
      const Signal operand = operands[last.operand];
      const std::int8_t known = values_[operand.node()];
      all = known == open ? open : (known != 0) != operand.negated() ? 1 : 0;
      if (all != 1) break;
    }
    if (all == open) {
      waiting.push_back({operands[last.operand].node(), 0});
      continue;
    }
    values_[last.node] = all;
    worked_out_.push_back(last.node);
    waiting.pop_back();
  }
  return values_[node] != 0;
}

// What the solver has found.
void LazyPosition::take_position() {
  for (const std::uint32_t node : worked_out_) values_[node] = -1;
  worked_out_.clear();
  values_.resize(network_.size(), -1);
  found_.clear();
  values_[0] = 0;
  for (std::size_t f = 0; f < usual_.size(); ++f) {
    const std::uint32_t node = game_.fluents[f].node();
    const int known = node < variables_.size() ? variables_[node] : 0;
    found_.push_back(known != 0 ? solver_->holds(known) : usual_[f]);
    values_[node] = found_.back() ? 1 : 0;
  }
}

// What holds in the position found though it is excluded, and that is no clause yet.
std::vector<std::uint32_t> LazyPosition::holding() {
  std::vector<std::uint32_t> touched;
  for (std::size_t f = 0; f < usual_.size(); ++f) {
    if (found_[f] != usual_[f]) {
      touched.insert(touched.end(), touching_[f].begin(), touching_[f].end());
    }
  }
  std::ranges::sort(touched);
  touched.erase(std::unique(touched.begin(), touched.end()), touched.end());
  std::erase_if(touched, [&](std::uint32_t e) {
    const auto& [signal, is_clause] = excluded_[e];
    return is_clause || value(signal.node()) == signal.negated();
  });
  return touched;
}

// How many gates a node stands for, each counted as often as it is used.
std::uint32_t LazyPosition::size(std::uint32_t node) {
  constexpr std::uint32_t most = 1u << 30;
  while (sizes_.size() <= node) {
    std::uint32_t sum = 1;
    for (const Signal operand : network_.of(static_cast<std::uint32_t>(sizes_.size()))) {
      sum = std::min(most, sum + sizes_[operand.node()]);
    }
    sizes_.push_back(sum);
  }
  return sizes_[node];
}

// For each signal that the solver got wrong a gate, no clause yet, that it got wrong and that is
// why.
std::vector<std::uint32_t> LazyPosition::wrong_gates(std::span<const Signal> signals) {
  const auto is_wrong = [&](std::uint32_t node) {
    return network_.is_gate(node) && value(node) != solver_->holds(variables_[node]);
  };
  std::vector<std::uint32_t> result;
  for (const Signal signal : signals) {
    std::uint32_t node = signal.node();
    if (!is_wrong(node)) continue;
    while (has_clauses_[node]) {
      // Of several the one that depends on least.
      std::uint32_t least = 0;
      for (const Signal operand : network_.of(node)) {
        if (least != 0 && size(operand.node()) >= size(least)) continue;
        if (is_wrong(operand.node())) least = operand.node();
      }
      node = least;
    }
    result.push_back(node);
  }
  return result;
}

// Makes clauses of gates, and so far of what they depend on.
void LazyPosition::make_clauses(std::vector<std::uint32_t> nodes, int depth) {
  for (; depth > 0 && !nodes.empty(); --depth) {
    std::vector<std::uint32_t> below;
    for (const std::uint32_t node : nodes) {
      make_clauses(node);
      for (const Signal operand : network_.of(node)) {
        if (!has_clauses_[operand.node()]) below.push_back(operand.node());
      }
    }
    nodes = std::move(below);
  }
}

Solver::Answer LazyPosition::solve(std::span<const Signal> signals, int conflicts) {
  constexpr int most_rounds = 400;
  constexpr int rounds_for_more_depth = 16;
  constexpr int many_variables = 1'500;  // then a new beginning costs less than taking them along
  if (solver_->variables() > many_variables) begin_anew();
  std::vector<int> question;
  for (const Signal signal : signals) {
    if (signal == circuit::never) return Solver::Answer::impossible;
    make_clauses(signal.node());
    question.push_back(literal(signal));
  }
  for (int round = 0; round < most_rounds; ++round) {
    if (Interruption::asked()) return Solver::Answer::unknown;
    work_ += static_cast<std::uint64_t>(solver_->variables());
    const Solver::Answer answer = solver_->solve(question, conflicts);
    if (answer != Solver::Answer::possible) return answer;
    take_position();
    const std::vector<std::uint32_t> held = holding();
    const std::vector<std::uint32_t> wrong = wrong_gates(signals);
    if (held.empty() && wrong.empty()) return answer;
    for (const std::uint32_t e : held) {
      excluded_[e].is_clause = true;
      make_all_clauses(excluded_[e].signal);
      solver_->add({-literal(excluded_[e].signal)});
    }
    make_clauses(wrong, 1 + round / rounds_for_more_depth);
  }
  return Solver::Answer::unknown;
}

}  // namespace orchard::prove
