#include "logic/runner.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard::logic {

using rules::no_term;

void Runner::run(const Program::Component& component, std::span<Table* const> tables) {
  tables_ = tables;
  for (const auto& [table, rows] : component.facts) {
    const std::uint32_t arity = tables_[index_of(table)]->arity();
    if (arity == 0) {
      store(table, nullptr);
      continue;
    }
    for (std::size_t at = 0; at < rows.size(); at += arity) store(table, rows.data() + at);
  }
  for (const Plan& plan : component.plans) run_plan(plan, false);
  if (!component.recursive.empty()) run_recursive(component);
}

void Runner::run_recursive(const Program::Component& component) {
  new_rows_.resize(tables_.size());
  for (const TableId table : component.tables) new_rows_[index_of(table)] = {};
  while (true) {
    bool any = false;
    for (const TableId table : component.tables) {
      Range& range = new_rows_[index_of(table)];
      range = {range.end, tables_[index_of(table)]->rows()};
      any = any || range.first < range.end;
    }
    if (!any) return;
    for (const Plan& plan : component.recursive) run_plan(plan, true);
  }
}

// Nested loops over the steps, on a stack of frames: a body may be as long as the user likes.
void Runner::run_plan(const Plan& plan, bool buffered) {
  plan_ = &plan;
  buffer_.clear();
  if (variables_.size() < plan.variables) variables_.resize(plan.variables);
  if (frames_.size() < plan.steps.size()) frames_.resize(plan.steps.size());
  if (keys_.size() < plan.steps.size()) keys_.resize(plan.steps.size());
  const std::size_t last = plan.steps.size();
  std::size_t depth = 0;
  bool entering = true;
  while (true) {
    if (depth == last) {
      emit(plan, buffered);
      if (last == 0) break;
      --depth;
      entering = false;
    }
    const Step& step = plan.steps[depth];
    const bool found =
        (entering ? enter(step, frames_[depth]) : true) && advance(step, frames_[depth]);
    if (found) {
      ++depth;
      entering = true;
    } else {
      if (depth == 0) break;
      --depth;
      entering = false;
    }
  }
  if (!buffered || buffer_.empty()) return;
  const std::uint32_t arity = tables_[index_of(plan.head)]->arity();
  if (arity == 0) {
    store(plan.head, nullptr);
  } else {
    for (std::size_t at = 0; at < buffer_.size(); at += arity)
      store(plan.head, buffer_.data() + at);
  }
}

// Prepares a step for its first try. False if it cannot hold at all.
bool Runner::enter(const Step& step, Frame& frame) {
  const std::size_t depth = static_cast<std::size_t>(&step - plan_->steps.data());
  std::vector<TermId>& key = keys_[depth];
  const Table& table = *tables_[index_of(step.table)];
  switch (step.kind) {
    case Step::Kind::distinct:
    case Step::Kind::equal: {
      const TermId left = value(step.key[0], true);
      const TermId right = value(step.key[1], true);
      frame.row = (left == right) == (step.kind == Step::Kind::equal) ? 0 : Table::no_row;
      return true;
    }
    case Step::Kind::absent:
      // A term that was never made is in no table.
      frame.row = read_key(step, key) && table.contains(key.data()) ? Table::no_row : 0;
      return true;
    case Step::Kind::scan:
      break;
  }
  if (step.only_new) {
    frame.row = new_rows_[index_of(step.table)].first;
    frame.end = new_rows_[index_of(step.table)].end;
    return true;
  }
  if (step.key.empty()) {
    frame.row = 0;
    frame.end = table.rows();
    return true;
  }
  if (!read_key(step, key)) return false;
  frame.row = table.first(step.index, Table::hash(key.data(), key.size()));
  return true;
}

// On to the next row that fits, binding the variables of the step.
bool Runner::advance(const Step& step, Frame& frame) {
  if (step.kind != Step::Kind::scan) {
    const bool holds = frame.row == 0;
    frame.row = Table::no_row;
    return holds;
  }
  const Table& table = *tables_[index_of(step.table)];
  const bool chained = !step.key.empty();
  while (chained ? frame.row != Table::no_row : frame.row < frame.end) {
    const std::uint32_t at = frame.row;
    frame.row = chained ? table.next(step.index, at) : at + 1;
    constexpr std::uint64_t between_looks = 1 << 14;
    if (join_steps_ % between_looks == 0) end_if_interrupted();
    if (++join_steps_ > program_.limits().join_steps) {
      throw LimitExceeded(
          fmt::format("more than {} steps in one position", program_.limits().join_steps),
          plan_->clause);
    }
    const TermId* row = table.row(at);
    if (chained && !key_equals(step, row)) continue;
    if (match_row(step, row)) return true;
  }
  return false;
}

bool Runner::read_key(const Step& step, std::vector<TermId>& key) {
  key.clear();
  for (const Argument& argument : step.key) {
    const TermId id = value(argument, false);
    if (id == no_term) return false;
    key.push_back(id);
  }
  return true;
}

bool Runner::key_equals(const Step& step, const TermId* row) {
  const std::vector<TermId>& key = keys_[static_cast<std::size_t>(&step - plan_->steps.data())];
  for (std::size_t i = 0; i < key.size(); ++i) {
    if (row[step.key[i].column] != key[i]) return false;
  }
  return true;
}

bool Runner::match_row(const Step& step, const TermId* row) {
  for (const Argument& argument : step.matched) {
    if (!match(argument, row[argument.column])) return false;
  }
  return true;
}

// Takes a term apart along the symbols of an argument.
bool Runner::match(const Argument& argument, TermId id) {
  const PlanSymbol* symbols = plan_->symbols.data();
  // Nearly all arguments are one symbol.
  if (argument.end - argument.first == 1) {
    const PlanSymbol& only = symbols[argument.first];
    if (only.kind == PlanSymbol::Kind::binding) {
      variables_[only.variable] = id;
      return true;
    }
    return (only.kind == PlanSymbol::Kind::variable ? variables_[only.variable] : only.constant) ==
           id;
  }
  stack_.clear();
  stack_.push_back(id);
  for (std::uint32_t at = argument.first; at < argument.end; ++at) {
    const PlanSymbol& symbol = symbols[at];
    const TermId here = stack_.back();
    stack_.pop_back();
    switch (symbol.kind) {
      case PlanSymbol::Kind::binding:
        variables_[symbol.variable] = here;
        break;
      case PlanSymbol::Kind::variable:
        if (variables_[symbol.variable] != here) return false;
        break;
      case PlanSymbol::Kind::constant:
        if (symbol.constant != here) return false;
        break;
      case PlanSymbol::Kind::function: {
        const auto& entry = program_.terms()[here];
        if (entry.symbol != symbol.symbol || entry.arity != symbol.arity) return false;
        for (std::uint32_t i = entry.arity; i-- > 0;) stack_.push_back(entry.arguments[i]);
        break;
      }
    }
  }
  return true;
}

// The term an argument stands for when all its variables have values; no_term if it was never
// made and `add` is false.
TermId Runner::value(const Argument& argument, bool add) {
  const PlanSymbol& first = plan_->symbols[argument.first];
  if (first.kind == PlanSymbol::Kind::constant) return first.constant;
  if (first.kind == PlanSymbol::Kind::variable) return variables_[first.variable];
  return built(argument.first, argument.end, add);
}

// From the last symbol to the first; a function finds its arguments on top of the stack.
TermId Runner::built(std::uint32_t first, std::uint32_t end, bool add) {
  stack_.clear();
  for (std::uint32_t at = end; at-- > first;) {
    const PlanSymbol& symbol = plan_->symbols[at];
    if (symbol.kind == PlanSymbol::Kind::constant) {
      stack_.push_back(symbol.constant);
    } else if (symbol.kind != PlanSymbol::Kind::function) {
      stack_.push_back(variables_[symbol.variable]);
    } else {
      second_stack_.assign(stack_.end() - symbol.arity, stack_.end());
      std::ranges::reverse(second_stack_);
      stack_.resize(stack_.size() - symbol.arity);
      const TermId id = intern(symbol.symbol, second_stack_, add);
      if (id == no_term) return no_term;
      stack_.push_back(id);
    }
  }
  return stack_.back();
}

TermId Runner::intern(SymbolId symbol, std::span<const TermId> arguments, bool add) {
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
                          plan_->clause);
    }
    id = program_.terms().add(symbol, arguments);
  }
  if (id != no_term) cached = id;
  return id;
}

void Runner::emit(const Plan& plan, bool buffered) {
  head_.clear();
  for (const Argument& argument : plan.head_arguments) head_.push_back(value(argument, true));
  if (!buffered) {
    store(plan.head, head_.data());
  } else if (head_.empty()) {
    buffer_.assign(1, no_term);  // stands for the one row without columns
  } else if (!tables_[index_of(plan.head)]->contains(head_.data())) {
    buffer_.insert(buffer_.end(), head_.begin(), head_.end());
    if (buffer_.size() / head_.size() > program_.limits().rows) count_row();
  }
}

void Runner::store(TableId table, const TermId* row) {
  if (tables_[index_of(table)]->insert(row)) count_row();
}

void Runner::count_row() {
  if (++rows_ > program_.limits().rows) {
    throw LimitExceeded(
        fmt::format("more than {} instances in one position", program_.limits().rows),
        plan_ == nullptr ? 0 : plan_->clause);
  }
}

}  // namespace orchard::logic
