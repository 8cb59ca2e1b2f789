#include "logic/runner.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>

#include "base/interruption.hpp"

namespace orchard::logic {

using rules::no_term;

void Runner::start(std::span<Table* const> tables) {
  tables_ = tables;
  done_.resize(program_.components().size(), Done::no);
  new_rows_.resize(tables.size());
  spent_.resize(program_.components().size(), 0);
}

void Runner::start_count() {
  work_ += join_steps_;
  rows_ = join_steps_ = charged_ = 0;
  next_look_ = std::min(between_looks, program_.limits().join_steps);
  depth_ = 0;
}

void Runner::forget(Phase phase) {
  for (std::size_t c = 0; c < done_.size(); ++c) {
    const Program::Component& component = program_.components()[c];
    if (done_[c] == Done::no || component.phase != phase) continue;
    for (const TableId table : component.tables) tables_[index_of(table)]->clear();
    for (const TableId table : component.keys) tables_[index_of(table)]->clear();
    done_[c] = Done::no;
  }
}

void Runner::add_facts(const Program::Component& component) {
  for (const auto& [table, rows] : component.facts) {
    const std::uint32_t arity = tables_[index_of(table)]->arity();
    if (arity == 0) {
      store(table, nullptr);
      continue;
    }
    for (std::size_t at = 0; at < rows.size(); at += arity) store(table, rows.data() + at);
  }
}

void Runner::work_out(std::uint32_t number) {
  if (done_[number] == Done::all) return;
  const Program::Component& component = program_.components()[number];
  // Before the run, so that a run that is broken off is cleared. No plan reads what is being
  // worked out but in the rounds below.
  done_[number] = Done::all;
  add_facts(component);
  for (const Plan& plan : component.plans) run_plan(plan, false);
  if (component.recursive.empty()) return;
  for (const TableId table : component.tables) new_rows_[index_of(table)] = {};
  run_rounds(component, {}, component.recursive);
}

// Until nothing is new in the tables of the component and in `more`.
void Runner::run_rounds(const Program::Component& component, std::span<const TableId> more,
                        const std::vector<Plan>& plans) {
  while (true) {
    bool any = false;
    const auto move_on = [&](TableId table) {
      Range& range = new_rows_[index_of(table)];
      range = {range.end, tables_[index_of(table)]->rows()};
      any = any || range.first < range.end;
    };
    for (const TableId table : component.tables) move_on(table);
    for (const TableId table : more) move_on(table);
    if (!any) return;
    for (const Plan& plan : plans) run_plan(plan, true);
  }
}

// Before the table of a step is read. Its key is there.
void Runner::ask(Level& level, const Step& step) {
  if (done_[step.component] == Done::all) return;
  if (step.asked_by.empty()) return work_out(step.component);
  const TermId* key = level.keys.data() + step.key_at;
  level.values.clear();
  for (const std::uint32_t at : step.asked_by) level.values.push_back(key[at]);
  const TableId keys = program_.asked(step.table).keys;
  if (tables_[index_of(keys)]->insert(level.values.data())) answer(step.component, keys);
}

// What the newest row of `keys` asks for.
void Runner::answer(std::uint32_t number, TableId keys) {
  const Program::Component& component = program_.components()[number];
  const bool first = done_[number] == Done::no;
  done_[number] = Done::started;
  if (component.asks_itself) {
    if (first) {
      for (const TableId table : component.tables) new_rows_[index_of(table)] = {};
      for (const TableId table : component.keys) new_rows_[index_of(table)] = {};
      add_facts(component);
    }
    return run_rounds(component, component.keys, component.asked);
  }
  if (first) add_facts(component);
  const std::uint32_t rows = tables_[index_of(keys)]->rows();
  new_rows_[index_of(keys)] = {rows - 1, rows};
  for (const Plan& plan : component.asked) run_plan(plan, false);
}

// Puts what was spent since the last time down to the plan's component.
void Runner::charge(const Plan& plan) {
  spent_[plan.component] += join_steps_ - charged_;
  charged_ = join_steps_;
}

void Runner::run_plan(const Plan& plan, bool buffered) {
  if (depth_ > 0) charge(*levels_[depth_ - 1]->plan);
  if (depth_ == levels_.size()) levels_.push_back(std::make_unique<Level>());
  Level& level = *levels_[depth_];
  ++depth_;
  level.plan = &plan;
  level.buffer.clear();
  if (level.variables.size() < plan.variables) level.variables.resize(plan.variables);
  if (level.frames.size() < plan.steps.size()) level.frames.resize(plan.steps.size());
  if (level.keys.size() < plan.key_cells) level.keys.resize(plan.key_cells);
  run_steps(level, buffered);
  if (buffered) store_buffer(plan, level.buffer);
  ++join_steps_;
  charge(plan);
  --depth_;
}

// The term an argument stands for when all its variables have values; no_term if it was never
// made and `add` is false.
inline TermId Runner::value(Level& level, const Argument& argument, bool add) {
  if (argument.kind == PlanSymbol::Kind::constant) return argument.constant;
  if (argument.kind == PlanSymbol::Kind::variable) return level.variables[argument.variable];
  return built(level, argument.first, argument.end, add);
}

// False if some term of it was never made.
inline bool Runner::read_key(Level& level, const Step& step) {
  TermId* key = level.keys.data() + step.key_at;
  for (const Argument& argument : step.key) {
    const TermId id = value(level, argument, false);
    if (id == no_term) return false;
    *key++ = id;
  }
  return true;
}

inline bool Runner::match(Level& level, const Argument& argument, TermId id) {
  switch (argument.kind) {
    case PlanSymbol::Kind::binding:
      level.variables[argument.variable] = id;
      return true;
    case PlanSymbol::Kind::variable:
      return level.variables[argument.variable] == id;
    case PlanSymbol::Kind::constant:
      return argument.constant == id;
    case PlanSymbol::Kind::function:
      return take_apart(level, argument, id);
  }
  return false;
}

// On to the next row that fits, binding the variables of the step.
inline bool Runner::advance(Level& level, const Step& step, Frame& frame) {
  if (step.kind != Step::Kind::scan) {
    const bool holds = frame.row == 0;
    frame.row = Table::no_row;
    return holds;
  }
  if (step.once && frame.found) return false;
  const Table& table = *tables_[index_of(step.table)];
  const TermId* key = level.keys.data() + step.key_at;
  const std::size_t keys = step.key.size();
  while (keys > 0 ? frame.row != Table::no_row : frame.row < frame.end) {
    const std::uint32_t at = frame.row;
    frame.row = keys > 0 ? table.next(step.index, at) : at + 1;
    count_step(level);
    const TermId* row = table.row(at);
    bool fits = true;
    for (std::size_t i = 0; fits && i < keys; ++i) fits = row[step.key[i].column] == key[i];
    for (const Argument& argument : step.matched) {
      if (!fits) break;
      fits = match(level, argument, row[argument.column]);
    }
    if (fits) return true;
  }
  return false;
}

// Nested loops over the steps, on a stack of frames: a body may be as long as the user likes.
void Runner::run_steps(Level& level, bool buffered) {
  const std::vector<Step>& steps = level.plan->steps;
  const auto last = static_cast<std::uint32_t>(steps.size());
  std::uint32_t depth = 0;
  bool entering = true;
  while (true) {
    if (depth == last) {
      emit(level, buffered);
      depth = level.plan->last_choice;
      if (depth == nothing) return;
      entering = false;
    }
    const Step& step = steps[depth];
    Frame& frame = level.frames[depth];
    if (entering) frame.found = false;
    if ((entering ? enter(level, step, frame) : true) && advance(level, step, frame)) {
      frame.found = true;
      ++depth;
      entering = true;
      continue;
    }
    if (frame.found && depth == 0) return;
    depth = frame.found ? depth - 1 : step.back;
    if (depth == nothing) return;
    entering = false;
  }
}

// Prepares a step for its first try. False if it cannot hold at all.
bool Runner::enter(Level& level, const Step& step, Frame& frame) {
  switch (step.kind) {
    case Step::Kind::distinct:
    case Step::Kind::equal: {
      const TermId left = value(level, step.key[0], true);
      const TermId right = value(level, step.key[1], true);
      frame.row = (left == right) == (step.kind == Step::Kind::equal) ? 0 : Table::no_row;
      return true;
    }
    case Step::Kind::absent:
    case Step::Kind::present: {
      // A term that was never made is in no table.
      bool there = false;
      if (read_key(level, step)) {
        if (step.component != nothing) ask(level, step);
        there = tables_[index_of(step.table)]->contains(level.keys.data() + step.key_at);
      }
      frame.row = there == (step.kind == Step::Kind::present) ? 0 : Table::no_row;
      count_step(level);
      return true;
    }
    case Step::Kind::scan:
      break;
  }
  if (step.only_new) {
    frame.row = new_rows_[index_of(step.table)].first;
    frame.end = new_rows_[index_of(step.table)].end;
    return true;
  }
  if (!read_key(level, step)) return false;
  if (step.component != nothing) ask(level, step);
  const Table& table = *tables_[index_of(step.table)];
  if (step.key.empty()) {
    frame.row = 0;
    frame.end = table.rows();
    return true;
  }
  const TermId* key = level.keys.data() + step.key_at;
  frame.row = table.first(step.index, Table::hash(key, step.key.size()));
  return true;
}

// At interrupts and limits.
void Runner::look_round(const Level& level) {
  end_if_interrupted();
  next_look_ = std::min(join_steps_ + between_looks, program_.limits().join_steps);
  if (join_steps_ < program_.limits().join_steps) return;
  throw LimitExceeded(
      fmt::format("more than {} steps in one position", program_.limits().join_steps),
      level.plan->clause);
}

// A term, along the symbols of an argument.
bool Runner::take_apart(Level& level, const Argument& argument, TermId id) {
  const PlanSymbol* symbols = level.plan->symbols.data();
  std::vector<TermId>& stack = level.stack;
  stack.clear();
  stack.push_back(id);
  for (std::uint32_t at = argument.first; at < argument.end; ++at) {
    const PlanSymbol& symbol = symbols[at];
    const TermId here = stack.back();
    stack.pop_back();
    switch (symbol.kind) {
      case PlanSymbol::Kind::binding:
        level.variables[symbol.variable] = here;
        break;
      case PlanSymbol::Kind::variable:
        if (level.variables[symbol.variable] != here) return false;
        break;
      case PlanSymbol::Kind::constant:
        if (symbol.constant != here) return false;
        break;
      case PlanSymbol::Kind::function: {
        const auto& entry = program_.terms()[here];
        if (entry.symbol != symbol.symbol || entry.arity != symbol.arity) return false;
        for (std::uint32_t i = entry.arity; i-- > 0;) stack.push_back(entry.arguments[i]);
        break;
      }
    }
  }
  return true;
}

// From the last symbol to the first; a function finds its arguments on top of the stack.
TermId Runner::built(Level& level, std::uint32_t first, std::uint32_t end, bool add) {
  std::vector<TermId>& stack = level.stack;
  std::vector<TermId>& arguments = level.second_stack;
  stack.clear();
  for (std::uint32_t at = end; at-- > first;) {
    const PlanSymbol& symbol = level.plan->symbols[at];
    if (symbol.kind == PlanSymbol::Kind::constant) {
      stack.push_back(symbol.constant);
    } else if (symbol.kind != PlanSymbol::Kind::function) {
      stack.push_back(level.variables[symbol.variable]);
    } else {
      arguments.assign(stack.end() - symbol.arity, stack.end());
      std::ranges::reverse(arguments);
      stack.resize(stack.size() - symbol.arity);
      const TermId id = intern(level, symbol.symbol, arguments, add);
      if (id == no_term) return no_term;
      stack.push_back(id);
    }
  }
  return stack.back();
}

TermId Runner::intern(Level& level, SymbolId symbol, std::span<const TermId> arguments, bool add) {
  const std::uint32_t hash = Table::hash(arguments.data(), arguments.size()) ^
                             (static_cast<std::uint32_t>(symbol) * 0x9E3779B9u);
  TermId& cached = cache_[hash % cache_size];
  if (cached != no_term) {
    const auto& entry = program_.terms()[cached];
    if (entry.symbol == symbol && std::ranges::equal(entry.span(), arguments)) return cached;
  }
  TermId id = program_.terms().find(symbol, arguments);
  if (id == no_term && add) {
    std::uint64_t depth = 0;
    std::uint64_t size = 1;
    for (const TermId argument : arguments) {
      depth = std::max<std::uint64_t>(depth, program_.terms()[argument].depth + 1);
      size += program_.terms()[argument].size;
    }
    if (depth > program_.limits().term_depth || size > program_.limits().term_symbols) {
      throw LimitExceeded(fmt::format("a term nested more than {} deep, or of more than {} symbols",
                                      program_.limits().term_depth, program_.limits().term_symbols),
                          level.plan->clause);
    }
    id = program_.terms().add(symbol, arguments);
  }
  if (id != no_term) cached = id;
  return id;
}

void Runner::emit(Level& level, bool buffered) {
  const Plan& plan = *level.plan;
  ++join_steps_;
  std::vector<TermId>& head = level.head;
  head.resize(plan.head_arguments.size());
  TermId* cell = head.data();
  for (const Argument& argument : plan.head_arguments) *cell++ = value(level, argument, true);
  if (!buffered) {
    store(plan.head, head.data());
  } else if (head.empty()) {
    level.buffer.assign(1, no_term);  // stands for the one row without columns
  } else if (!tables_[index_of(plan.head)]->contains(head.data())) {
    level.buffer.insert(level.buffer.end(), head.begin(), head.end());
    if (level.buffer.size() / head.size() > program_.limits().rows) count_row();
  }
}

void Runner::store_buffer(const Plan& plan, const std::vector<TermId>& buffer) {
  if (buffer.empty()) return;
  const std::uint32_t arity = tables_[index_of(plan.head)]->arity();
  if (arity == 0) return store(plan.head, nullptr);
  for (std::size_t at = 0; at < buffer.size(); at += arity) store(plan.head, buffer.data() + at);
}

void Runner::store(TableId table, const TermId* row) {
  if (tables_[index_of(table)]->insert(row)) count_row();
}

void Runner::count_row() {
  if (++rows_ <= program_.limits().rows) return;
  const std::uint32_t clause = depth_ == 0 ? 0 : levels_[depth_ - 1]->plan->clause;
  throw LimitExceeded(fmt::format("more than {} instances in one position", program_.limits().rows),
                      clause);
}

}  // namespace orchard::logic
