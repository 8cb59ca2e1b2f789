#include "circuit/programs/game_accounts.hpp"

#include <algorithm>
#include <array>
#include <bit>

namespace orchard::circuit {
namespace {

constexpr std::size_t words = lanes / 64;

LaneBlock without(const LaneBlock& a, const LaneBlock& b) {
  LaneBlock result;
  for (std::size_t w = 0; w < words; ++w) result.words[w] = a.words[w] & ~b.words[w];
  return result;
}

bool has(const LaneBlock& block, std::size_t lane) {
  return (block.words[lane / 64] >> lane % 64 & 1) != 0;
}

void put(LaneBlock& block, std::size_t lane) {
  block.words[lane / 64] |= std::uint64_t{1} << lane % 64;
}

std::uint64_t number_of(const std::vector<LaneBlock>& bits, std::size_t lane) {
  std::uint64_t number = 0;
  for (std::size_t b = 0; b < bits.size(); ++b) {
    number |= static_cast<std::uint64_t>(has(bits[b], lane)) << b;
  }
  return number;
}

}  // namespace

void LaneStatistics::add(const LaneStatistics& other) {
  games += other.games;
  plies += other.plies;
  stuck += other.stuck;
  unfinished += other.unfinished;
  rounds += other.rounds;
  positions.resize(std::max(positions.size(), other.positions.size()));
  choices.resize(positions.size());
  for (std::size_t r = 0; r < other.positions.size(); ++r) {
    positions[r] += other.positions[r];
    choices[r] += other.choices[r];
  }
  for (const auto& [length, times] : other.lengths) lengths[length] += times;
  for (const auto& [outcome, times] : other.outcomes) outcomes[outcome] += times;
}

GameAccounts::GameAccounts(const PlayProgram& program)
    : program_(program),
      reports_(slots * program.program.reports),
      pending_values_(program.program.reports - program.first_value) {}

void GameAccounts::begin(std::uint64_t games) {
  slot_ = 0;
  counters_.assign(program_.counted.size(), {});
  const std::uint64_t each = games / lanes;
  const std::uint64_t more = games % lanes;  // lanes with one game more
  left_.assign(static_cast<std::size_t>(std::bit_width(each + 1)), {});
  playing_ = {};
  for (std::uint32_t lane = 0; lane < lanes; ++lane) {
    const std::uint64_t share = each + (lane < more ? 1 : 0);
    for (std::size_t b = 0; b < left_.size(); ++b) {
      if ((share >> b & 1) != 0) put(left_[b], lane);
    }
    if (share > 0) put(playing_, lane);
  }
  look_who_is_left();
  ages_.clear();
  pending_ages_.clear();
  pending_ = pending_finished_ = {};
  plies_since_settled_ = 0;
  stuck_.clear();
  finished_.clear();
  patterns_.clear();
  flips_.clear();
  pattern_counts_.clear();
  unfinished_ = unfinished_plies_ = 0;
}

// The fewest games that a lane has left, from the highest bit down.
void GameAccounts::look_who_is_left() {
  some_play_ = any_lane(playing_);
  LaneBlock fewest = playing_;
  std::uint64_t least = 0;
  for (std::size_t b = left_.size(); b-- > 0;) {
    const LaneBlock fewer = without(fewest, left_[b]);
    if (any_lane(fewer)) {
      fewest = fewer;
    } else {
      least |= std::uint64_t{1} << b;
    }
  }
  sure_rounds_ = least - 1;
}

LaneBlock GameAccounts::break_off(std::uint64_t most_plies, std::uint64_t& next_look) {
  LaneBlock& moved = reports()[PlayProgram::moved];
  LaneBlock broken{};
  next_look = most_plies + 1;
  for (std::size_t lane = 0; lane < lanes; ++lane) {
    if (!has(playing_, lane)) continue;
    const std::uint64_t age = number_of(ages_, lane);
    if (age >= most_plies && !has(reports()[PlayProgram::over], lane)) {
      put(broken, lane);
    } else if (age < most_plies) {
      next_look = std::min(next_look, most_plies - age);
    }
  }
  if (!any_lane(broken)) return broken;
  settle();
  const std::uint64_t games = count_lanes(broken);
  unfinished_ += games;
  unfinished_plies_ += games * most_plies;
  moved = without(moved, broken);
  for (LaneBlock& bit : ages_) bit = without(bit, broken);
  count_down(left_.data(), left_.size(), broken, playing_);
  look_who_is_left();
  return broken;
}

bool GameAccounts::take() {
  LaneBlock* const now = reports();
  const LanePly ply{now + PlayProgram::over,
                    now + PlayProgram::terminal,
                    now + PlayProgram::moved,
                    now + PlayProgram::conflict,
                    now + program_.first_value,
                    pending_values_.size(),
                    ages_.data(),
                    ages_.size(),
                    &pending_,
                    &pending_finished_,
                    pending_ages_.data(),
                    pending_values_.data()};
  PlyOutcome outcome = finish_ply(ply, carry_);
  if (outcome.conflict) return false;
  if (outcome.overlap) {
    settle();
    outcome = finish_ply(ply, carry_);
  }
  if (outcome.carry) {
    ages_.push_back(carry_);
    pending_ages_.emplace_back();
  }
  if (++slot_ == slots) count_reports();
  ++plies_since_settled_;
  if ((outcome.over && sure_rounds_ == 0) || plies_since_settled_ == slots) settle();
  return true;
}

// What was put by is counted.
void GameAccounts::settle() {
  plies_since_settled_ = 0;
  if (!any_lane(pending_)) return;
  std::array<NumberCount, lanes> found;
  const auto count_lengths = [&](const LaneBlock& of_lanes, LengthCounts& counts) {
    const std::size_t kinds =
        count_numbers(pending_ages_.data(), pending_ages_.size(), of_lanes, found.data());
    for (std::size_t i = 0; i < kinds; ++i) counts[found[i].number] += found[i].lanes;
  };
  count_lengths(pending_finished_, finished_);
  const LaneBlock stuck = without(pending_, pending_finished_);
  if (any_lane(stuck)) count_lengths(stuck, stuck_);
  count_outcomes();
  count_down(left_.data(), left_.size(), pending_, playing_);
  pending_ = pending_finished_ = {};
  if (sure_rounds_ > 0) --sure_rounds_;
  if (sure_rounds_ == 0) look_who_is_left();
}

void GameAccounts::count_outcomes() {
  const std::size_t values = pending_values_.size();
  while (count_patterns(pending_values_.data(), values, flips_.data(), patterns_.size(),
                        pending_finished_, pattern_counts_.data())) {
    meet_outcome();
  }
}

// An outcome not met before: that of the first lane that is left.
void GameAccounts::meet_outcome() {
  std::size_t lane = 0;
  while (!has(pending_finished_, lane)) ++lane;
  std::vector<bool>& pattern = patterns_.emplace_back();
  for (const LaneBlock& value : pending_values_) {
    pattern.push_back(has(value, lane));
    flips_.push_back(pattern.back() ? 0 : ~std::uint64_t{0});
  }
  pattern_counts_.push_back(0);
}

// All slots at once, or those there are at the end.
void GameAccounts::count_reports() {
  const std::size_t stride = program_.program.reports;
  const LaneBlock* const first = reports_.data() + PlayProgram::first_counted;
  for (std::size_t c = 0; c < counters_.size(); ++c) {
    if (slot_ == slots) {
      count_sixteen(first + c, stride, counters_[c]);
    } else {
      for (std::size_t s = 0; s < slot_; ++s) count_one(first[c + s * stride], counters_[c]);
    }
  }
  slot_ = 0;
}

LaneStatistics GameAccounts::statistics() {
  count_reports();
  settle();
  LaneStatistics result;
  result.unfinished = unfinished_;
  result.games = unfinished_;
  result.plies = unfinished_plies_;
  for (const auto& [length, times] : finished_) {
    if (times > 0) result.lengths[length] = times;
    result.games += times;
    result.plies += times * length;
  }
  for (const auto& [length, times] : stuck_) {
    result.stuck += times;
    result.games += times;
    result.plies += times * length;
  }
  for (std::size_t p = 0; p < patterns_.size(); ++p) {
    result.outcomes[patterns_[p]] = pattern_counts_[p];
  }
  result.positions.resize(program_.planes.size());
  result.choices.resize(program_.planes.size());
  for (std::size_t c = 0; c < counters_.size(); ++c) {
    const PlayProgram::Counted& counted = program_.counted[c];
    auto& sums = counted.moves ? result.choices : result.positions;
    sums[counted.role] += counters_[c].total() << counted.weight;
  }
  return result;
}

}  // namespace orchard::circuit
