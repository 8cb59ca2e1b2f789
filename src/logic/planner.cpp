#include "logic/planner.hpp"

#include <algorithm>
#include <cmath>

namespace orchard::logic {

using rules::Literal;
using rules::Pattern;
using rules::PatternSymbol;

namespace {

constexpr double guessed_rows = 16;  // of a table that is filled during play
// Bodies longer than this (no hand writes them) keep their order, so that planning stays linear.
constexpr std::size_t longest_planned = 500;

}  // namespace

TableId Planner::table_of(const rules::Atom& atom, Pattern& pattern) {
  const Keyword keyword = program_.description().relation(atom.relation).keyword;
  pattern = atom.arguments;
  if (keyword != Keyword::true_ && keyword != Keyword::does) return program_.table(atom.relation);
  const std::size_t at = keyword == Keyword::does ? pattern.front().size : 0;  // fluent or move
  const PatternSymbol name = pattern[at];
  if (name.kind == PatternSymbol::Kind::variable) return program_.table(atom.relation);
  pattern.erase(pattern.begin() + static_cast<std::ptrdiff_t>(at));
  const Program::PartKey key{keyword, name.symbol(), name.arity};
  const auto next = TableId{static_cast<std::uint32_t>(program_.tables_.size())};
  const auto [entry, is_new] = program_.parts_.try_emplace(key, next);
  if (is_new) {
    const std::uint32_t arity = name.arity + (keyword == Keyword::does ? 1 : 0);
    program_.tables_.push_back({arity, keyword == Keyword::does ? Phase::step : Phase::position});
    program_.prepared_.push_back(std::make_unique<Table>(arity));
  }
  return entry->second;
}

double Planner::table_rows(TableId table) const {
  const auto& facts = program_.tables_[index_of(table)];
  if (facts.phase != Phase::constant) return guessed_rows;
  return program_.prepared_[index_of(table)]->rows();
}

bool Planner::is_known(const PatternSymbol* first, const PatternSymbol* end) const {
  return std::all_of(first, end, [&](const PatternSymbol& symbol) {
    return symbol.kind != PatternSymbol::Kind::variable || known_[symbol.value];
  });
}

// A table of n columns gives rows^(1 - k/n) rows when k columns are known.
double Planner::expected_rows(const Condition& condition) const {
  double columns = 0;
  double known = 0;
  rules::for_each_argument(condition.pattern, [&](const auto* first, const auto* end) {
    columns += 1;
    if (is_known(first, end)) known += 1;
  });
  if (columns == known) return 0;
  return std::pow(table_rows(condition.table) + 1, 1 - known / columns);
}

Argument Planner::argument(std::uint32_t column, const PatternSymbol* first,
                           const PatternSymbol* end) {
  Argument result{column, static_cast<std::uint32_t>(plan_.symbols.size()), 0};
  for (const PatternSymbol* symbol = first; symbol != end; ++symbol) {
    PlanSymbol out;
    out.arity = symbol->arity;
    switch (symbol->kind) {
      case PatternSymbol::Kind::constant:
        out.kind = PlanSymbol::Kind::constant;
        out.constant = program_.terms().add(symbol->symbol(), {});
        break;
      case PatternSymbol::Kind::function:
        out.kind = PlanSymbol::Kind::function;
        out.symbol = symbol->symbol();
        break;
      case PatternSymbol::Kind::variable:
        out.kind = known_[symbol->value] ? PlanSymbol::Kind::variable : PlanSymbol::Kind::binding;
        out.variable = symbol->value;
        known_[symbol->value] = true;
        break;
    }
    plan_.symbols.push_back(out);
  }
  result.end = static_cast<std::uint32_t>(plan_.symbols.size());
  return result;
}

std::vector<Argument> Planner::all_arguments(const Pattern& pattern) {
  std::vector<Argument> result;
  rules::for_each_argument(pattern, [&](const auto* first, const auto* end) {
    result.push_back(argument(static_cast<std::uint32_t>(result.size()), first, end));
  });
  return result;
}

void Planner::place(Condition& condition, bool only_new) {
  condition.placed = true;
  Step step;
  step.table = condition.table;
  step.only_new = only_new;
  switch (condition.literal->kind) {
    case Literal::Kind::negative:
      step.kind = Step::Kind::absent;
      break;
    case Literal::Kind::distinct:
      step.kind = Step::Kind::distinct;
      break;
    case Literal::Kind::equal:
      step.kind = Step::Kind::equal;
      break;
    case Literal::Kind::positive:
      step.kind = Step::Kind::scan;
      break;
  }
  if (step.kind != Step::Kind::scan) {
    step.key = all_arguments(condition.pattern);
    plan_.steps.push_back(std::move(step));
    return;
  }
  struct Open {
    std::uint32_t column;
    const PatternSymbol* first;
    const PatternSymbol* end;
  };
  std::vector<Open> open;
  std::vector<std::uint32_t> key_columns;
  std::uint32_t column = 0;
  rules::for_each_argument(condition.pattern, [&](const auto* first, const auto* end) {
    if (!only_new && is_known(first, end)) {
      key_columns.push_back(column);
      step.key.push_back(argument(column, first, end));
    } else {
      open.push_back({column, first, end});
    }
    ++column;
  });
  for (const Open& next : open) {
    step.matched.push_back(argument(next.column, next.first, next.end));
  }
  if (!key_columns.empty()) {
    step.index = program_.prepared_[index_of(step.table)]->index_on(key_columns);
  }
  plan_.steps.push_back(std::move(step));
}

void Planner::place_ready_tests(std::vector<Condition>& conditions) {
  for (Condition& condition : conditions) {
    if (condition.placed || condition.literal->kind == Literal::Kind::positive) continue;
    const Pattern& pattern = condition.pattern;
    if (is_known(pattern.data(), pattern.data() + pattern.size())) place(condition, false);
  }
}

void Planner::place_positives_in_order(std::vector<Condition>& conditions) {
  for (Condition& condition : conditions) {
    const bool positive = condition.literal->kind == Literal::Kind::positive;
    if (positive && !condition.placed) place(condition, false);
  }
}

Plan Planner::plan(std::uint32_t clause_number, std::size_t newest) {
  const rules::Clause& clause = program_.description().clauses()[clause_number];
  plan_ = Plan{};
  plan_.clause = clause_number;
  plan_.variables =
      static_cast<std::uint32_t>(program_.description().rules()[clause.rule].variables.size());
  known_.assign(plan_.variables, false);

  std::vector<Condition> conditions;
  for (const Literal& literal : clause.body) {
    Condition condition{&literal, {}, literal.atom.arguments, false};
    if (!literal.is_comparison()) condition.table = table_of(literal.atom, condition.pattern);
    conditions.push_back(std::move(condition));
  }
  if (newest != no_literal) place(conditions[newest], true);
  if (conditions.size() > longest_planned) place_positives_in_order(conditions);
  while (true) {
    place_ready_tests(conditions);
    Condition* best = nullptr;
    double best_rows = 0;
    for (Condition& condition : conditions) {
      if (condition.placed || condition.literal->kind != Literal::Kind::positive) continue;
      const double rows = expected_rows(condition);
      if (best == nullptr || rows < best_rows) {
        best = &condition;
        best_rows = rows;
      }
    }
    if (best == nullptr) break;
    place(*best, false);
  }
  plan_.head = program_.table(clause.head.relation);
  plan_.head_arguments = all_arguments(clause.head.arguments);
  return std::move(plan_);
}

}  // namespace orchard::logic
