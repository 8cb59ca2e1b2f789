// Strongly connected components of a graph, each after those that it leads to.
//
// Tarjan's algorithm (Depth-first search and linear graph algorithms, 1972), with the depth-first
// search on a stack of its own, so that graphs may be as deep as they like. O(vertices + edges).
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <vector>

namespace orchard {

// Vertices are numbers below `count`. `begin(vertex)` gives a cursor over the vertices that one
// leads to, `next(cursor)` the next of them, nothing at their end. `found(members)` is called for
// each component, its members in the order in which they were met.
template <class Begin, class Next, class Found>
void each_component(std::uint32_t count, Begin&& begin, Next&& next, Found&& found) {
  constexpr std::uint32_t unvisited = 0xFFFFFFFF;
  struct Visit {
    std::uint32_t vertex;
    decltype(begin(std::uint32_t{})) cursor;
  };
  std::vector<std::uint32_t> order(count, unvisited);
  std::vector<std::uint32_t> low(count, 0);
  std::vector<bool> waits(count, false);  // for its component
  std::vector<std::uint32_t> waiting;
  std::vector<Visit> visits;
  std::uint32_t clock = 0;
  const auto enter = [&](std::uint32_t vertex) {
    order[vertex] = low[vertex] = clock++;
    waiting.push_back(vertex);
    waits[vertex] = true;
    visits.push_back({vertex, begin(vertex)});
  };
  for (std::uint32_t root = 0; root < count; ++root) {
    if (order[root] != unvisited) continue;
    enter(root);
    while (!visits.empty()) {
      const std::uint32_t vertex = visits.back().vertex;
      if (const std::optional<std::uint32_t> other = next(visits.back().cursor)) {
        if (order[*other] == unvisited) {
          enter(*other);
        } else if (waits[*other]) {
          low[vertex] = std::min(low[vertex], order[*other]);
        }
        continue;
      }
      visits.pop_back();
      if (!visits.empty()) {
        low[visits.back().vertex] = std::min(low[visits.back().vertex], low[vertex]);
      }
      if (low[vertex] != order[vertex]) continue;
      const auto first = std::ranges::find(waiting.rbegin(), waiting.rend(), vertex).base() - 1;
      const std::vector<std::uint32_t> members(first, waiting.end());
      waiting.erase(first, waiting.end());
      for (const std::uint32_t member : members) waits[member] = false;
      found(members);
    }
  }
}

}  // namespace orchard
