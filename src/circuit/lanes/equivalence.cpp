#include "circuit/lanes/equivalence.hpp"

#include <random>

namespace orchard::circuit {
namespace {

using Words = std::vector<std::uint64_t>;

Words outputs_of(const Network& network, std::span<const Signal> outputs, const Words& inputs) {
  Words values(network.size(), 0);
  for (std::uint32_t i = 0; i < network.inputs(); ++i) values[network.input(i)] = inputs[i];
  const auto value = [&](Signal signal) {
    return signal.negated() ? ~values[signal.node()] : values[signal.node()];
  };
  for (std::uint32_t node = 0; node < network.size(); ++node) {
    if (!network.is_gate(node)) continue;
    std::uint64_t all = ~std::uint64_t{0};
    for (const Signal signal : network.of(node)) all &= value(signal);
    values[node] = all;
  }
  Words result;
  for (const Signal output : outputs) result.push_back(value(output));
  return result;
}

Words outputs_of(const LaneProgram& program, const Words& inputs) {
  Words values = inputs;
  for (const LaneOperation& operation : program.operations) {
    std::uint64_t result = 0;
    for (unsigned row = 0; row < 8; ++row) {
      if ((operation.table >> row & 1) == 0) continue;
      // A constant of a program without inputs has operands that are not there, and do not matter.
      const auto matches = [&](std::uint32_t value, unsigned bit) {
        const std::uint64_t known = value < values.size() ? values[value] : 0;
        return bit != 0 ? known : ~known;
      };
      result |= matches(operation.a, row >> 2 & 1) & matches(operation.b, row >> 1 & 1) &
                matches(operation.c, row & 1);
    }
    values.push_back(result);
  }
  Words result;
  for (const std::uint32_t output : program.outputs) result.push_back(values[output]);
  return result;
}

template <class First, class Second>
bool same(std::size_t inputs, int rounds, First&& first, Second&& second) {
  std::mt19937_64 random(1);
  for (int round = 0; round < rounds; ++round) {
    Words words(inputs);
    // Sparse, dense and even inputs: much of a game is an And of many signals.
    for (std::uint64_t& word : words) {
      word = random();
      if (round % 4 == 1) word |= random() | random();
      if (round % 4 == 2) word &= random() & random();
    }
    if (first(words) != second(words)) return false;
  }
  return true;
}

}  // namespace

bool same_on_random_inputs(const Network& a, std::span<const Signal> outputs_of_a, const Network& b,
                           std::span<const Signal> outputs_of_b, int rounds) {
  return a.inputs() == b.inputs() &&
         same(
             a.inputs(), rounds,
             [&](const Words& words) { return outputs_of(a, outputs_of_a, words); },
             [&](const Words& words) { return outputs_of(b, outputs_of_b, words); });
}

bool same_on_random_inputs(const Network& a, std::span<const Signal> outputs_of_a,
                           const LaneProgram& b, int rounds) {
  return a.inputs() == b.inputs &&
         same(
             a.inputs(), rounds,
             [&](const Words& words) { return outputs_of(a, outputs_of_a, words); },
             [&](const Words& words) { return outputs_of(b, words); });
}

bool same_on_random_inputs(const LaneProgram& a, const LaneProgram& b, int rounds) {
  return a.inputs == b.inputs &&
         same(
             a.inputs, rounds, [&](const Words& words) { return outputs_of(a, words); },
             [&](const Words& words) { return outputs_of(b, words); });
}

}  // namespace orchard::circuit
