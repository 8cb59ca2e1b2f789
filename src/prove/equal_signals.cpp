#include "prove/equal_signals.hpp"

#include <absl/container/flat_hash_map.h>

#include <algorithm>

namespace orchard::prove {

using circuit::Network;
using circuit::Signal;

void PositionSample::add(const std::uint64_t* row) {
  std::vector<bool> fluents(game_.fluents.size());
  for (std::size_t f = 0; f < fluents.size(); ++f) fluents[f] = (row[f / 64] >> (f % 64) & 1) != 0;
  add(fluents);
}

void PositionSample::add(const std::vector<bool>& fluents) {
  fluents_.resize(fluents.size());
  for (std::size_t f = 0; f < fluents_.size(); ++f) {
    if (size_ % 64 == 0) fluents_[f].push_back(0);
    fluents_[f].back() |= std::uint64_t{fluents[f]} << (size_ % 64);
  }
  ++size_;
}

namespace {

using Words = std::vector<std::uint64_t>;

// Of every signal of positions alone, in which positions of the sample it holds.
class SampledValues {
 public:
  SampledValues(const circuit::GameNetwork& game, const Network& network,
                const PositionSample& sample)
      : values_(network.size()) {
    const std::size_t words = (sample.size() + 63) / 64;
    last_ =
        sample.size() % 64 == 0 ? ~std::uint64_t{0} : (std::uint64_t{1} << sample.size() % 64) - 1;
    values_[0].assign(words, 0);
    for (std::size_t f = 0; f < game.fluents.size(); ++f) {
      values_[game.fluents[f].node()] = sample.fluents()[f];
    }
    InterruptionPoint interruption;
    for (std::uint32_t node = 1; node < network.size(); ++node) {
      interruption.pass();
      if (!network.is_gate(node) || !is_of_positions(network.of(node))) continue;
      Words all(words, ~std::uint64_t{0});
      for (const Signal operand : network.of(node)) {
        const std::uint64_t flip = operand.negated() ? ~std::uint64_t{0} : 0;
        for (std::size_t w = 0; w < words; ++w) all[w] &= values_[operand.node()][w] ^ flip;
      }
      all.back() &= last_;
      values_[node] = std::move(all);
    }
  }

  bool has(std::uint32_t node) const { return !values_[node].empty(); }  // depends on no move
  Words of(Signal signal) const {
    Words words = values_[signal.node()];
    if (!signal.negated()) return words;
    for (std::uint64_t& word : words) word = ~word;
    words.back() &= last_;
    return words;
  }

 private:
  bool is_of_positions(std::span<const Signal> operands) const {
    return std::ranges::all_of(operands, [&](Signal operand) { return has(operand.node()); });
  }

  std::vector<Words> values_;  // by node
  std::uint64_t last_ = 0;     // bits of the last word that are positions
};

}  // namespace

std::vector<Signal> suspected_differences(const circuit::GameNetwork& game, Network& network,
                                          const PositionSample& sample) {
  const SampledValues values(game, network, sample);
  const std::uint32_t nodes = network.size();
  absl::flat_hash_map<Words, Signal> first;
  std::vector<Signal> result;
  const auto pair = [&](std::uint32_t node) {
    // Turned over where it holds in the first position: a signal and its contrary are alike.
    Signal signal(node, false);
    if ((values.of(signal).front() & 1) != 0) signal = !signal;
    const auto [earlier, is_first] = first.try_emplace(values.of(signal), signal);
    if (!is_first) result.push_back(network.differ(earlier->second, signal));
  };
  pair(0);
  std::vector<bool> is_fluent(nodes, false);
  for (const Signal fluent : game.fluents) {  // rather with a fluent than with a gate
    is_fluent[fluent.node()] = true;
    pair(fluent.node());
  }
  for (std::uint32_t node = 1; node < nodes; ++node) {
    if (values.has(node) && !is_fluent[node]) pair(node);
  }
  return result;
}

std::vector<Signal> unseen(const circuit::GameNetwork& game, const Network& network,
                           const PositionSample& sample, const std::vector<Signal>& signals) {
  const SampledValues values(game, network, sample);
  std::vector<Signal> result;
  for (const Signal signal : signals) {
    const Words words = values.of(signal);
    if (std::ranges::all_of(words, [](std::uint64_t word) { return word == 0; })) {
      result.push_back(signal);
    }
  }
  return result;
}

}  // namespace orchard::prove
