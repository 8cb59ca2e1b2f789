// What the stores that share keys out among parts have in common: a worker expands blocks of keys
// and keeps what it finds by parts, until that is collected.
#pragma once

#include <span>
#include <vector>

#include "explore/stores/key_parts.hpp"
#include "explore/stores/key_store.hpp"
#include "threads/crew.hpp"

namespace orchard::explore {

template <std::size_t words>
struct BlockWorker {
  BlockWorker(const KeyedGame& game, const KeyMixer<words>& mixer) : expander(game), found(mixer) {}
  KeyedExpander<words> expander;
  KeyParts<words> found;
};

// Each block is the work of one of them; whoever met a fault does no more.
template <std::size_t words, class Workers>
void expand_blocks(Crew& crew, const std::vector<std::vector<Key<words>>>& blocks, Workers& workers,
                   std::span<LayerWorker> counted, std::uint64_t depth, bool goes_on) {
  crew.work(blocks.size(), [&](std::size_t number, std::size_t job) {
    LayerWorker& worker = counted[number];
    if (worker.faults.any()) return;
    auto& by = workers[number];
    worker.faults = by.expander.expand(blocks[job], depth, goes_on, worker.counts, by.found);
  });
}

template <class Workers>
std::uint64_t found_by(const Workers& workers) {
  std::uint64_t result = 0;
  for (const auto& worker : workers) result += worker.found.size();
  return result;
}
template <class Workers>
std::uint64_t bytes_found_by(const Workers& workers) {
  std::uint64_t result = 0;
  for (const auto& worker : workers) result += worker.found.bytes();
  return result;
}
template <class Workers>
SignalCounts seen_by(const Workers& workers) {
  SignalCounts result;
  for (const auto& worker : workers) result.add(worker.expander.seen());
  return result;
}

}  // namespace orchard::explore
