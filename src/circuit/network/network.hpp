// A boolean network: And gates of any width over inputs, with negation on the edges.
//
// Invariants: a gate's inputs are older than the gate, sorted, without repetition, without
// constants and without a signal beside its contrary; two gates are never the same. So what is
// equal by structure is one signal. A value; building it needs one owner.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "base/interruption.hpp"

namespace orchard::circuit {

// A node and whether it is negated. Node 0 is the constant false.
class Signal {
 public:
  constexpr Signal() = default;
  constexpr Signal(std::uint32_t node, bool negated) : code_(node * 2 + (negated ? 1 : 0)) {}
  constexpr std::uint32_t node() const { return code_ / 2; }
  constexpr bool negated() const { return code_ % 2 != 0; }
  constexpr std::uint32_t code() const { return code_; }
  constexpr Signal operator!() const { return Signal(code_ ^ 1u); }
  constexpr Signal operator^(bool flip) const { return Signal(code_ ^ (flip ? 1u : 0u)); }
  friend constexpr auto operator<=>(const Signal&, const Signal&) = default;
  template <class Hash>
  friend Hash AbslHashValue(Hash hash, const Signal& signal) {
    return Hash::combine(std::move(hash), signal.code_);
  }

 private:
  explicit constexpr Signal(std::uint32_t code) : code_(code) {}
  std::uint32_t code_ = 0;
};

inline constexpr Signal never{0, false};
inline constexpr Signal always{0, true};

class Network {
 public:
  Network();

  Signal add_input();
  // The conjunction; O(n log n).
  Signal all(std::vector<Signal> signals) { return all_of(signals); }
  Signal any(std::vector<Signal> signals) { return any_of(signals); }
  Signal both(Signal a, Signal b) {
    std::array<Signal, 2> signals{a, b};
    return all_of(signals);
  }
  Signal either(Signal a, Signal b) { return any({a, b}); }
  Signal differ(Signal a, Signal b) { return either(both(a, !b), both(!a, b)); }
  Signal choose(Signal condition, Signal yes, Signal no) {
    if (yes == always || no == never)
      return yes == always ? either(condition, no) : both(condition, yes);
    if (no == always || yes == never)
      return no == always ? either(!condition, yes) : both(!condition, no);
    return either(both(condition, yes), both(!condition, no));
  }
  Signal several(const std::vector<Signal>& signals);  // two of them at least
  // Conjunctions, one behind the other.
  struct Terms {
    std::vector<Signal> signals;
    std::vector<std::uint32_t> first{0};  // where each begins, and the end

    std::size_t size() const { return first.size() - 1; }
    std::span<Signal> term(std::size_t number) {
      return std::span(signals).subspan(first[number], first[number + 1] - first[number]);
    }
    // The signals added since the last one are a term.
    void end_term() { first.push_back(static_cast<std::uint32_t>(signals.size())); }
    void clear() {
      signals.clear();
      first.assign(1, 0);
    }
    bool are_single() const {  // one signal each
      return signals.size() == size() && std::ranges::adjacent_find(first) == first.end();
    }
    void tidy();
  };
  // The disjunction of conjunctions, with signals that several of them share taken out.
  // What stands in `terms` is used up.
  Signal any_of_all(Terms& terms);
  Signal any_of_all(const std::vector<std::vector<Signal>>& terms);

  std::uint32_t size() const { return static_cast<std::uint32_t>(nodes_.size()); }
  std::uint32_t inputs() const { return static_cast<std::uint32_t>(inputs_.size()); }
  std::uint32_t input(std::uint32_t number) const { return inputs_[number]; }  // its node
  bool is_gate(std::uint32_t node) const { return nodes_[node].count > 0; }
  // The inputs of a gate; empty for inputs and the constant.
  std::span<const Signal> of(std::uint32_t node) const {
    return std::span(pool_).subspan(nodes_[node].first, nodes_[node].count);
  }
  std::uint32_t gates() const { return size() - inputs() - 1; }

 private:
  struct Node {
    std::uint32_t first = 0;
    std::uint32_t count = 0;
  };
  // The same in the place of the signals, which change.
  Signal all_of(std::span<Signal> signals);
  Signal any_of(std::span<Signal> signals);
  Signal factor(Terms& terms);

  std::vector<Node> nodes_;
  std::vector<Signal> pool_;
  std::vector<std::uint32_t> inputs_;
  absl::flat_hash_map<std::uint64_t, std::uint32_t> known_;  // gates by hash
  InterruptionPoint interruption_;
};

}  // namespace orchard::circuit
