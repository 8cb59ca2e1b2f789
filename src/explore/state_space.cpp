#include "explore/state_space.hpp"

#include <xxhash.h>

#include <algorithm>

#include "explore/joint_moves.hpp"

namespace orchard::explore {

std::size_t StateSpace::Hash::operator()(Row row) const {
  return XXH3_64bits(row.data(), row.size_bytes());
}

StateSpace::StateSpace(const LaneGame& game)
    : game_(game),
      roles_(game.ground().moves().size()),
      positions_(game),
      successors_(game),
      words_(positions_.words()),
      known_(0, Hash{this}, Equal{this}) {}

std::uint64_t StateSpace::bytes() const {
  return rows_.capacity() * sizeof(rows_[0]) + known_.capacity() * (sizeof(Number) + 1) +
         kinds_.capacity() + choices_.capacity() * sizeof(choices_[0]) +
         first_step_.capacity() * sizeof(first_step_[0]) + steps_.capacity() * sizeof(steps_[0]) +
         outcome_of_.capacity() * sizeof(outcome_of_[0]);
}

std::optional<StateSpace::Number> StateSpace::find(Row row) const {
  const auto known = known_.find(row);
  return known == known_.end() ? std::nullopt : std::optional(*known);
}

std::uint32_t StateSpace::depth(Number position) const {
  const auto after = std::ranges::upper_bound(depths_, position);
  return static_cast<std::uint32_t>(after - depths_.begin() - 1);
}

StateSpace::Number StateSpace::add(Row row) {
  const auto place = known_.lazy_emplace(row, [&](const auto& construct) {
    const Number number = size();
    rows_.insert(rows_.end(), row.begin(), row.end());
    construct(number);
  });
  return *place;
}

void StateSpace::add_outcome(std::size_t at) {
  Outcome outcome(roles_);
  for (std::size_t role = 0; role < roles_; ++role) positions_.goals(at, role, outcome[role]);
  const auto [known, is_new] = outcome_numbers_.try_emplace(
      std::move(outcome), static_cast<std::uint16_t>(outcomes_.size()));
  if (is_new) outcomes_.push_back(known->first);
  outcome_of_.push_back(known->second);
  too_wide_ = too_wide_ || outcomes_.size() >= no_outcome;
}

void StateSpace::add_steps() {
  if (waiting_count_ == 0) return;
  successors_.load(waiting_, waiting_count_);
  successors_.step();
  for (std::size_t i = 0; i < waiting_count_; ++i) known_.prefetch(successors_.next(i));
  for (std::size_t i = 0; i < waiting_count_; ++i) steps_.push_back(add(successors_.next(i)));
  waiting_.clear();
  waiting_count_ = 0;
}

void StateSpace::expand_block(Number first, std::size_t count) {
  // A copy: adding what follows may move the rows.
  const std::vector<std::uint64_t> here(
      rows_.begin() + static_cast<std::ptrdiff_t>(first * words_),
      rows_.begin() + static_cast<std::ptrdiff_t>((first + count) * words_));
  positions_.set_positions(here, count);
  std::vector<std::vector<std::uint32_t>> legal(roles_);
  for (std::size_t at = 0; at < count; ++at) {
    Kind kind = positions_.terminal(at) ? Kind::terminal : Kind::open;
    for (std::size_t role = 0; role < roles_ && kind != Kind::terminal; ++role) {
      positions_.legal(at, role, legal[role]);
      if (legal[role].empty()) kind = Kind::stuck;
      too_wide_ = too_wide_ || legal[role].size() > 0xFFFF;
    }
    kinds_.push_back(kind);
    for (const auto& moves : legal) {
      choices_.push_back(kind == Kind::open ? static_cast<std::uint16_t>(moves.size()) : 0);
    }
    if (kind != Kind::open) {
      add_outcome(at);
    } else {
      outcome_of_.push_back(no_outcome);
      const Row row = Row(here).subspan(at * words_, words_);
      each_joint_move(legal, [&](std::span<const std::uint32_t> joint) {
        waiting_.insert(waiting_.end(), row.begin(), row.end());
        successors_.set_joint(waiting_count_, joint);
        if (++waiting_count_ == LaneEvaluator::most) add_steps();
      });
    }
    first_step_.push_back(steps_.size() + waiting_count_);
  }
  add_steps();
}

Ending StateSpace::explore(Row from, const Budget& budget) {
  constexpr Number most = 0xFFFFFFF0;  // numbers there are
  Stopwatch clock(budget);
  std::vector<std::uint64_t> start(from.begin(), from.end());
  start.resize(words_, 0);
  add(start);
  depths_.push_back(0);
  Number end_of_depth = 1;
  while (expanded() < size()) {
    if (expanded() == end_of_depth) {
      depths_.push_back(end_of_depth);
      end_of_depth = size();
    }
    if (const auto ending = clock.check(size(), depths_.size() - 1)) return *ending;
    if (budget.memory_bytes && bytes() > *budget.memory_bytes) return Ending::memory;
    if (too_wide_ || size() >= most) return Ending::memory;
    const Number first = expanded();
    expand_block(first, std::min<std::size_t>(LaneEvaluator::most, end_of_depth - first));
  }
  return too_wide_ ? Ending::memory : Ending::complete;
}

std::vector<StateSpace::Number> StateSpace::line_to(Number position) const {
  std::vector<Number> line{position};
  for (std::uint32_t d = depth(position); d > 0; --d) {
    for (Number before = depths_[d - 1]; before < depths_[d]; ++before) {
      const auto next = steps(before);
      if (std::ranges::find(next, line.back()) == next.end()) continue;
      line.push_back(before);
      break;
    }
  }
  std::ranges::reverse(line);
  return line;
}

}  // namespace orchard::explore
