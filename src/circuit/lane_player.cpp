#include "circuit/lane_player.hpp"

#include <algorithm>
#include <bit>

#include "circuit/lane_kernels.hpp"

namespace orchard::circuit {
namespace {

constexpr std::size_t words = lanes / 64;

std::uint64_t total(const LaneBlock& sums) {
  std::uint64_t sum = 0;
  for (const std::uint64_t word : sums.words) sum += word;
  return sum;
}

bool any(const LaneBlock& block) {
  std::uint64_t all = 0;
  for (const std::uint64_t word : block.words) all |= word;
  return all != 0;
}

std::uint64_t count(const LaneBlock& block) {
  std::uint64_t sum = 0;
  for (const std::uint64_t word : block.words) sum += static_cast<unsigned>(std::popcount(word));
  return sum;
}

}  // namespace

void LaneStatistics::add(const LaneStatistics& other) {
  games += other.games;
  plies += other.plies;
  stuck += other.stuck;
  unfinished += other.unfinished;
  positions.resize(std::max(positions.size(), other.positions.size()));
  choices.resize(positions.size());
  for (std::size_t r = 0; r < other.positions.size(); ++r) {
    positions[r] += other.positions[r];
    choices[r] += other.choices[r];
  }
  for (const auto& [length, times] : other.lengths) lengths[length] += times;
  for (const auto& [outcome, times] : other.outcomes) outcomes[outcome] += times;
}

LanePlayer::LanePlayer(const PlayProgram& program, const Executor& executor,
                       const std::vector<bool>& initial)
    : program_(program),
      executor_(executor),
      initial_(initial),
      state_(initial.size()),
      next_(initial.size()),
      reports_(program.program.reports),
      scratch_(executor.scratch_blocks()) {}

void LanePlayer::begin(std::uint64_t games) {
  for (std::size_t f = 0; f < initial_.size(); ++f) {
    state_[f].words.fill(initial_[f] ? ~std::uint64_t{0} : 0);
  }
  const std::uint64_t each = games / lanes;
  const std::uint64_t more = games % lanes;  // lanes with one game more
  left_.assign(static_cast<std::size_t>(std::bit_width(each + 1)), {});
  active_ = {};
  for (std::uint32_t lane = 0; lane < lanes; ++lane) {
    const std::uint64_t share = each + (lane < more ? 1 : 0);
    const std::uint64_t bit = std::uint64_t{1} << lane % 64;
    for (std::size_t b = 0; b < left_.size(); ++b) {
      if ((share >> b & 1) != 0) left_[b].words[lane / 64] |= bit;
    }
    if (share > 0) active_.words[lane / 64] |= bit;
  }
  began_.fill(0);
  ply_ = 0;
  patterns_.clear();
  flips_.clear();
  pattern_sums_.clear();
  oldest_ = 0;
  stuck_.assign(64, 0);
  ended_.assign(4 * stuck_.size(), 0);
  position_sums_.assign(program_.moves.size(), {});
  choice_sums_.assign(program_.moves.size(), {});
}

LaneStatistics LanePlayer::play(std::uint64_t games, std::uint64_t seed, std::uint64_t part,
                                std::uint64_t most_plies, const std::function<bool()>& goes_on) {
  LaneStatistics statistics;
  random_.restart(seed, part);
  begin(games);
  constexpr std::uint64_t patience = 64;  // plies between questions
  std::uint64_t next_look = most_plies;   // when a game may have become too long
  while (any(active_)) {
    if (goes_on && ply_ % patience == 0 && !goes_on()) {
      statistics.left = true;
      break;
    }
    LaneMemory memory{state_.data(), random_.take(program_.random_blocks), next_.data(),
                      reports_.data(), scratch_.data()};
    executor_.run(memory);
    std::swap(state_, next_);
    if (any(reports_[PlayProgram::conflict])) {
      statistics = {};
      statistics.conflict = true;
      return statistics;
    }
    count_moves();
    LaneBlock ended;
    if (find_ended(reports_[PlayProgram::terminal], reports_[PlayProgram::stuck], active_, ended)) {
      account(ended);
    }
    if (ply_ >= next_look) next_look = break_off(most_plies, statistics);
    ++ply_;
  }
  add_sums(statistics);
  return statistics;
}

void LanePlayer::add_sums(LaneStatistics& statistics) const {
  for (std::size_t p = 0; p < patterns_.size(); ++p) {
    statistics.outcomes[patterns_[p]] = total(pattern_sums_[p]);
  }
  for (std::size_t length = 0; length < stuck_.size(); ++length) {
    std::uint64_t ended = 0;
    for (std::size_t c = 0; c < 4; ++c) ended += ended_[4 * length + c];
    const std::uint64_t stuck = stuck_[length];
    statistics.games += ended;
    statistics.stuck += stuck;
    statistics.plies += ended * length;
    if (ended > stuck) statistics.lengths[length] = ended - stuck;
  }
  for (std::size_t r = 0; r < program_.moves.size(); ++r) {
    statistics.positions.push_back(total(position_sums_[r]));
    statistics.choices.push_back(total(choice_sums_[r]));
  }
}

// The legal moves of the positions that are gone on from.
void LanePlayer::count_moves() {
  const LaneBlock running =
      running_lanes(reports_[PlayProgram::terminal], reports_[PlayProgram::stuck], active_);
  for (std::size_t r = 0; r < program_.moves.size(); ++r) {
    const PlayProgram::MoveReports& at = program_.moves[r];
    count_role_moves(running, reports_[at.to_move], reports_[at.forced], reports_.data() + at.count,
                     at.count_bits, position_sums_[r], choice_sums_[r]);
  }
}

// Lane by lane: few games end at a ply, so this costs less than any way of doing it side by side.
void LanePlayer::count_lengths(const LaneBlock& ended, const LaneBlock& finished) {
  if (stuck_.size() <= ply_ - oldest_) {
    oldest_ = *std::ranges::min_element(began_);
    while (stuck_.size() <= ply_ - oldest_) stuck_.resize(2 * stuck_.size());
    ended_.resize(4 * stuck_.size());
  }
  std::uint64_t* const counters = ended_.data();
  std::uint64_t* const began = began_.data();
  const std::uint64_t now = ply_;
  for (std::size_t w = 0; w < words; ++w) {
    for (std::uint64_t left = ended.words[w] & ~finished.words[w]; left != 0; left &= left - 1) {
      ++stuck_[now - began[w * 64 + static_cast<std::size_t>(std::countr_zero(left))]];
    }
    for (std::uint64_t left = ended.words[w]; left != 0; left &= left - 1) {
      const std::size_t lane = w * 64 + static_cast<std::size_t>(std::countr_zero(left));
      ++counters[4 * (now - began[lane]) + lane % 4];
      began[lane] = now + 1;
    }
  }
}

// Lanes whose position was an end, or stuck; they have begun anew already.
void LanePlayer::account(const LaneBlock& ended) {
  LaneBlock finished = ended;
  for (std::size_t w = 0; w < words; ++w) {
    finished.words[w] &= reports_[PlayProgram::terminal].words[w];
  }
  count_lengths(ended, finished);
  bool unknown = count_patterns(reports_.data() + program_.first_value,
                                program_.program.reports - program_.first_value, flips_.data(),
                                patterns_.size(), finished, pattern_sums_.data());
  while (unknown) {
    meet_outcome(finished);
    unknown = any(finished);
  }
  end_games(ended);
}

// An outcome not met before: that of the first of these lanes, and of all others that have it.
void LanePlayer::meet_outcome(LaneBlock& finished) {
  const std::size_t goals = program_.program.reports - program_.first_value;
  const LaneBlock* const values = reports_.data() + program_.first_value;
  std::size_t w = 0;
  while (finished.words[w] == 0) ++w;
  const int bit = std::countr_zero(finished.words[w]);
  std::vector<bool>& pattern = patterns_.emplace_back(goals);
  for (std::size_t g = 0; g < goals; ++g) {
    pattern[g] = (values[g].words[w] >> bit & 1) != 0;
    flips_.push_back(pattern[g] ? 0 : ~std::uint64_t{0});
  }
  pattern_sums_.emplace_back();
  count_patterns(values, goals, flips_.data() + flips_.size() - goals, 1, finished,
                 &pattern_sums_.back());
}

// The games of these lanes are over: their share is one less.
void LanePlayer::end_games(const LaneBlock& ended) {
  count_down(left_.data(), left_.size(), ended, active_);
}

// Games that are too long end here, and their lanes begin at the start. Gives the ply at which the
// next one may have become too long.
std::uint64_t LanePlayer::break_off(std::uint64_t most_plies, LaneStatistics& statistics) {
  LaneBlock over{};
  std::uint64_t next_look = ply_ + 1 + most_plies;
  for (std::size_t lane = 0; lane < lanes; ++lane) {
    if ((active_.words[lane / 64] >> lane % 64 & 1) == 0) continue;
    if (began_[lane] + most_plies <= ply_) {
      over.words[lane / 64] |= std::uint64_t{1} << lane % 64;
      began_[lane] = ply_ + 1;
    }
    next_look = std::min(next_look, began_[lane] + most_plies);
  }
  const std::uint64_t games = count(over);
  statistics.games += games;
  statistics.unfinished += games;
  statistics.plies += games * most_plies;
  for (std::size_t f = 0; f < initial_.size(); ++f) {
    for (std::size_t w = 0; w < words; ++w) {
      state_[f].words[w] =
          initial_[f] ? state_[f].words[w] | over.words[w] : state_[f].words[w] & ~over.words[w];
    }
  }
  if (games > 0) end_games(over);
  return next_look;
}

}  // namespace orchard::circuit
