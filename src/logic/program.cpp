#include "logic/program.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <numeric>

#include "logic/planner.hpp"
#include "logic/runner.hpp"
#include "syntax/tree.hpp"

namespace orchard::logic {

class ProgramBuilder {
 public:
  explicit ProgramBuilder(Program& program) : program_(program), planner_(program) {}

  void run() {
    make_tables();
    Runner runner(program_);
    for (std::uint32_t c = 0; c < program_.dependency_.components().size(); ++c) {
      add_component(c);
      if (program_.components_.back().phase != Phase::constant) continue;
      std::vector<Table*> tables;
      for (const auto& table : program_.prepared_) tables.push_back(table.get());
      runner.run(program_.components_.back(), tables);
    }
    read_initial();
    rank_symbols();
  }

 private:
  void make_tables();
  void add_component(std::uint32_t number);
  void add_clause(std::uint32_t clause, std::uint32_t component, Program::Component& result);
  void add_fact(const rules::Clause& clause, Program::Component& result);
  void read_initial();
  void rank_symbols();

  Program& program_;
  Planner planner_;
};

void ProgramBuilder::make_tables() {
  const rules::Description& description = *program_.description_;
  using enum Keyword;
  std::vector<RelationId> asked;
  for (const Keyword keyword : {role, init, legal, terminal, goal, next, sees}) {
    if (const auto relation = description.find(keyword)) asked.push_back(*relation);
  }
  const std::vector<bool> needed = program_.dependency_.cone(asked);
  for (std::size_t r = 0; r < description.relations().size(); ++r) {
    const auto relation = RelationId{static_cast<std::uint32_t>(r)};
    Phase phase = program_.dependency_.phase(relation);
    if (phase == Phase::constant && !needed[r]) phase = Phase::position;  // only when asked for
    const std::uint32_t arity = description.relations()[r].arity;
    program_.tables_.push_back({arity, phase});
    program_.prepared_.push_back(std::make_unique<Table>(arity));
  }
}

void ProgramBuilder::add_component(std::uint32_t number) {
  Program::Component component;
  component.phase = Phase::constant;
  for (const RelationId relation : program_.dependency_.components()[number]) {
    const TableId table = program_.table(relation);
    component.tables.push_back(table);
    component.phase = std::max(component.phase, program_.tables_[index_of(table)].phase);
  }
  for (const RelationId relation : program_.dependency_.components()[number]) {
    for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
      add_clause(clause, number, component);
    }
  }
  program_.components_.push_back(std::move(component));
}

void ProgramBuilder::add_clause(std::uint32_t number, std::uint32_t component,
                                Program::Component& result) {
  const rules::Clause& clause = program_.description_->clauses()[number];
  if (clause.body.empty()) return add_fact(clause, result);
  bool recursive = false;
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    const rules::Literal& literal = clause.body[l];
    if (literal.kind != rules::Literal::Kind::positive) continue;
    if (program_.dependency_.component(literal.atom.relation) != component) continue;
    recursive = true;
    result.recursive.push_back(planner_.plan(number, l));
  }
  if (!recursive) result.plans.push_back(planner_.plan(number));
}

void ProgramBuilder::add_fact(const rules::Clause& clause, Program::Component& result) {
  const TableId table = program_.table(clause.head.relation);
  if (result.facts.empty() || result.facts.back().first != table) {
    result.facts.push_back({table, {}});
  }
  std::vector<TermId>& rows = result.facts.back().second;
  std::vector<TermId> stack;
  const rules::Pattern& pattern = clause.head.arguments;
  for (std::size_t at = pattern.size(); at-- > 0;) {
    std::vector<TermId> arguments(stack.end() - pattern[at].arity, stack.end());
    std::ranges::reverse(arguments);
    stack.resize(stack.size() - pattern[at].arity);
    stack.push_back(program_.terms().add(pattern[at].symbol(), arguments));
  }
  rows.insert(rows.end(), stack.rbegin(), stack.rend());
}

void ProgramBuilder::read_initial() {
  const auto relation = program_.description_->find(Keyword::init);
  if (!relation) return;
  const Table& table = *program_.prepared_[index_of(program_.table(*relation))];
  for (std::uint32_t row = 0; row < table.rows(); ++row) {
    program_.initial_.push_back(*table.row(row));
  }
  std::ranges::sort(program_.initial_);
}

void ProgramBuilder::rank_symbols() {
  const rules::TermTable& terms = program_.terms();
  std::vector<std::uint32_t> order(terms.symbol_count());
  std::iota(order.begin(), order.end(), 0u);
  std::ranges::sort(order, [&](std::uint32_t a, std::uint32_t b) {
    return compare_names(terms.name(SymbolId{a}), terms.name(SymbolId{b})) < 0;
  });
  program_.symbol_rank_.resize(order.size());
  for (std::uint32_t rank = 0; rank < order.size(); ++rank) {
    program_.symbol_rank_[order[rank]] = rank;
  }
}

Result<std::shared_ptr<const Program>> Program::make(
    std::shared_ptr<const rules::Description> description, const Limits& limits) {
  std::shared_ptr<Program> program(new Program(std::move(description), limits));
  try {
    ProgramBuilder(*program).run();
  } catch (const LimitExceeded& limit) {
    const rules::Clause& clause = program->description_->clauses()[limit.clause()];
    return syntax::error_at(program->description_->tree(), clause.head.node, "too-large",
                            std::string(limit.what()) + ", reached by this rule",
                            "narrow what its variables range over");
  }
  return std::shared_ptr<const Program>(std::move(program));
}

std::vector<std::uint32_t> Program::needs(RelationId relation) const {
  const std::vector<bool> cone = dependency_.cone(std::array{relation});
  std::vector<std::uint32_t> result;
  for (std::uint32_t c = 0; c < components_.size(); ++c) {
    const bool inside = cone[index_of(components_[c].tables.front())];
    if (inside && components_[c].phase != Phase::constant) result.push_back(c);
  }
  return result;
}

std::strong_ordering Program::compare(TermId a, TermId b) const {
  const rules::TermTable::Entry& left = terms()[a];
  const rules::TermTable::Entry& right = terms()[b];
  if (left.depth > 1 || right.depth > 1) return terms().compare(a, b);
  const auto compare_symbols = [&](SymbolId x, SymbolId y) -> std::strong_ordering {
    const auto i = static_cast<std::uint32_t>(x);
    const auto j = static_cast<std::uint32_t>(y);
    if (i == j) return std::strong_ordering::equal;
    if (i < symbol_rank_.size() && j < symbol_rank_.size()) {
      return symbol_rank_[i] <=> symbol_rank_[j];
    }
    return compare_names(terms().name(x), terms().name(y));
  };
  if (const auto order = compare_symbols(left.symbol, right.symbol); order != 0) return order;
  if (left.arity != right.arity) return left.arity <=> right.arity;
  for (std::uint32_t i = 0; i < left.arity; ++i) {
    const auto order =
        compare_symbols(terms()[left.arguments[i]].symbol, terms()[right.arguments[i]].symbol);
    if (order != 0) return order;
  }
  return std::strong_ordering::equal;
}

}  // namespace orchard::logic
