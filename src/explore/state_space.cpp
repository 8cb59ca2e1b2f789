#include "explore/state_space.hpp"

#include <xxhash.h>

#include <algorithm>
#include <stdexcept>

#include "circuit/transpose.hpp"
#include "explore/ordered_crew.hpp"

namespace orchard::explore {

std::size_t StateSpace::Hash::operator()(Row row) const {
  return XXH3_64bits(row.data(), row.size_bytes());
}

StateSpace::StateSpace(const LaneGame& game)
    : game_(game),
      roles_(game.ground().moves().size()),
      words_(std::max<std::size_t>(circuit::words_for(game.ground().fluents().size()), 1)),
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

void StateSpace::add_outcome(Outcome outcome) {
  const auto [known, is_new] = outcome_numbers_.try_emplace(
      std::move(outcome), static_cast<std::uint16_t>(outcomes_.size()));
  if (is_new) outcomes_.push_back(known->first);
  outcome_of_.push_back(known->second);
  too_wide_ = too_wide_ || outcomes_.size() >= no_outcome;
}

void StateSpace::add_block(ExpandedBlock& block) {
  too_wide_ = too_wide_ || block.too_wide;
  kinds_.insert(kinds_.end(), block.kinds.begin(), block.kinds.end());
  choices_.insert(choices_.end(), block.choices.begin(), block.choices.end());
  std::size_t ended = 0;
  for (std::size_t at = 0; at < block.kinds.size(); ++at) {
    first_step_.push_back(first_step_.back() + block.steps[at]);
    if (block.kinds[at] == Kind::open) {
      outcome_of_.push_back(no_outcome);
    } else {
      add_outcome(std::move(block.goals[ended++]));
    }
  }
  // What will be looked up is fetched some places ahead.
  constexpr std::size_t ahead = 32;
  const std::size_t count = block.rows.size() / words_;
  const auto row = [&](std::size_t i) { return Row(block.rows).subspan(i * words_, words_); };
  for (std::size_t i = 0; i < std::min(ahead, count); ++i) known_.prefetch(row(i));
  for (std::size_t i = 0; i < count; ++i) {
    if (i + ahead < count) known_.prefetch(row(i + ahead));
    steps_.push_back(add(row(i)));
  }
}

Ending StateSpace::explore(Row from, const Budget& budget, unsigned threads) {
  std::vector<std::uint64_t> start(from.begin(), from.end());
  start.resize(words_, 0);
  add(start);
  depths_ = {0, 1};  // where the next one begins is known before anything of it is found
  const Ending ending = explore_depths(budget, threads);
  if (depths_.back() == size()) depths_.pop_back();
  return ending;
}

Ending StateSpace::explore_depths(const Budget& budget, unsigned threads) {
  constexpr Number most = 0xFFFFFFF0;  // numbers there are
  Stopwatch clock(budget);
  struct Job {
    std::vector<std::uint64_t> rows;  // a copy: adding what follows moves the rows
    std::size_t count = 0;
  };
  OrderedCrew<BlockExpander, Job, ExpandedBlock> crew(
      threads, [this] { return std::make_unique<BlockExpander>(game_); },
      [](BlockExpander& expander, const Job& job, ExpandedBlock& block) {
        expander.expand(job.rows, job.count, block);
      });
  Number given = 0;
  while (expanded() < size()) {
    if (expanded() == depths_.back()) depths_.push_back(size());
    if (const auto ending = clock.check(size(), depths_.size() - 1)) return *ending;
    if (budget.memory_bytes && bytes() > *budget.memory_bytes) return Ending::memory;
    if (too_wide_ || size() >= most) return Ending::memory;
    while (given < depths_.back() && !crew.full()) {
      const std::size_t count = std::min<std::size_t>(LaneEvaluator::most, depths_.back() - given);
      const Row block = rows(given, count);
      crew.give({{block.begin(), block.end()}, count});
      given += static_cast<Number>(count);
    }
    add_block(crew.take());
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
  if (line.back() != 0) throw std::logic_error("a position has no line to it");
  std::ranges::reverse(line);
  return line;
}

}  // namespace orchard::explore
