#include "logic/planner.hpp"

#include <absl/container/flat_hash_set.h>

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

bool Planner::is_known(const PatternSymbol* first, const PatternSymbol* end) const {
  return std::all_of(first, end, [&](const PatternSymbol& symbol) {
    return symbol.kind != PatternSymbol::Kind::variable || known_[symbol.value];
  });
}

// How many rows of a constant table there are for a key on these columns, on average.
double Planner::rows_for_a_key(TableId table, const std::vector<std::uint32_t>& columns) {
  const Table& rows = *program_.prepared_[index_of(table)];
  if (columns.empty() || rows.rows() == 0) return rows.rows();
  const auto [known, is_new] = keys_.try_emplace({index_of(table), columns}, 0);
  if (is_new) {
    absl::flat_hash_set<std::uint32_t> hashes;
    std::vector<TermId> key(columns.size());
    for (std::uint32_t row = 0; row < rows.rows(); ++row) {
      for (std::size_t c = 0; c < columns.size(); ++c) key[c] = rows.row(row)[columns[c]];
      hashes.insert(Table::hash(key.data(), key.size()));
    }
    known->second = hashes.size();
  }
  return static_cast<double>(rows.rows()) / static_cast<double>(known->second);
}

// Constant tables are counted. One of n columns that is filled during play is guessed to give
// rows^(1 - k/n) rows when k columns are known.
double Planner::expected_rows(const Condition& condition) {
  std::uint32_t column = 0;
  std::vector<std::uint32_t> known;
  bool meets = false;  // something that is known, but for constants
  rules::for_each_argument(condition.pattern, [&](const auto* first, const auto* end) {
    if (is_known(first, end)) known.push_back(column);
    meets = meets || std::any_of(first, end, [&](const PatternSymbol& symbol) {
              return symbol.kind == PatternSymbol::Kind::variable && known_[symbol.value];
            });
    ++column;
  });
  if (known.size() == column) return 0;
  const bool constant = program_.tables_[index_of(condition.table)].phase == Phase::constant;
  const double rows = constant ? rows_for_a_key(condition.table, known)
                               : std::pow(guessed_rows + 1, 1 - static_cast<double>(known.size()) /
                                                                    static_cast<double>(column));
  // What has nothing to do with what is known yet goes round once for each row so far.
  constexpr double apart = 4;
  return plan_.steps.empty() || meets ? rows : rows * apart;
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
