// Numbers in a network: signals for their binary digits, lowest first.
#pragma once

#include <span>
#include <vector>

#include "circuit/network/network.hpp"

namespace orchard::circuit {

using Number = std::vector<Signal>;

// The sum, one digit longer than the longer number.
Number add(Network& network, const Number& a, const Number& b);

// How many of the signals hold, by a tree of adders; O(signals).
Number count(Network& network, std::span<const Signal> signals);

// Whether two numbers are not the same.
Signal differ(Network& network, const Number& a, const Number& b);

}  // namespace orchard::circuit
