#include "circuit/programs/choice.hpp"

#include <algorithm>
#include <bit>
#include <utility>

#include "circuit/network/numbers.hpp"

namespace orchard::circuit {
namespace {

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
  return static_cast<std::size_t>(std::bit_width(most));
}

// n - 1, of so many bits; all of them for 0.
Number one_less(Network& network, const Number& n, std::size_t width) {
  Number result;
  Signal borrow = always;
  for (std::size_t i = 0; i < width; ++i) {
    const Signal bit = i < n.size() ? n[i] : never;
    result.push_back(network.differ(bit, borrow));
    borrow = network.both(!bit, borrow);
  }
  return result;
}

// A number up to `last` of random bits, and whether a try succeeded.
std::pair<Number, Signal> draw(Network& network, const Number& last,
                               std::span<const Signal> random) {
  const std::size_t width = last.size();
  Number reach(width, never);  // the bits that numbers up to `last` have
  for (std::size_t i = width; i-- > 0;) {
    reach[i] = network.either(last[i], i + 1 < width ? reach[i + 1] : never);
  }
  Number rank(width, never);
  Signal made = never;
  // From the last try to the first, which goes before all others.
  for (std::size_t first = random.size(); first > 0; first -= width) {
    Number tried;
    Signal above = never;
    for (std::size_t i = 0; i < width; ++i) {
      tried.push_back(network.both(random[first - width + i], reach[i]));
      above = network.either(network.both(tried[i], !last[i]),
                             network.both(!network.differ(tried[i], last[i]), above));
    }
    for (std::size_t i = 0; i < width; ++i) {
      rank[i] = made == never ? tried[i] : network.choose(above, rank[i], tried[i]);
    }
    made = network.either(!above, made);
  }
  return {rank, made};
}

}  // namespace

std::uint32_t choice_planes(std::size_t candidates) {
  if (candidates <= 1) return 0;
  return choice_tries * static_cast<std::uint32_t>(width_for(candidates - 1));
}

Choice choose_uniformly(Network& network, std::span<const Signal> candidates,
                        std::span<const Signal> random) {
  if (candidates.size() <= 1) {
    const std::vector<Signal> only(candidates.begin(), candidates.end());
    return {only, only, always};
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
  auto [rank, made] =
      draw(network, one_less(network, total, width_for(candidates.size() - 1)), random);
  // From the root down; the rank within a subtree is below its count.
  struct Visit {
    std::size_t node;
    Number rank;
    Signal here;
  };
  std::vector<Signal> chosen(candidates.size(), never);
  std::vector<Visit> open{
      {nodes.size() - 1, std::move(rank), network.both(made, network.any(total))}};
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
  return {std::move(chosen), nodes.back().count, made};
}

std::optional<std::uint32_t> chosen_rank(std::size_t candidates, std::uint32_t count,
                                         const std::vector<bool>& random) {
  if (candidates <= 1) return 0;
  const std::size_t width = width_for(candidates - 1);
  for (std::size_t first = 0; first < random.size(); first += width) {
    std::uint32_t tried = 0;
    for (std::size_t i = 0; i < width_for(count - 1); ++i) {
      tried |= static_cast<std::uint32_t>(random[first + i]) << i;
    }
    if (tried < count) return tried;
  }
  return std::nullopt;
}

}  // namespace orchard::circuit
