#include "circuit/lane_player.hpp"

#include <algorithm>
#include <bit>

namespace orchard::circuit {
namespace {

constexpr std::size_t words = lanes / 64;

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

LaneBlock operator&(const LaneBlock& a, const LaneBlock& b) {
  LaneBlock result;
  for (std::size_t w = 0; w < words; ++w) result.words[w] = a.words[w] & b.words[w];
  return result;
}

LaneBlock without(const LaneBlock& a, const LaneBlock& b) {
  LaneBlock result;
  for (std::size_t w = 0; w < words; ++w) result.words[w] = a.words[w] & ~b.words[w];
  return result;
}

}  // namespace

void LaneStatistics::add(const LaneStatistics& other) {
  games += other.games;
  plies += other.plies;
  stuck += other.stuck;
  unfinished += other.unfinished;
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
  births_ = {{0, active_}};
  ply_ = 0;
  patterns_.clear();
  pattern_counts_.clear();
  length_counts_.clear();
}

LaneStatistics LanePlayer::play(std::uint64_t games, std::uint64_t seed, std::uint64_t part,
                                std::uint64_t most_plies) {
  LaneStatistics statistics;
  RandomPlanes random(seed, part);
  begin(games);
  while (any(active_)) {
    LaneMemory memory{state_.data(), random.take(program_.random_blocks), next_.data(),
                      reports_.data(), scratch_.data()};
    executor_.run(memory);
    std::swap(state_, next_);
    LaneBlock ended;
    for (std::size_t w = 0; w < words; ++w) {
      ended.words[w] =
          (reports_[PlayProgram::terminal].words[w] | reports_[PlayProgram::stuck].words[w]) &
          active_.words[w];
    }
    if (any(ended)) account(ended, statistics);
    if (!births_.empty() && ply_ - births_.front().ply >= most_plies) {
      break_off(most_plies, statistics);
    }
    ++ply_;
  }
  for (std::size_t p = 0; p < patterns_.size(); ++p) {
    if (pattern_counts_[p] > 0) statistics.outcomes[patterns_[p]] += pattern_counts_[p];
  }
  for (std::size_t length = 0; length < length_counts_.size(); ++length) {
    if (length_counts_[length] > 0) statistics.lengths[length] += length_counts_[length];
  }
  return statistics;
}

// Lanes whose position was an end, or stuck; they have begun anew already.
void LanePlayer::account(const LaneBlock& ended, LaneStatistics& statistics) {
  const LaneBlock finished = ended & reports_[PlayProgram::terminal];
  statistics.games += count(ended);
  statistics.stuck += count(without(ended, finished));
  count_outcomes(finished, statistics);
  for (const Birth& birth : births_) {
    const std::uint64_t length = ply_ - birth.ply;
    const std::uint64_t all = count(birth.lanes & ended);
    if (all == 0) continue;
    statistics.plies += all * length;
    if (length_counts_.size() <= length) length_counts_.resize(length + 1, 0);
    length_counts_[length] += count(birth.lanes & finished);
  }
  end_games(ended);
}

void LanePlayer::count_outcomes(LaneBlock finished, LaneStatistics&) {
  const std::size_t goals = program_.program.reports - 2;
  const LaneBlock* const values = reports_.data() + 2;
  for (std::size_t p = 0; p < patterns_.size(); ++p) {
    LaneBlock same = finished;
    for (std::size_t g = 0; g < goals; ++g) {
      const std::uint64_t flip = patterns_[p][g] ? 0 : ~std::uint64_t{0};
      for (std::size_t w = 0; w < words; ++w) same.words[w] &= values[g].words[w] ^ flip;
    }
    pattern_counts_[p] += count(same);
    finished = without(finished, same);
  }
  while (any(finished)) {  // an outcome not met before
    std::size_t w = 0;
    while (finished.words[w] == 0) ++w;
    const int bit = std::countr_zero(finished.words[w]);
    std::vector<bool> pattern(goals);
    for (std::size_t g = 0; g < goals; ++g) pattern[g] = (values[g].words[w] >> bit & 1) != 0;
    patterns_.push_back(pattern);
    pattern_counts_.push_back(0);
    LaneBlock same = finished;
    for (std::size_t g = 0; g < goals; ++g) {
      const std::uint64_t flip = pattern[g] ? 0 : ~std::uint64_t{0};
      for (std::size_t v = 0; v < words; ++v) same.words[v] &= values[g].words[v] ^ flip;
    }
    pattern_counts_.back() += count(same);
    finished = without(finished, same);
  }
}

// The games of these lanes are over: their share is one less, and those with a share left are born
// again with the next ply.
void LanePlayer::end_games(const LaneBlock& ended) {
  LaneBlock borrow = ended;
  LaneBlock some{};
  for (LaneBlock& bits : left_) {
    for (std::size_t w = 0; w < words; ++w) {
      const std::uint64_t before = bits.words[w];
      bits.words[w] = before ^ borrow.words[w];
      borrow.words[w] &= ~before;
      some.words[w] |= bits.words[w];
    }
  }
  for (Birth& birth : births_) birth.lanes = without(birth.lanes, ended);
  std::erase_if(births_, [](const Birth& birth) { return !any(birth.lanes); });
  active_ = some;
  const LaneBlock born = ended & active_;
  if (any(born)) births_.push_back({ply_ + 1, born});
}

// Games that are too long end here, and their lanes begin at the start.
void LanePlayer::break_off(std::uint64_t most_plies, LaneStatistics& statistics) {
  LaneBlock over{};
  for (const Birth& birth : births_) {
    if (ply_ < birth.ply || ply_ - birth.ply < most_plies) continue;
    for (std::size_t w = 0; w < words; ++w) over.words[w] |= birth.lanes.words[w];
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
  end_games(over);
}

}  // namespace orchard::circuit
