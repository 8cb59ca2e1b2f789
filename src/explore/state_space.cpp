#include "explore/state_space.hpp"

#include <xxhash.h>

#include <algorithm>
#include <stdexcept>

#include "circuit/transpose.hpp"
#include "explore/ordered_crew.hpp"
#include "explore/saved_state.hpp"

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

Result<Ending> StateSpace::explore(Row from, const Budget& budget, unsigned threads) {
  std::vector<std::uint64_t> start(from.begin(), from.end());
  start.resize(words_, 0);
  bool loaded = false;
  if (budget.checkpoint) {
    const auto found = load(start, budget.checkpoint->folder);
    if (!found) return found.diagnostics();
    loaded = *found;
  }
  if (!loaded) {
    add(start);
    depths_ = {0, 1};  // where the next one begins is known before anything of it is found
  }
  auto ending = explore_depths(start, budget, threads);
  if (ending && budget.checkpoint) {
    if (Diagnostics faults = save(start, budget.checkpoint->folder); !faults.empty()) return faults;
  }
  if (depths_.back() == size()) depths_.pop_back();
  return ending;
}

Diagnostics StateSpace::save(Row from, const std::string& folder) const {
  StateWriter writer(folder, "space", state_of(game_, from));
  writer.put("rows", rows_);
  writer.put("depths", depths_);
  writer.put("kinds", kinds_);
  writer.put("choices", choices_);
  writer.put("first_step", first_step_);
  writer.put("steps", steps_);
  writer.put("outcome_of", outcome_of_);
  // Outcome by outcome and role by role, how many numbers, then the numbers.
  std::vector<std::uint32_t> outcomes;
  for (const Outcome& outcome : outcomes_) {
    for (const auto& numbers : outcome) {
      outcomes.push_back(static_cast<std::uint32_t>(numbers.size()));
      outcomes.insert(outcomes.end(), numbers.begin(), numbers.end());
    }
  }
  writer.put("outcomes", outcomes);
  return writer.finish();
}

Result<bool> StateSpace::load(Row from, const std::string& folder) {
  const auto opened = StateReader::open(folder, "space", state_of(game_, from));
  if (!opened) return opened.diagnostics();
  if (*opened == nullptr) return false;
  StateReader& reader = **opened;
  rows_ = reader.get<std::uint64_t>("rows");
  depths_ = reader.get<Number>("depths");
  kinds_ = reader.get<Kind>("kinds");
  choices_ = reader.get<std::uint16_t>("choices");
  first_step_ = reader.get<std::uint64_t>("first_step");
  steps_ = reader.get<Number>("steps");
  outcome_of_ = reader.get<std::uint16_t>("outcome_of");
  const auto outcomes = reader.get<std::uint32_t>("outcomes");
  for (std::size_t at = 0; at < outcomes.size();) {
    Outcome outcome(roles_);
    for (auto& numbers : outcome) {
      const std::size_t count = outcomes.at(at++);
      numbers.assign(outcomes.begin() + static_cast<std::ptrdiff_t>(at),
                     outcomes.begin() + static_cast<std::ptrdiff_t>(at + count));
      at += count;
    }
    outcome_numbers_.emplace(outcome, static_cast<std::uint16_t>(outcomes_.size()));
    outcomes_.push_back(std::move(outcome));
  }
  known_.reserve(size());
  for (Number position = 0; position < size(); ++position) known_.insert(position);
  return true;
}

Result<Ending> StateSpace::explore_depths(Row from, const Budget& budget, unsigned threads) {
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
  Number given = expanded();
  while (expanded() < size()) {
    if (expanded() == depths_.back()) depths_.push_back(size());
    if (const auto ending = clock.check(size(), depths_.size() - 1, bytes())) return *ending;
    if (too_wide_ || size() >= most) return Ending::memory;
    if (clock.save_is_due()) {
      if (Diagnostics faults = save(from, budget.checkpoint->folder); !faults.empty())
        return faults;
      clock.saved();
    }
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
