#include "logic/planner.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <cmath>

namespace orchard::logic {

using rules::Literal;
using rules::Pattern;
using rules::PatternSymbol;

namespace {

constexpr double guessed_rows = 16;  // of a table that is filled during play, until it is counted
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
    const Phase phase = keyword == Keyword::does ? Phase::step : Phase::position;
    program_.tables_.push_back({arity, phase, true});
    program_.prepared_.push_back(std::make_unique<Table>(arity));
  }
  return entry->second;
}

bool Planner::is_known(const PatternSymbol* first, const PatternSymbol* end) const {
  return std::all_of(first, end, [&](const PatternSymbol& symbol) {
    return symbol.kind != PatternSymbol::Kind::variable || known_[symbol.value];
  });
}

std::vector<std::uint32_t> Planner::known_columns(const Pattern& pattern) const {
  std::vector<std::uint32_t> result;
  std::uint32_t column = 0;
  rules::for_each_argument(pattern, [&](const auto* first, const auto* end) {
    if (is_known(first, end)) result.push_back(column);
    ++column;
  });
  return result;
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
  const std::vector<std::uint32_t> known = known_columns(condition.pattern);
  const std::uint32_t columns = program_.tables_[index_of(condition.table)].arity;
  if (known.size() == columns) return 0;
  const bool meets = std::ranges::any_of(condition.pattern, [&](const PatternSymbol& symbol) {
    return symbol.kind == PatternSymbol::Kind::variable && known_[symbol.value];
  });  // something that is known, but for constants
  const bool constant = program_.tables_[index_of(condition.table)].phase == Phase::constant;
  const std::size_t table = index_of(condition.table);
  const double counted = table < program_.rows_.size() ? program_.rows_[table] : guessed_rows;
  const double rows = constant ? rows_for_a_key(condition.table, known)
                               : std::pow(counted + 1, 1 - static_cast<double>(known.size()) /
                                                               static_cast<double>(columns));
  // What has nothing to do with what is known yet goes round once for each row so far.
  constexpr double apart = 4;
  return plan_.steps.empty() || meets ? rows : rows * apart;
}

Argument Planner::argument(std::uint32_t column, const PatternSymbol* first,
                           const PatternSymbol* end) {
  Argument result;
  result.column = column;
  result.first = static_cast<std::uint32_t>(plan_.symbols.size());
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
  const PlanSymbol& only = plan_.symbols[result.first];
  result.kind = only.kind;
  result.variable = only.variable;
  result.constant = only.constant;
  return result;
}

// Of all columns, or of these.
std::vector<Argument> Planner::arguments(const Pattern& pattern,
                                         const std::vector<std::uint32_t>* columns) {
  std::vector<Argument> result;
  std::uint32_t column = 0;
  rules::for_each_argument(pattern, [&](const auto* first, const auto* end) {
    if (columns == nullptr || std::ranges::binary_search(*columns, column)) {
      result.push_back(argument(column, first, end));
    }
    ++column;
  });
  return result;
}

// Whom the step has to ask before its table is read. A table that answers for values is looked
// up by just these, so that it needs no other index.
void Planner::ask_before(Step& step, const std::vector<std::uint32_t>& known,
                         std::vector<std::uint32_t>& key_columns) {
  const auto component = program_.component_to_ask(step.table);
  if (!component || *component == plan_.component) return;
  step.component = *component;
  const Program::Asked& asked = program_.asked_[index_of(step.table)];
  if (asked.columns.empty() || !std::ranges::includes(known, asked.columns)) return;
  if (step.kind == Step::Kind::scan) key_columns = asked.columns;
  for (const std::uint32_t column : asked.columns) {
    const auto at = std::ranges::find(key_columns, column);
    step.asked_by.push_back(static_cast<std::uint32_t>(at - key_columns.begin()));
  }
}

void Planner::place(Condition& condition, bool only_new) {
  condition.placed = true;
  Step step;
  step.table = condition.table;  // `no_table` for comparisons
  step.only_new = only_new;
  std::vector<std::uint32_t> known = known_columns(condition.pattern);
  switch (condition.kind) {
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
      const bool all = known.size() == program_.tables_[index_of(step.table)].arity;
      step.kind = all && !only_new ? Step::Kind::present : Step::Kind::scan;
      break;
  }
  const bool compares = step.kind == Step::Kind::distinct || step.kind == Step::Kind::equal;
  if (only_new) known.clear();
  std::vector<std::uint32_t> key_columns = known;
  if (!compares) ask_before(step, known, key_columns);
  placed_.push_back({condition.literal, step.table, std::move(known), only_new});
  if (step.kind == Step::Kind::scan) {
    place_scan(step, condition, key_columns);
  } else {
    step.key = arguments(condition.pattern, nullptr);
  }
  step.key_at = plan_.key_cells;
  plan_.key_cells += static_cast<std::uint32_t>(step.key.size());
  plan_.steps.push_back(std::move(step));
}

void Planner::place_scan(Step& step, const Condition& condition,
                         const std::vector<std::uint32_t>& key_columns) {
  step.key = arguments(condition.pattern, &key_columns);  // known, so that nothing is bound
  std::uint32_t column = 0;
  rules::for_each_argument(condition.pattern, [&](const auto* first, const auto* end) {
    if (!std::ranges::binary_search(key_columns, column)) {
      step.matched.push_back(argument(column, first, end));
    }
    ++column;
  });
  if (!key_columns.empty() && !drafting_) {
    step.index = program_.prepared_[index_of(step.table)]->index_on(key_columns);
  }
}

void Planner::place_ready_tests(std::vector<Condition>& conditions) {
  for (Condition& condition : conditions) {
    if (condition.placed || condition.kind == Literal::Kind::positive) continue;
    const Pattern& pattern = condition.pattern;
    if (is_known(pattern.data(), pattern.data() + pattern.size())) place(condition, false);
  }
}

void Planner::place_positives_in_order(std::vector<Condition>& conditions) {
  for (Condition& condition : conditions) {
    const bool positive = condition.kind == Literal::Kind::positive;
    if (positive && !condition.placed) place(condition, false);
  }
}

// The body, and that the head is asked for where it is.
std::vector<Planner::Condition> Planner::conditions_of(const Request& request) {
  const rules::Clause& clause = program_.description().clauses()[request.clause];
  std::vector<Condition> result;
  if (request.asked != nullptr) {
    Condition asked{head_is_asked, Literal::Kind::positive, request.keys, {}, false};
    std::uint32_t column = 0;
    rules::for_each_argument(clause.head.arguments, [&](const auto* first, const auto* end) {
      if (std::ranges::binary_search(*request.asked, column)) {
        asked.pattern.insert(asked.pattern.end(), first, end);
      }
      ++column;
    });
    result.push_back(std::move(asked));
  }
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    if (request.before != nullptr && !std::ranges::count(*request.before, l)) continue;
    const Literal& literal = clause.body[l];
    Condition condition{l, literal.kind, no_table, literal.atom.arguments, false};
    if (!literal.is_comparison()) condition.table = table_of(literal.atom, condition.pattern);
    result.push_back(std::move(condition));
  }
  return result;
}

Plan Planner::plan(const Request& request) {
  const rules::Clause& clause = program_.description().clauses()[request.clause];
  plan_ = Plan{};
  plan_.clause = request.clause;
  plan_.variables =
      static_cast<std::uint32_t>(program_.description().rules()[clause.rule].variables.size());
  known_.assign(plan_.variables, false);
  placed_.clear();
  plan_.component = program_.dependency().component(clause.head.relation);

  std::vector<Condition> conditions = conditions_of(request);
  for (Condition& condition : conditions) {
    if (condition.literal == request.newest) place(condition, true);
  }
  if (conditions.size() > longest_planned) place_positives_in_order(conditions);
  while (true) {
    place_ready_tests(conditions);
    Condition* best = nullptr;
    double best_rows = 0;
    for (Condition& condition : conditions) {
      if (condition.placed || condition.kind != Literal::Kind::positive) continue;
      const double rows = expected_rows(condition);
      if (best == nullptr || rows < best_rows) {
        best = &condition;
        best_rows = rows;
      }
    }
    if (best == nullptr) break;
    place(*best, false);
  }
  if (request.question == no_literal) {
    plan_.head = program_.table(clause.head.relation);
    plan_.head_arguments = arguments(clause.head.arguments, nullptr);
  } else {
    const rules::Atom& asked = clause.body[request.question].atom;
    const Program::Asked& by = program_.asked_[index_of(program_.table(asked.relation))];
    plan_.head = by.keys;
    plan_.head_arguments = arguments(asked.arguments, &by.columns);
  }
  find_ways_back();
  return std::move(plan_);
}

// Which step chose each value, and who uses it; see plan.hpp for what follows from that.
void Planner::find_ways_back() {
  std::vector<std::uint32_t> chosen_by(plan_.variables, nothing);
  std::vector<std::uint32_t> last_use(plan_.variables, 0);
  const auto visit = [&](const std::vector<Argument>& arguments, auto&& see) {
    for (const Argument& argument : arguments) {
      for (std::uint32_t s = argument.first; s < argument.end; ++s) see(plan_.symbols[s]);
    }
  };
  const auto later = [](std::uint32_t a, std::uint32_t b) {  // `nothing` is before every step
    return a == nothing ? b : b == nothing ? a : std::max(a, b);
  };
  for (std::uint32_t at = 0; at < plan_.steps.size(); ++at) {
    Step& step = plan_.steps[at];
    const auto see = [&](const PlanSymbol& symbol) {
      if (symbol.kind == PlanSymbol::Kind::variable) {
        last_use[symbol.variable] = at;
        if (chosen_by[symbol.variable] != at) {
          step.back = later(step.back, chosen_by[symbol.variable]);
        }
      } else if (symbol.kind == PlanSymbol::Kind::binding) {
        chosen_by[symbol.variable] = at;
      }
    };
    visit(step.key, see);
    visit(step.matched, see);
  }
  visit(plan_.head_arguments, [&](const PlanSymbol& symbol) {
    if (symbol.kind != PlanSymbol::Kind::variable) return;
    last_use[symbol.variable] = nothing;
    plan_.last_choice = later(plan_.last_choice, chosen_by[symbol.variable]);
  });
  for (std::uint32_t at = 0; at < plan_.steps.size(); ++at) {
    plan_.steps[at].once = plan_.steps[at].kind == Step::Kind::scan;
  }
  for (std::uint32_t v = 0; v < plan_.variables; ++v) {
    if (chosen_by[v] == nothing) continue;
    if (last_use[v] == nothing || last_use[v] > chosen_by[v]) {
      plan_.steps[chosen_by[v]].once = false;
    }
  }
}

}  // namespace orchard::logic
