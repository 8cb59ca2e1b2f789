#include "explore/sampling/random_games.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <stdexcept>

#include "base/interruption.hpp"
#include "circuit/lanes/executor.hpp"
#include "circuit/lanes/lane_kernels.hpp"
#include "circuit/lanes/transpose.hpp"

namespace orchard {

using circuit::LaneBlock;
using circuit::PlayProgram;

struct RandomGames::Playing {
  std::span<const std::uint64_t> rows;
  std::size_t count = 0;
  std::vector<float> shares;  // by position and role
  std::size_t waiting = 0;    // the first position that waits
  LaneBlock lanes{};          // that play
  std::size_t idle = circuit::lanes;
  std::array<std::uint32_t, circuit::lanes> position{};  // that the lane plays
  std::array<std::uint64_t, circuit::lanes> begun{};     // at which ply of all
  std::uint64_t ply = 0;
};

RandomGames::RandomGames(const LaneGame& game) : game_(game), words_(game.words()), shares_(game) {
  const std::size_t fluents = game.ground().fluents().size();
  state_.resize(fluents + 1);
  next_.resize(fluents + 1);
  fresh_.resize(fluents);
}

void RandomGames::use(const LaneGame::Ready& ready) {
  ready_ = &ready;
  reports_.resize(ready.program.program.reports);
  scratch_.resize(ready.executor->scratch_blocks());
}

std::vector<float> RandomGames::play(std::span<const std::uint64_t> rows, std::size_t count,
                                     Random& random, std::uint64_t most_plies) {
  if (ready_ == nullptr) use(game_.from_start());
  const std::uint64_t seed = random.below(~std::uint64_t{0});
  const auto begin = [&] {
    Playing playing;
    playing.rows = rows;
    playing.count = count;
    playing.shares.assign(count * shares_.roles(), GoalShares::undecided);
    return playing;
  };
  Playing playing = begin();
  if (try_to_play(playing, seed, most_plies)) return std::move(playing.shares);
  separate_ =
      std::make_unique<LaneGame::Ready>(game_.ready(game_.ground().initial(), false, std::nullopt));
  use(*separate_);
  playing = begin();
  if (!try_to_play(playing, seed, most_plies)) {
    throw std::logic_error("random games of a guided game go beyond what is declared");
  }
  return std::move(playing.shares);
}

// False if the choices that the program shares between roles do not hold.
bool RandomGames::try_to_play(Playing& playing, std::uint64_t seed, std::uint64_t most_plies) {
  planes_.restart(seed, 0);
  plies_ = 0;
  lengths_.assign(playing.count, static_cast<std::uint32_t>(most_plies));
  constexpr std::size_t enough_idle = circuit::lanes / 4;
  while (true) {
    const bool some_wait = playing.waiting < playing.count;
    if (some_wait && playing.idle >= enough_idle) take_waiting(playing);
    if (playing.idle == circuit::lanes) return true;
    end_if_interrupted();
    state_.back() = playing.lanes;
    ready_->executor->run({state_.data(), planes_.take(ready_->program.random_blocks), next_.data(),
                           reports_.data(), scratch_.data()});
    std::swap(state_, next_);
    if (circuit::any_lane(reports_[PlayProgram::conflict])) return false;
    plies_ += circuit::count_lanes(reports_[PlayProgram::moved]);
    judge_ended(playing);
    ++playing.ply;
    if (playing.ply < most_plies) continue;
    for (std::size_t lane = 0; lane < circuit::lanes; ++lane) {
      std::uint64_t& word = playing.lanes.words[lane / 64];
      const std::uint64_t bit = std::uint64_t{1} << lane % 64;
      if ((word & bit) == 0 || playing.ply - playing.begun[lane] < most_plies) continue;
      word &= ~bit;
      ++playing.idle;
    }
  }
}

// Puts positions that wait into the lanes that do not play.
void RandomGames::take_waiting(Playing& playing) {
  std::vector<std::uint64_t> rows(circuit::lanes * words_, 0);
  LaneBlock taken{};
  for (std::size_t lane = 0; lane < circuit::lanes && playing.waiting < playing.count; ++lane) {
    const std::uint64_t bit = std::uint64_t{1} << lane % 64;
    if ((playing.lanes.words[lane / 64] & bit) != 0) continue;
    std::ranges::copy(playing.rows.subspan(playing.waiting * words_, words_),
                      rows.begin() + static_cast<std::ptrdiff_t>(lane * words_));
    playing.position[lane] = static_cast<std::uint32_t>(playing.waiting++);
    playing.begun[lane] = playing.ply;
    taken.words[lane / 64] |= bit;
    --playing.idle;
  }
  circuit::rows_to_lanes(rows, circuit::lanes, fresh_);
  for (std::size_t f = 0; f < fresh_.size(); ++f) {
    for (std::size_t w = 0; w < taken.words.size(); ++w) {
      std::uint64_t& word = state_[f].words[w];
      word = (word & ~taken.words[w]) | (fresh_[f].words[w] & taken.words[w]);
    }
  }
  for (std::size_t w = 0; w < taken.words.size(); ++w) playing.lanes.words[w] |= taken.words[w];
}

void RandomGames::judge_ended(Playing& playing) {
  const LaneBlock& over = reports_[PlayProgram::over];
  const std::size_t roles = shares_.roles();
  for (std::size_t w = 0; w < over.words.size(); ++w) {
    if (over.words[w] == 0) continue;
    for (std::uint64_t left = over.words[w]; left != 0; left &= left - 1) {
      const auto bit = static_cast<std::size_t>(std::countr_zero(left));
      const std::size_t position = playing.position[w * 64 + bit];
      lengths_[position] =
          static_cast<std::uint32_t>(playing.ply + 1 - playing.begun[w * 64 + bit]);
      for (std::size_t role = 0; role < roles; ++role) {
        const LaneBlock* const values = reports_.data() + ready_->program.first_goal[role];
        playing.shares[position * roles + role] = shares_.share(
            role, [&](std::size_t value) { return (values[value].words[w] >> bit & 1) != 0; });
      }
    }
    playing.lanes.words[w] &= ~over.words[w];
    playing.idle += static_cast<std::size_t>(std::popcount(over.words[w]));
  }
}

}  // namespace orchard
