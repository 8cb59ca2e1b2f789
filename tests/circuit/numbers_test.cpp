// Numbers of signals, plans of functions, and copies of gates: every assignment of the inputs
// against plain arithmetic.
#include "circuit/network/numbers.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <bit>
#include <random>
#include <set>

#include "circuit/network/copier.hpp"
#include "circuit/network/decision_plan.hpp"

namespace orchard::circuit::numbers_test {
namespace {

std::vector<Signal> add_inputs(Network& network, std::size_t count) {
  std::vector<Signal> result;
  for (std::size_t i = 0; i < count; ++i) result.push_back(network.add_input());
  return result;
}

// What signals are when input i is bit i of the assignment.
class Values {
 public:
  Values(const Network& network, unsigned assignment) : values_(network.size(), false) {
    for (std::uint32_t i = 0; i < network.inputs(); ++i) {
      values_[network.input(i)] = (assignment >> i & 1) != 0;
    }
    for (std::uint32_t node = 0; node < network.size(); ++node) {
      if (!network.is_gate(node)) continue;
      values_[node] = true;
      for (const Signal signal : network.of(node)) {
        if (!(*this)(signal)) values_[node] = false;
      }
    }
  }
  bool operator()(Signal signal) const { return values_[signal.node()] != signal.negated(); }
  unsigned operator()(const Number& number) const {
    unsigned result = 0;
    for (std::size_t b = 0; b < number.size(); ++b) result |= (*this)(number[b]) ? 1u << b : 0u;
    return result;
  }

 private:
  std::vector<bool> values_;
};

TEST(Numbers, AddAndCount) {
  for (std::size_t signals = 0; signals <= 7; ++signals) {
    Network network;
    const std::vector<Signal> inputs = add_inputs(network, signals);
    const std::size_t half = signals / 2;
    const Number low(inputs.begin(), inputs.begin() + static_cast<std::ptrdiff_t>(half));
    const Number high(inputs.begin() + static_cast<std::ptrdiff_t>(half), inputs.end());
    const Number sum = add(network, low, high);
    const Number held = count(network, inputs);
    const Signal differs = differ(network, low, high);
    for (unsigned assignment = 0; assignment < 1u << signals; ++assignment) {
      const Values values(network, assignment);
      EXPECT_EQ(values(sum), values(low) + values(high));
      EXPECT_EQ(values(differs), values(low) != values(high));
      EXPECT_EQ(values(held), static_cast<unsigned>(std::popcount(assignment)));
    }
  }
}

// A plan against its combinations, and for `one_of` against everything else.
TEST(DecisionPlan, TellsCombinationsApart) {
  std::mt19937_64 random(1);
  for (int round = 0; round < 60; ++round) {
    const std::size_t places = 1 + random() % 9;
    std::set<Combination> known;
    const std::size_t wanted_size = 1 + random() % 40;
    for (std::size_t i = 0; i < wanted_size; ++i) {
      Combination one;
      for (std::uint16_t place = 0; place < places; ++place) {
        const bool single = round % 3 == 0;  // one place at most
        if (single ? one.empty() && random() % 4 == 0 : random() % 2 == 0) one.push_back(place);
      }
      known.insert(one);
    }
    const std::vector<Combination> combinations(known.begin(), known.end());
    std::vector<bool> wanted;
    for (std::size_t c = 0; c < combinations.size(); ++c) wanted.push_back(random() % 3 == 0);
    Network network;
    const std::vector<Signal> inputs = add_inputs(network, places);
    const auto telling = DecisionPlan::telling(combinations, places, wanted).build(network, inputs);
    const auto one_of = DecisionPlan::one_of(combinations, places).build(network, inputs);
    for (unsigned assignment = 0; assignment < 1u << places; ++assignment) {
      const Values values(network, assignment);
      Combination one;
      for (std::uint16_t place = 0; place < places; ++place) {
        if ((assignment >> place & 1) != 0) one.push_back(place);
      }
      const auto found = std::ranges::find(combinations, one);
      EXPECT_EQ(values(one_of), found != combinations.end());
      if (found == combinations.end()) continue;
      EXPECT_EQ(values(telling), wanted[static_cast<std::size_t>(found - combinations.begin())]);
    }
  }
}

TEST(Copier, PutsSignalsInPlaceOfInputs) {
  Network network;
  const std::vector<Signal> in = add_inputs(network, 4);
  const Signal both = network.both(in[0], !in[1]);
  const Signal out = network.either(both, network.differ(in[2], in[3]));
  const Signal first_again = network.both(in[2], in[0]);
  Network other;
  const std::vector<Signal> with = add_inputs(other, 2);
  Copier copy(network, other);
  copy.put(in[0], with[0]);
  copy.put(!in[1], with[1]);  // the contrary of an input stands for the contrary of a signal
  copy.put(in[2], always);
  copy.put(in[3], with[0]);
  const Signal copied = copy(!out);
  for (unsigned assignment = 0; assignment < 4; ++assignment) {
    const bool a = (assignment & 1) != 0;
    const bool b = (assignment & 2) != 0;
    EXPECT_EQ(Values(other, assignment)(copied), !((a && b) || !a));
  }
  EXPECT_EQ(copy(both), other.both(with[0], with[1]));  // copied once
  EXPECT_EQ(copy(first_again), with[0]);                // what becomes constant is gone
}

}  // namespace
}  // namespace orchard::circuit::numbers_test
