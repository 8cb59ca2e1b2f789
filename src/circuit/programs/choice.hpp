// A uniform choice among the signals that hold, made by the network itself.
//
// The count n of the signals that hold comes from a tree of adders. Random bits, as many as n - 1
// has, make a number; if it is below n it is the rank of the chosen one, else the next bits are
// tried. Where no try succeeds nothing is chosen, and whoever asks waits for new bits. So each of
// the n is chosen with exactly the same probability. The rank goes down the tree, the left count
// taken off wherever it goes right.
//
// Multiplying 16 bits by n instead takes more operations and is never quite even.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "circuit/network/network.hpp"

namespace orchard::circuit {

// All fail in one of 30 choices, for counts as they come; in one of 8 for the worst, one above a
// power of two.
inline constexpr std::uint32_t choice_tries = 3;

// Random planes that a choice among so many takes: a number's for each try, lowest bit first.
std::uint32_t choice_planes(std::size_t candidates);

struct Choice {
  std::vector<Signal> chosen;  // by candidate: one holds if `made` does, else none
  std::vector<Signal> count;   // of the candidates that hold, lowest bit first
  Signal made;                 // a try succeeded, or there is nothing to choose from
};

// `random`: choice_planes(candidates) signals.
Choice choose_uniformly(Network& network, std::span<const Signal> candidates,
                        std::span<const Signal> random);

// The same choice made on numbers: which of `count` > 0, of `candidates` there can be; `random` has
// a bit for each plane. None if no try succeeds.
std::optional<std::uint32_t> chosen_rank(std::size_t candidates, std::uint32_t count,
                                         const std::vector<bool>& random);

}  // namespace orchard::circuit
