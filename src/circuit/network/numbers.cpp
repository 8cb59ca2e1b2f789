#include "circuit/network/numbers.hpp"

#include <algorithm>

namespace orchard::circuit {

Number add(Network& network, const Number& a, const Number& b) {
  Number sum;
  Signal carry = never;
  for (std::size_t i = 0; i < std::max(a.size(), b.size()); ++i) {
    const Signal x = i < a.size() ? a[i] : never;
    const Signal y = i < b.size() ? b[i] : never;
    const Signal half = network.differ(x, y);
    sum.push_back(network.differ(half, carry));
    carry = network.either(network.both(x, y), network.both(half, carry));
  }
  sum.push_back(carry);
  return sum;
}

Number count(Network& network, std::span<const Signal> signals) {
  std::vector<Number> sums;
  for (const Signal signal : signals) sums.push_back({signal});
  while (sums.size() > 1) {
    std::vector<Number> next;
    for (std::size_t i = 0; i + 1 < sums.size(); i += 2) {
      next.push_back(add(network, sums[i], sums[i + 1]));
    }
    if (sums.size() % 2 != 0) next.push_back(std::move(sums.back()));
    sums = std::move(next);
  }
  return sums.empty() ? Number{} : sums.front();
}

Signal differ(Network& network, const Number& a, const Number& b) {
  std::vector<Signal> digits;
  for (std::size_t d = 0; d < std::max(a.size(), b.size()); ++d) {
    digits.push_back(network.differ(d < a.size() ? a[d] : never, d < b.size() ? b[d] : never));
  }
  return network.any(std::move(digits));
}

}  // namespace orchard::circuit
