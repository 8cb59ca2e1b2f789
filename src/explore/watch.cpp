#include "explore/watch.hpp"

#include <algorithm>
#include <bit>

#include "circuit/transpose.hpp"
#include "circuit/watch_program.hpp"

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
  count_ = count;
  if (signals() == 0) return;
  circuit::rows_to_lanes(rows, count, std::span(state_).first(fluents_));
  executor_->run({state_.data(), nullptr, next_.data(), reports_.data(), scratch_.data()});
}

std::uint64_t Watch::count(std::size_t signal) const {
  std::uint64_t result = 0;
  for (std::size_t word = 0; word * 64 < count_; ++word) {
    std::uint64_t bits = reports_[signal].words[word];
    if (count_ - word * 64 < 64) bits &= (std::uint64_t{1} << (count_ - word * 64)) - 1;
    result += static_cast<std::uint64_t>(std::popcount(bits));
  }
  return result;
}

}  // namespace orchard::explore
