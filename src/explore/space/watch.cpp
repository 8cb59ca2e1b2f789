#include "explore/space/watch.hpp"

#include <algorithm>
#include <bit>

#include "circuit/lanes/lane_kernels.hpp"
#include "circuit/lanes/transpose.hpp"
#include "circuit/programs/watch_program.hpp"

namespace orchard::explore {

Watch::Watch(const LaneGame& game, const circuit::Network& network,
             std::vector<circuit::Signal> signals)
    : fluents_(game.ground().fluents().size()), joints_(game.ground().first_moves()) {
  std::size_t moves = 0;
  for (const auto& of_role : game.ground().moves()) moves += of_role.size();
  state_.resize(fluents_ + moves);
  reports_.resize(signals.size());
  executor_ = circuit::make_executor(circuit::make_watch_program(network, std::move(signals)));
  next_.resize(1);
  scratch_.resize(executor_->scratch_blocks());
}

void Watch::set_joint(std::size_t at, std::span<const std::uint32_t> joint) {
  joints_.set(std::span(state_).subspan(fluents_), at, joint);
}

void Watch::look(std::span<const std::uint64_t> rows, std::size_t count) {
  if (signals() == 0) return;
  circuit::rows_to_lanes(rows, count, std::span(state_).first(fluents_));
  executor_->run({state_.data(), nullptr, next_.data(), reports_.data(), scratch_.data()});
  if (count == circuit::lanes) return;
  const circuit::LaneBlock filled = circuit::first_lanes(count);
  for (circuit::LaneBlock& report : reports_) {
    for (std::size_t w = 0; w < filled.words.size(); ++w) report.words[w] &= filled.words[w];
  }
}

std::uint64_t Watch::count(std::size_t signal) const {
  return circuit::count_lanes(reports_[signal]);
}

std::size_t Watch::first(std::size_t signal) const {
  std::size_t word = 0;
  while (reports_[signal].words[word] == 0) ++word;
  return word * 64 + static_cast<std::size_t>(std::countr_zero(reports_[signal].words[word]));
}

}  // namespace orchard::explore
