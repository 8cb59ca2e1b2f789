#include "circuit/choice.hpp"

#include <algorithm>
#include <utility>

namespace orchard::circuit {
namespace {

using Number = std::vector<Signal>;  // lowest bit first

// Sum and carry of three bits.
std::pair<Signal, Signal> add_bits(Network& network, Signal a, Signal b, Signal c) {
  const Signal half = network.differ(a, b);
  return {network.differ(half, c), network.either(network.both(a, b), network.both(half, c))};
}

Number add(Network& network, const Number& a, const Number& b) {
  Number sum;
  Signal carry = never;
  for (std::size_t i = 0; i < std::max(a.size(), b.size()); ++i) {
    const auto [bit, next] =
        add_bits(network, i < a.size() ? a[i] : never, i < b.size() ? b[i] : never, carry);
    sum.push_back(bit);
    carry = next;
  }
  sum.push_back(carry);
  return sum;
}

// a - b, and whether a < b.
std::pair<Number, Signal> subtract(Network& network, const Number& a, const Number& b) {
  Number difference;
  Signal borrow = never;
  for (std::size_t i = 0; i < std::max(a.size(), b.size()); ++i) {
    const Signal x = i < a.size() ? a[i] : never;
    const Signal y = i < b.size() ? b[i] : never;
    const Signal half = network.differ(x, y);
    difference.push_back(network.differ(half, borrow));
    borrow = network.either(network.both(!x, y), network.both(!half, borrow));
  }
  return {difference, borrow};
}

// Bits enough for a number up to `most`.
std::size_t width_for(std::size_t most) {
  std::size_t width = 0;
  while ((std::size_t{1} << width) <= most) ++width;
  return width;
}

}  // namespace

Choice choose_uniformly(Network& network, std::span<const Signal> candidates,
                        std::span<const Signal> random) {
  if (candidates.size() <= 1) {
    const std::vector<Signal> only(candidates.begin(), candidates.end());
    return {only, only};
  }
  struct Node {  // of the tree of counts
    Number count;
    std::size_t leaves = 1;
    std::size_t left = 0;
    std::size_t right = 0;
  };
  std::vector<Node> nodes;
  std::vector<std::size_t> level;
  for (const Signal candidate : candidates) {
    level.push_back(nodes.size());
    nodes.push_back({{candidate}, 1, 0, 0});
  }
  while (level.size() > 1) {
    std::vector<std::size_t> above;
    for (std::size_t i = 0; i + 1 < level.size(); i += 2) {
      const Node& a = nodes[level[i]];
      const Node& b = nodes[level[i + 1]];
      Node sum{add(network, a.count, b.count), a.leaves + b.leaves, level[i], level[i + 1]};
      sum.count.resize(std::min(sum.count.size(), width_for(sum.leaves)));
      above.push_back(nodes.size());
      nodes.push_back(std::move(sum));
    }
    if (level.size() % 2 != 0) above.push_back(level.back());
    level = std::move(above);
  }
  const Number& total = nodes.back().count;
  Number rank(total.size(), never);
  for (const Signal bit : random) {
    Number added;
    for (const Signal of_total : total) added.push_back(network.both(bit, of_total));
    Number sum = add(network, rank, added);
    rank.assign(sum.begin() + 1, sum.end());  // the lowest bit is part of the fraction
  }
  // From the root down; the rank within a subtree is below its count.
  struct Visit {
    std::size_t node;
    Number rank;
    Signal here;
  };
  std::vector<Signal> chosen(candidates.size(), never);
  std::vector<Visit> open{{nodes.size() - 1, std::move(rank), network.any(total)}};
  while (!open.empty()) {
    Visit visit = std::move(open.back());
    open.pop_back();
    const Node& node = nodes[visit.node];
    if (node.leaves == 1) {
      chosen[visit.node] = visit.here;
      continue;
    }
    const Node& left = nodes[node.left];
    const Node& right = nodes[node.right];
    auto [rest, goes_left] = subtract(network, visit.rank, left.count);
    visit.rank.resize(std::min(visit.rank.size(), width_for(left.leaves - 1)));
    rest.resize(std::min(rest.size(), width_for(right.leaves - 1)));
    open.push_back({node.right, std::move(rest), network.both(visit.here, !goes_left)});
    open.push_back({node.left, std::move(visit.rank), network.both(visit.here, goes_left)});
  }
  return {std::move(chosen), nodes.back().count};
}

}  // namespace orchard::circuit
