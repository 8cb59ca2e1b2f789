// A uniform choice among the signals that hold, made by the network itself.
//
// The count n of the signals that hold comes from a tree of adders; of `planes` random bits u a
// rank, floor(u · n / 2^planes), by shifting and adding; the rank goes down the tree, the left
// count taken off wherever it goes right. Each of the n is chosen with probability 1/n, off by less
// than n / 2^planes of that.
#pragma once

#include <span>
#include <vector>

#include "circuit/network.hpp"

namespace orchard::circuit {

inline constexpr std::uint32_t choice_planes = 16;

struct Choice {
  std::vector<Signal> chosen;  // by candidate: one holds, none if no candidate does
  std::vector<Signal> count;   // of the candidates that hold, lowest bit first
};

// `random`: choice_planes signals, unless there is one candidate only.
Choice choose_uniformly(Network& network, std::span<const Signal> candidates,
                        std::span<const Signal> random);

// The same choice made on numbers: which of `count` for the random bits, lowest first.
inline std::uint32_t chosen_rank(std::uint32_t count, std::uint32_t bits) {
  return static_cast<std::uint32_t>((std::uint64_t{bits} * count) >> choice_planes);
}

}  // namespace orchard::circuit
