// Least solutions of equations with one unknown a term, against plain iteration.
#include <gtest/gtest.h>

#include "circuit/network/linear_fixpoint.hpp"
#include "orchard/random.hpp"

namespace orchard::circuit::linear_fixpoint_test {
namespace {

struct Term {
  std::size_t unknown = 0;
  std::optional<std::uint32_t> from;
  std::vector<Signal> known;
};

std::vector<bool> values_of(const Network& network, const std::vector<bool>& inputs) {
  std::vector<bool> values(network.size(), false);
  for (std::uint32_t i = 0; i < network.inputs(); ++i) values[network.input(i)] = inputs[i];
  for (std::uint32_t node = 0; node < network.size(); ++node) {
    if (!network.is_gate(node)) continue;
    values[node] = true;
    for (const Signal signal : network.of(node)) {
      if (values[signal.node()] == signal.negated()) values[node] = false;
    }
  }
  return values;
}

bool holds(const std::vector<bool>& values, Signal signal) {
  return values[signal.node()] != signal.negated();
}

// From nothing, as long as some term gives something new.
std::vector<bool> by_iteration(std::size_t unknowns, const std::vector<Term>& terms,
                               const std::vector<bool>& values) {
  std::vector<bool> result(unknowns, false);
  for (bool changed = true; changed;) {
    changed = false;
    for (const Term& term : terms) {
      bool all = !term.from || result[*term.from];
      for (const Signal signal : term.known) all = all && holds(values, signal);
      if (!all || result[term.unknown]) continue;
      result[term.unknown] = true;
      changed = true;
    }
  }
  return result;
}

void expect_least_solution(Network& network, std::size_t unknowns, const std::vector<Term>& terms,
                           Random& random) {
  LinearFixpoint equations(network);
  for (const Term& term : terms) {
    equations.add(static_cast<std::uint32_t>(term.unknown), term.from, term.known);
  }
  const std::vector<Signal> solved = equations.solve(unknowns);
  ASSERT_EQ(solved.size(), unknowns);
  for (int sample = 0; sample < 40; ++sample) {
    std::vector<bool> inputs;
    for (std::uint32_t i = 0; i < network.inputs(); ++i) inputs.push_back(random.below(3) > 0);
    const std::vector<bool> values = values_of(network, inputs);
    const std::vector<bool> wanted = by_iteration(unknowns, terms, values);
    for (std::size_t u = 0; u < unknowns; ++u) {
      ASSERT_EQ(holds(values, solved[u]), wanted[u]) << "unknown " << u;
    }
  }
}

TEST(LinearFixpoint, IsTheLeastSolutionOfRandomEquations) {
  Random random(4);
  for (int round = 0; round < 300; ++round) {
    Network network;
    std::vector<Signal> inputs;
    for (int i = 0; i < 10; ++i) inputs.push_back(network.add_input());
    const std::size_t unknowns = 1 + random.below(7);
    std::vector<Term> terms;
    for (std::uint64_t t = random.below(4 * unknowns); t > 0; --t) {
      Term term{random.below(unknowns), std::nullopt, {}};
      if (random.below(4) > 0) term.from = static_cast<std::uint32_t>(random.below(unknowns));
      for (std::uint64_t k = random.below(3); k > 0; --k) {
        term.known.push_back(inputs[random.below(inputs.size())] ^ (random.below(2) == 0));
      }
      terms.push_back(std::move(term));
    }
    expect_least_solution(network, unknowns, terms, random);
    if (HasFatalFailure()) return;
  }
}

// Ways across a board, square by square, as far as squares are free: both directions of a way are
// one signal, so a board costs far less than the same number of ways that differ by direction.
TEST(LinearFixpoint, BothDirectionsOfAWayAreOneSignal) {
  constexpr std::uint32_t side = 5;
  const auto gates = [&](bool same_guard) {
    Network network;
    Random random(5);
    std::vector<Signal> free;
    for (std::uint32_t s = 0; s < side * side; ++s) free.push_back(network.add_input());
    std::vector<Term> terms;
    const auto add = [&](std::uint32_t to, std::uint32_t from) {
      Term term{to, from, {free[to]}};
      if (!same_guard) term.known = {network.add_input()};  // a gate of its own for each direction
      terms.push_back(std::move(term));
    };
    for (std::uint32_t row = 0; row < side; ++row) {
      terms.push_back({row * side, std::nullopt, {free[row * side]}});
      for (std::uint32_t column = 0; column < side; ++column) {
        const std::uint32_t here = row * side + column;
        if (column + 1 < side) add(here + 1, here);
        if (column + 1 < side) add(here, here + 1);
        if (row + 1 < side) add(here + side, here);
        if (row + 1 < side) add(here, here + side);
      }
    }
    expect_least_solution(network, side * side, terms, random);
    return network.gates();
  };
  EXPECT_LT(gates(true) * 3, gates(false) * 2);
}

}  // namespace
}  // namespace orchard::circuit::linear_fixpoint_test
