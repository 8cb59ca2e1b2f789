// How far a count of positions has come: the layers that are done, and what the workers have
// counted of the one being left. Counting alone: it knows neither budgets nor files, but can be
// written as numbers and made from them again. One thread.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "explore/stores/key_store.hpp"
#include "orchard/census.hpp"

namespace orchard::explore {

class LayerTally {
 public:
  explicit LayerTally(std::size_t workers) : workers_(workers) {}

  std::span<LayerWorker> workers() { return workers_; }
  std::uint64_t depth() const { return depth_; }
  bool finished() const { return finished_; }  // no layer is left
  bool in_layer() const { return in_layer_; }
  void enter_layer() { in_layer_ = true; }
  // Positions reached, if these are the keys of all layers.
  std::uint64_t positions(std::uint64_t keys) const;

  // Ends the layer: its row, unless it is empty, and whether play goes on from it.
  struct Left {
    std::optional<CensusDepth> row;
    bool open = false;
  };
  Left leave_layer();
  void enter_depth_below() { ++depth_; }
  void finish() { finished_ = true; }

  std::vector<std::uint64_t> numbers() const;
  void set(std::span<const std::uint64_t> numbers);

 private:
  BlockCounts counts() const;

  std::vector<LayerWorker> workers_;
  std::uint64_t depth_ = 0;
  std::uint64_t keys_done_ = 0;       // of the layers before …
  std::uint64_t positions_done_ = 0;  // … and what they stood for
  bool in_layer_ = false;             // it has been entered
  bool finished_ = false;
};

}  // namespace orchard::explore
