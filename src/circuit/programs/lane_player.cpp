#include "circuit/programs/lane_player.hpp"

#include <algorithm>

namespace orchard::circuit {

LanePlayer::LanePlayer(const PlayProgram& program, const Executor& executor,
                       const std::vector<bool>& initial)
    : program_(program),
      executor_(executor),
      initial_(initial),
      state_(initial.size() + 1),
      next_(initial.size() + 1),
      scratch_(executor.scratch_blocks()),
      accounts_(program) {}

LaneStatistics LanePlayer::play(std::uint64_t games, std::uint64_t seed, std::uint64_t part,
                                std::uint64_t most_plies, const std::function<bool()>& goes_on) {
  random_.restart(seed, part);
  accounts_.begin(games);
  for (std::size_t f = 0; f < initial_.size(); ++f) {
    state_[f].words.fill(initial_[f] ? ~std::uint64_t{0} : 0);
  }
  // Plies between questions: few enough that some ten milliseconds pass in the largest programs.
  constexpr std::uint64_t operations_without_question = 4'000'000;
  const std::uint64_t patience = std::clamp<std::uint64_t>(
      operations_without_question / (program_.program.operations.size() + 1), 1, 64);
  std::uint64_t until_look = most_plies;  // plies until a game may have become too long
  std::uint64_t ply = 0;
  for (; accounts_.some_play(); ++ply) {
    if (goes_on && ply % patience == 0 && !goes_on()) {
      LaneStatistics result = accounts_.statistics();
      result.left = true;
      return result;
    }
    state_.back() = accounts_.playing();
    LaneBlock* const reports = accounts_.reports();
    executor_.run({state_.data(), random_.take(program_.random_blocks), next_.data(), reports,
                   scratch_.data()});
    std::swap(state_, next_);
    if (until_look == 0) begin_again(accounts_.break_off(most_plies, until_look));
    --until_look;
    if (accounts_.take()) continue;
    LaneStatistics result;
    result.conflict = true;
    return result;
  }
  LaneStatistics result = accounts_.statistics();
  result.rounds = ply;
  return result;
}

void LanePlayer::begin_again(const LaneBlock& of_lanes) {
  for (std::size_t f = 0; f < initial_.size(); ++f) {
    for (std::size_t w = 0; w < of_lanes.words.size(); ++w) {
      const std::uint64_t lanes_here = of_lanes.words[w];
      std::uint64_t& word = state_[f].words[w];
      word = initial_[f] ? word | lanes_here : word & ~lanes_here;
    }
  }
}

}  // namespace orchard::circuit
