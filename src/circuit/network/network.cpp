#include "circuit/network/network.hpp"

#include <absl/hash/hash.h>

#include <algorithm>

namespace orchard::circuit {

Network::Network() : nodes_(1) {}

Signal Network::add_input() {
  inputs_.push_back(size());
  nodes_.emplace_back();
  return {inputs_.back(), false};
}

Signal Network::all(std::vector<Signal> signals) {
  interruption_.pass();
  std::ranges::sort(signals);
  signals.erase(std::unique(signals.begin(), signals.end()), signals.end());
  std::erase(signals, always);
  for (std::size_t i = 0; i < signals.size(); ++i) {
    const bool contrary = i > 0 && signals[i - 1] == !signals[i];
    if (signals[i] == never || contrary) return never;
  }
  if (signals.empty()) return always;
  if (signals.size() == 1) return signals.front();
  const std::uint32_t node = size();
  std::uint64_t hash = absl::HashOf(absl::Span<const Signal>(signals.data(), signals.size()));
  while (true) {
    const auto [known, is_new] = known_.try_emplace(hash, node);
    if (is_new) break;
    if (std::ranges::equal(of(known->second), signals)) return {known->second, false};
    ++hash;  // the hash of another gate
  }
  nodes_.push_back(
      {static_cast<std::uint32_t>(pool_.size()), static_cast<std::uint32_t>(signals.size())});
  pool_.insert(pool_.end(), signals.begin(), signals.end());
  return {node, false};
}

Signal Network::any(std::vector<Signal> signals) {
  for (Signal& signal : signals) signal = !signal;
  return !all(std::move(signals));
}

// One chain of "one so far" and "two so far".
Signal Network::several(const std::vector<Signal>& signals) {
  Signal one = never;
  Signal two = never;
  for (const Signal signal : signals) {
    two = either(two, both(one, signal));
    one = either(one, signal);
  }
  return two;
}

// Greedy algebraic factoring: the signal that most terms share is taken out of them,
// (a b) or (a c) or d = (a (b or c)) or d, and so on within and beside. Work on a stack; each
// round takes O(size of the terms).
Signal Network::any_of_all(std::vector<std::vector<Signal>> terms) {
  // What is still to be summed, within a factor; results go to the sum of the frame below.
  struct Frame {
    std::vector<std::vector<Signal>> terms;
    std::vector<Signal> sum;
    Signal factor;  // of the whole
  };
  std::vector<Frame> open;
  for (std::vector<Signal>& term : terms) {
    std::ranges::sort(term);
    term.erase(std::unique(term.begin(), term.end()), term.end());
  }
  std::ranges::sort(terms);
  terms.erase(std::unique(terms.begin(), terms.end()), terms.end());
  open.push_back({std::move(terms), {}, always});
  InterruptionPoint rounds(16);
  while (true) {
    rounds.pass();
    Frame& frame = open.back();
    absl::flat_hash_map<Signal, std::uint32_t> count;
    for (const auto& term : frame.terms) {
      for (const Signal signal : term) ++count[signal];
    }
    Signal best = always;
    std::uint32_t most = 1;
    for (const auto& [signal, times] : count) {
      if (times > most || (times == most && times > 1 && signal < best)) {
        best = signal;
        most = times;
      }
    }
    if (most > 1) {
      Frame inner{{}, {}, best};
      std::vector<std::vector<Signal>> rest;
      for (auto& term : frame.terms) {
        if (std::ranges::binary_search(term, best)) {
          std::erase(term, best);
          inner.terms.push_back(std::move(term));
        } else {
          rest.push_back(std::move(term));
        }
      }
      frame.terms = std::move(rest);
      open.push_back(std::move(inner));
      continue;
    }
    for (auto& term : frame.terms) frame.sum.push_back(all(std::move(term)));
    const Signal whole = both(frame.factor, any(std::move(frame.sum)));
    open.pop_back();
    if (open.empty()) return whole;
    open.back().sum.push_back(whole);
  }
}

}  // namespace orchard::circuit
