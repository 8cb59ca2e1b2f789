#include "explore/space/state_space.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <new>
#include <numeric>
#include <stdexcept>

#include "base/interruption.hpp"
#include "base/saved_state.hpp"
#include "circuit/lanes/pieces.hpp"
#include "circuit/lanes/transpose.hpp"
#include "threads/ordered_crew.hpp"

namespace orchard::explore {

StateSpace::StateSpace(const LaneGame& game, SymmetryGroup symmetry)
    : game_(game),
      symmetry_(std::move(symmetry)),
      shift_(static_cast<unsigned>(std::bit_width(symmetry_.size() - 1))),
      roles_(game.ground().moves().size()),
      words_(std::max<std::size_t>(circuit::words_for(game.ground().fluents().size()), 1)) {
  if (shift_ > 0) fold(1);
}

std::uint64_t StateSpace::bytes() const {
  return rows_.capacity() * sizeof(rows_[0]) + known_.bytes() + kinds_.capacity() +
         choices_.capacity() * sizeof(choices_[0]) +
         first_step_.capacity() * sizeof(first_step_[0]) + steps_.capacity() * sizeof(steps_[0]) +
         outcome_of_.capacity() * sizeof(outcome_of_[0]) + step_elements_.capacity() +
         fold_of_.capacity();
}

std::uint64_t StateSpace::positions(Number first, Number end) const {
  if (shift_ == 0) return end - first;
  std::uint64_t result = 0;
  for (Number c = class_of(first); c < class_of(end); ++c) result += class_size(c);
  return result;
}

StateSpace::Row StateSpace::row(Number position) const {
  if (element(position) != 0) throw std::logic_error("a position that is not kept has no row");
  return kept(class_of(position));
}

void StateSpace::each_block(Number first_class, Number end_class, const BlockVisit& visit) const {
  if (shift_ == 0) {  // as they are kept
    std::vector<Number> numbers;
    circuit::each_piece(end_class - first_class, [&](std::size_t from, std::size_t count) {
      const std::size_t first = first_class + from;
      numbers.resize(count);
      std::iota(numbers.begin(), numbers.end(), static_cast<Number>(first));
      visit(Row(rows_).subspan(first * words_, count * words_), numbers);
    });
    return;
  }
  std::vector<std::uint64_t> rows;
  auto gathered = circuit::gathered<Number>([&](std::span<const Number> numbers) {
    visit(rows, numbers);
    rows.clear();
  });
  for (Number c = first_class; c < end_class; ++c) {
    gathered.make_room(class_size(c));
    for (Number position = first_of(c); position < first_of(c + 1); ++position) {
      if (!is_position(position)) continue;
      rows.resize(rows.size() + words_);
      symmetry_.rename(kept(c), element(position), rows.data() + rows.size() - words_);
      gathered.add(position);
    }
  }
  gathered.finish();
}

std::optional<StateSpace::Number> StateSpace::find(Row row) const {
  std::vector<std::uint64_t> least(row.begin(), row.end());
  const Element from = symmetry_.least(row, least.data()).from;
  const auto number = known(least, hash_of(least));
  if (!number || shift_ == 0) return number;
  return member(*number, from);
}

std::uint32_t StateSpace::depth(Number position) const {
  const auto after = std::ranges::upper_bound(depths_, position);
  return static_cast<std::uint32_t>(after - depths_.begin() - 1);
}

// The number of a way in which renamings of a position are the same.
std::uint8_t StateSpace::fold(std::uint16_t stabilizer) {
  for (std::size_t f = 0; f < folds_.size(); ++f) {
    if (folds_[f].stabilizer == stabilizer) return static_cast<std::uint8_t>(f);
  }
  Fold& result = folds_.emplace_back();
  result.stabilizer = stabilizer;
  result.members = 0;
  for (std::size_t e = 0; e < symmetry_.size(); ++e) {
    const auto element = static_cast<Element>(e);
    Element least = 0;
    while ((stabilizer >> symmetry_.times(symmetry_.inverse(least), element) & 1) == 0) ++least;
    result.least[e] = least;
    result.members |= static_cast<std::uint16_t>(1u << least);
  }
  result.size = static_cast<std::uint8_t>(std::popcount(result.members));
  return static_cast<std::uint8_t>(folds_.size() - 1);
}

std::optional<StateSpace::Number> StateSpace::known(Row row, std::uint32_t hash) const {
  return known_.find(hash, [&](Number number) { return std::ranges::equal(kept(number), row); });
}

StateSpace::Number StateSpace::add(Row row, std::uint32_t hash, bool is_fixed_by_several) {
  if (const auto number = known(row, hash)) return *number;
  const Number number = classes();
  rows_.insert(rows_.end(), row.begin(), row.end());
  if (shift_ > 0) {
    fold_of_.push_back(is_fixed_by_several ? fold(symmetry_.stabilizer(row)) : 0);
  }
  positions_ += class_size(number);
  known_.add(hash, number);
  return number;
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
  // What will be looked up is fetched some places ahead, and later the row it will be compared
  // with.
  constexpr std::size_t ahead = 32;
  constexpr std::size_t row_ahead = 12;
  const std::size_t count = block.rows.size() / words_;
  const std::vector<std::uint32_t>& hashes = block.hashes;
  for (std::size_t i = 0; i < std::min(ahead, count); ++i) known_.prefetch(hashes[i]);
  for (std::size_t i = 0; i < count; ++i) {
    if (i + ahead < count) known_.prefetch(hashes[i + ahead]);
    if (i + row_ahead < count) {
      const auto likely = known_.likely(hashes[i + row_ahead]);
      if (likely) __builtin_prefetch(&rows_[*likely * words_]);
    }
    const Row row = Row(block.rows).subspan(i * words_, words_);
    steps_.push_back(add(row, hashes[i], shift_ > 0 && block.least[i].several));
    if (shift_ > 0) step_elements_.push_back(block.least[i].from);
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
  if (!loaded && depths_.empty()) {
    add(start, hash_of(start), true);
    depths_ = {0};
    next_depth_is_due_ = true;
  }
  // Where the next depth begins is known before anything of it is found.
  if (next_depth_is_due_) depths_.push_back(size());
  auto ending = explore_depths(start, budget, threads);
  if (ending && budget.checkpoint) {
    if (Diagnostics faults = save(start, budget.checkpoint->folder); !faults.empty()) return faults;
  }
  next_depth_is_due_ = depths_.back() == size();
  if (next_depth_is_due_) depths_.pop_back();
  return ending;
}

std::string StateSpace::state(Row from) const {
  const std::string all = game_.identity(from);
  return shift_ == 0 ? all : fmt::format("{}, classes of {:016x}", all, symmetry_.digest());
}

bool StateSpace::is_saved(const std::string& folder) {
  return StateReader::is_there(folder, "space");
}

Diagnostics StateSpace::save(Row from, const std::string& folder) const {
  StateWriter writer(folder, "space", state(from));
  writer.put("rows", rows_);
  writer.put("depths", depths_);
  writer.put("kinds", kinds_);
  writer.put("choices", choices_);
  writer.put("first_step", first_step_);
  writer.put("steps", steps_);
  writer.put("step_elements", step_elements_);
  std::vector<std::uint16_t> stabilizers;
  for (const Fold& fold : folds_) stabilizers.push_back(fold.stabilizer);
  writer.put("stabilizers", stabilizers);
  writer.put("fold_of", fold_of_);
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
  const auto opened = StateReader::open(folder, "space", state(from));
  if (!opened) return opened.diagnostics();
  if (*opened == nullptr) return false;
  StateReader& reader = **opened;
  rows_ = reader.get<std::uint64_t>("rows");
  depths_ = reader.get<Number>("depths");
  kinds_ = reader.get<Kind>("kinds");
  choices_ = reader.get<std::uint16_t>("choices");
  first_step_ = reader.get<std::uint64_t>("first_step");
  steps_ = reader.get<Number>("steps");
  step_elements_ = reader.get<Element>("step_elements");
  for (const std::uint16_t stabilizer : reader.get<std::uint16_t>("stabilizers")) fold(stabilizer);
  fold_of_ = reader.get<std::uint8_t>("fold_of");
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
  known_.reserve(classes());
  for (Number number = 0; number < classes(); ++number) {
    known_.add(hash_of(kept(number)), number);
  }
  positions_ = positions(0, size());
  return true;
}

// How many steps a block may have: those of it and of the others that are made at once are kept
// before they are looked up.
std::uint64_t StateSpace::most_steps(const Budget& budget) const {
  constexpr std::uint64_t most = 1 << 26;
  constexpr std::uint64_t part = 4;  // of the memory
  const std::uint64_t step_bytes = words_ * sizeof(rows_[0]) + sizeof(steps_[0]) * 2;
  return budget.memory_bytes ? std::min(most, *budget.memory_bytes / part / step_bytes) : most;
}

// So that adding a block does not fail in the middle.
void StateSpace::make_room(const ExpandedBlock& block) {
  const auto reserve = [](auto& numbers, std::size_t more) {
    const std::size_t needed = numbers.size() + more;
    if (needed > numbers.capacity()) numbers.reserve(std::max(needed, numbers.capacity() * 2));
  };
  const std::size_t steps = block.hashes.size();
  reserve(rows_, block.rows.size());
  reserve(steps_, steps);
  reserve(kinds_, block.kinds.size());
  reserve(choices_, block.choices.size());
  reserve(first_step_, block.kinds.size());
  reserve(outcome_of_, block.kinds.size());
  if (shift_ > 0) {
    reserve(step_elements_, steps);
    reserve(fold_of_, steps);
  }
  known_.reserve(classes() + steps);
}

Result<Ending> StateSpace::explore_depths(Row from, const Budget& budget, unsigned threads) try {
  constexpr Number most = 0xB0000000;  // what the index takes, but for those of a block
  Stopwatch clock(budget);
  struct Job {
    std::vector<std::uint64_t> rows;  // a copy: adding what follows moves the rows
    std::size_t count = 0;
  };
  OrderedCrew<BlockExpander, Job, ExpandedBlock> crew(
      threads,
      [&] { return std::make_unique<BlockExpander>(game_, symmetry_, most_steps(budget)); },
      [](BlockExpander& expander, const Job& job, ExpandedBlock& block) {
        expander.expand(job.rows, job.count, block);
      });
  Number given = expanded_classes();
  // Fewer positions where each has many steps, so that what is made at once stays small.
  constexpr std::size_t usual_steps = 1 << 20;
  std::size_t block_size = circuit::lanes;
  while (expanded() < size()) {
    if (expanded() == depths_.back()) {
      if (deepest_ && depths_.size() - 1 >= *deepest_) return Ending::depth;
      depths_.push_back(size());
    }
    if (const auto ending = clock.check(positions_, depths_.size() - 1, bytes())) return *ending;
    if (too_wide_ || size() >= most) return Ending::memory;
    if (clock.save_is_due()) {
      if (Diagnostics faults = save(from, budget.checkpoint->folder); !faults.empty())
        return faults;
      clock.saved();
    }
    const Number end = class_of(depths_.back());
    while (given < end && !crew.full()) {
      const std::size_t count = std::min<std::size_t>(block_size, end - given);
      const Row block = Row(rows_).subspan(given * words_, count * words_);
      crew.give({{block.begin(), block.end()}, count});
      given += static_cast<Number>(count);
    }
    ExpandedBlock& block = crew.take();
    if (block.too_many) return Ending::memory;
    make_room(block);
    add_block(block);
    const std::size_t steps = block.hashes.size() / std::max<std::size_t>(block.kinds.size(), 1);
    block_size =
        std::clamp<std::size_t>(usual_steps / std::max<std::size_t>(steps, 1), 1, circuit::lanes);
  }
  return too_wide_ ? Ending::memory : Ending::complete;
} catch (const Interrupted& interrupted) {  // of blocks that were not added yet
  return interrupted.ending;
} catch (const std::bad_alloc&) {
  return Ending::memory;
}

std::vector<StateSpace::Number> StateSpace::line_through(std::span<const Number> classes) const {
  std::vector<Number> line{0};
  for (const Number next : classes.subspan(1)) {
    const auto steps = class_steps(class_of(line.back()));
    const auto step = std::ranges::find(steps, next);
    if (step == steps.end()) throw std::logic_error("classes of a line do not follow one another");
    line.push_back(
        after(first_step_[class_of(line.back())] + static_cast<std::uint64_t>(step - steps.begin()),
              element(line.back())));
  }
  return line;
}

std::vector<StateSpace::Number> StateSpace::round(std::vector<Number> classes,
                                                  std::size_t& repeats_from) const {
  const std::size_t turn = classes.size() - 1 - repeats_from;
  std::vector<Number> line = line_through(classes);
  // The class comes again in another position of it until one of those comes again.
  while (true) {
    for (std::size_t ply = repeats_from; ply + 1 < line.size(); ply += turn) {
      if (line[ply] != line.back()) continue;
      repeats_from = ply;
      return line;
    }
    for (std::size_t i = 0; i < turn; ++i) classes.push_back(classes[classes.size() - turn]);
    line = line_through(classes);
  }
}

std::vector<StateSpace::Number> StateSpace::line_to(Number position) const {
  std::vector<Number> classes{class_of(position)};
  for (std::uint32_t d = depth(position); d > 0; --d) {
    for (Number before = class_of(depths_[d - 1]); before < class_of(depths_[d]); ++before) {
      const auto next = class_steps(before);
      if (std::ranges::find(next, classes.back()) == next.end()) continue;
      classes.push_back(before);
      break;
    }
  }
  if (classes.back() != 0) throw std::logic_error("a position has no line to it");
  std::ranges::reverse(classes);
  std::vector<Number> line = line_through(classes);
  if (line.back() == position) return line;
  // It leads to another position of the class: renamed as a whole it leads to this one.
  const auto renamed = [&](Number number, Element by) {
    return member(class_of(number), symmetry_.times(by, element(number)));
  };
  Element by = 0;
  while (renamed(line.back(), by) != position) ++by;
  for (Number& number : line) number = renamed(number, by);
  return line;
}

}  // namespace orchard::explore
