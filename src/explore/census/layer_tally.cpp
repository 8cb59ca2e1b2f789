#include "explore/census/layer_tally.hpp"

#include <stdexcept>

namespace orchard::explore {

BlockCounts LayerTally::counts() const {
  BlockCounts result;
  for (const LayerWorker& worker : workers_) result.add(worker.counts);
  return result;
}

std::uint64_t LayerTally::positions(std::uint64_t keys) const {
  const BlockCounts layer = counts();
  return positions_done_ + layer.positions + (keys - keys_done_ - layer.keys);
}

LayerTally::Left LayerTally::leave_layer() {
  const BlockCounts layer = counts();
  in_layer_ = false;
  keys_done_ += layer.keys;
  positions_done_ += layer.positions;
  for (LayerWorker& worker : workers_) worker.counts = {};
  Left result;
  result.open = layer.open;
  if (layer.positions > 0) {
    result.row = CensusDepth{depth_, layer.positions, layer.terminal, layer.stuck, {}};
  }
  return result;
}

std::vector<std::uint64_t> LayerTally::numbers() const {
  const BlockCounts layer = counts();
  return {depth_,     layer.positions, layer.terminal, layer.stuck, layer.open,
          layer.keys, in_layer_,       finished_,      keys_done_,  positions_done_};
}

void LayerTally::set(std::span<const std::uint64_t> numbers) {
  if (numbers.size() < 10) throw std::out_of_range("numbers of a count");
  depth_ = numbers[0];
  workers_[0].counts = {numbers[5], numbers[1], numbers[2], numbers[3], numbers[4] != 0};
  in_layer_ = numbers[6] != 0;
  finished_ = numbers[7] != 0;
  keys_done_ = numbers[8];
  positions_done_ = numbers[9];
}

}  // namespace orchard::explore
