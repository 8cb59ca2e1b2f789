#include "circuit/network/network.hpp"

#include <xxhash.h>

#include <algorithm>
#include <optional>

namespace orchard::circuit {

Network::Network() : nodes_(1) {}

Signal Network::add_input() {
  inputs_.push_back(size());
  nodes_.emplace_back();
  return {inputs_.back(), false};
}

Signal Network::all_of(std::span<Signal> signals) {
  interruption_.pass();
  std::ranges::sort(signals);
  std::size_t count = 0;
  for (std::size_t i = 0; i < signals.size(); ++i) {
    const Signal signal = signals[i];
    if (signal == always || (count > 0 && signals[count - 1] == signal)) continue;
    if (signal == never || (count > 0 && signals[count - 1] == !signal)) return never;
    signals[count++] = signal;
  }
  if (count == 0) return always;
  if (count == 1) return signals.front();
  signals = signals.first(count);
  const std::uint32_t node = size();
  std::uint64_t hash = XXH3_64bits(signals.data(), signals.size_bytes());
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

Signal Network::any_of(std::span<Signal> signals) {
  for (Signal& signal : signals) signal = !signal;
  return !all_of(signals);
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

namespace {

// Which signals several terms of a sum have in common, from the one that most have; terms are taken
// away with the signal that is taken out of them.
class SharedSignals {
 public:
  explicit SharedSignals(const Network::Terms& terms) : terms_(terms), there_(terms.size(), true) {
    signals_ = terms.signals;
    std::ranges::sort(signals_);
    signals_.erase(std::unique(signals_.begin(), signals_.end()), signals_.end());
    numbers_.reserve(terms.signals.size());
    first_.assign(signals_.size() + 1, 0);
    for (const Signal signal : terms.signals) {
      numbers_.push_back(static_cast<std::uint32_t>(std::ranges::lower_bound(signals_, signal) -
                                                    signals_.begin()));
      ++first_[numbers_.back() + 1];
    }
    for (std::size_t s = 0; s < signals_.size(); ++s) {
      counts_.push_back(first_[s + 1]);
      if (counts_[s] > 1) open_.push_back({counts_[s], static_cast<std::uint32_t>(s)});
      first_[s + 1] += first_[s];
    }
    std::ranges::make_heap(open_, later);
    occurs_in_.resize(numbers_.size());
    std::vector<std::uint32_t> at(first_.begin(), first_.end() - 1);
    for (std::uint32_t t = 0; t < terms.size(); ++t) {
      for (std::uint32_t i = terms.first[t]; i < terms.first[t + 1]; ++i) {
        occurs_in_[at[numbers_[i]]++] = t;
      }
    }
  }

  bool is_there(std::size_t term) const { return there_[term]; }

  // The signal that most of the terms left have, the least of several, with these terms as they are
  // without it; none if no two have one in common.
  std::optional<Signal> take(Network::Terms& taken) {
    while (!open_.empty()) {
      std::ranges::pop_heap(open_, later);
      const auto [count, number] = open_.back();
      open_.pop_back();
      if (count != counts_[number]) {
        if (counts_[number] > 1) {
          open_.push_back({counts_[number], number});
          std::ranges::push_heap(open_, later);
        }
        continue;
      }
      for (std::uint32_t o = first_[number]; o < first_[number + 1]; ++o) {
        const std::uint32_t term = occurs_in_[o];
        if (!there_[term]) continue;
        there_[term] = false;
        for (std::uint32_t i = terms_.first[term]; i < terms_.first[term + 1]; ++i) {
          --counts_[numbers_[i]];
          if (numbers_[i] != number) taken.signals.push_back(terms_.signals[i]);
        }
        taken.end_term();
      }
      return signals_[number];
    }
    return std::nullopt;
  }

 private:
  struct Open {
    std::uint32_t count;
    std::uint32_t number;
  };
  static bool later(const Open& a, const Open& b) {
    return a.count != b.count ? a.count < b.count : a.number > b.number;
  }

  const Network::Terms& terms_;
  std::vector<bool> there_;               // by term
  std::vector<Signal> signals_;           // those that occur, in order
  std::vector<std::uint32_t> numbers_;    // of the signals of the terms
  std::vector<std::uint32_t> first_;      // by signal: where its terms begin
  std::vector<std::uint32_t> occurs_in_;  // terms
  std::vector<std::uint32_t> counts_;     // by signal: terms left that have it
  std::vector<Open> open_;                // a heap; counts may be of before
};

}  // namespace

// Sorted, each signal and each term once.
void Network::Terms::tidy() {
  std::vector<std::vector<Signal>> sorted;
  for (std::size_t t = 0; t < size(); ++t) {
    std::vector<Signal>& term =
        sorted.emplace_back(signals.begin() + first[t], signals.begin() + first[t + 1]);
    std::ranges::sort(term);
    term.erase(std::unique(term.begin(), term.end()), term.end());
  }
  std::ranges::sort(sorted);
  sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
  signals.clear();
  first = {0};
  for (const auto& term : sorted) {
    signals.insert(signals.end(), term.begin(), term.end());
    end_term();
  }
}

Signal Network::any_of_all(Terms& terms) {
  if (terms.size() == 1) return all_of(terms.signals);
  if (terms.are_single()) return any_of(terms.signals);
  terms.tidy();
  return factor(terms);
}

Signal Network::any_of_all(const std::vector<std::vector<Signal>>& terms) {
  Terms flat;
  for (const std::vector<Signal>& term : terms) {
    flat.signals.insert(flat.signals.end(), term.begin(), term.end());
    flat.end_term();
  }
  return any_of_all(flat);
}

// Greedy algebraic factoring: the signal that most terms share is taken out of them,
// (a b) or (a c) or d = (a (b or c)) or d, and so on within and beside. Each level takes O(n log n)
// of the size of the terms. Terms that share more than any hand writes are left as they are from
// some depth on, so that the stack bears it.
Signal Network::factor(Terms& terms) {
  constexpr int deepest = 100;
  constexpr std::size_t large = 1000;  // signals
  const auto level = [this](const auto& self, Terms& of, int depth) -> Signal {
    interruption_.pass();
    if (of.signals.size() > large) end_if_interrupted();
    if (of.size() == 1) return all_of(of.signals);
    if (of.are_single()) return any_of(of.signals);
    std::vector<Signal> sum;
    SharedSignals shared(of);
    while (depth < deepest) {
      Terms inner;
      const auto common = shared.take(inner);
      if (!common) break;
      sum.push_back(both(*common, self(self, inner, depth + 1)));
    }
    for (std::size_t t = 0; t < of.size(); ++t) {
      if (shared.is_there(t)) sum.push_back(all_of(of.term(t)));
    }
    return any_of(sum);
  };
  return level(level, terms, 0);
}

}  // namespace orchard::circuit
