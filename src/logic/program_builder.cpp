#include "logic/program_builder.hpp"

#include <algorithm>
#include <numeric>

#include "logic/runner.hpp"
#include "logic/sampled_work.hpp"
#include "syntax/tree.hpp"

namespace orchard::logic {

namespace {

// Questions nest at most as deep as relations rest on one another.
constexpr std::size_t deepest_questions = 200;
// Steps of the plies that show which way of working is the lesser.
constexpr std::uint64_t longest_sample = 200'000;

void keep_common(std::vector<std::uint32_t>& columns, const std::vector<std::uint32_t>& others) {
  std::erase_if(columns, [&](std::uint32_t c) { return !std::ranges::binary_search(others, c); });
}

// A term that a rule builds to ask its own component might grow from question to question.
void drop_nested(std::vector<std::uint32_t>& columns, const rules::Literal& literal) {
  std::uint32_t column = 0;
  rules::for_each_argument(literal.atom.arguments, [&](const auto* first, const auto* end) {
    if (end - first > 1) std::erase(columns, column);
    ++column;
  });
}

bool less_work(const SampledWork& now, const SampledWork& than) {
  if (now.broke_off != than.broke_off) return than.broke_off;
  return now.total * than.plies < than.total * now.plies;
}

// What is asked of every position is worked out as a whole.
bool is_asked_as_a_whole(Keyword keyword) {
  using enum Keyword;
  return keyword == legal || keyword == goal || keyword == next || keyword == sees ||
         keyword == terminal;
}

}  // namespace

void ProgramBuilder::run(Program::Answering answering) {
  make_tables();
  Runner runner(program_);
  const auto components = static_cast<std::uint32_t>(program_.dependency_.components().size());
  for (std::uint32_t c = 0; c < components; ++c) {
    add_component(c);
    if (program_.components_.back().phase != Phase::constant) continue;
    plan_whole(c);
    std::vector<Table*> tables;
    for (const auto& table : program_.prepared_) tables.push_back(table.get());
    runner.start(tables);
    runner.work_out(c);
  }
  read_initial();
  rank_symbols();
  as_a_whole_.assign(components, true);
  program_.answers_when_asked_ = longest_chain() <= deepest_questions;
  plan_play();
  tables_before_keys_ = program_.tables_.size();
  if (!program_.answers_when_asked_ || answering == Program::Answering::as_a_whole) return;
  if (answering == Program::Answering::when_asked) {
    as_a_whole_.assign(components, false);
    return plan_play();
  }
  const Limits limits = program_.limits_;
  program_.limits_.join_steps = std::min(limits.join_steps, longest_sample);
  choose_asked();
  program_.limits_ = limits;
}

// Plans everything that changes during play, anew if it was planned before.
void ProgramBuilder::plan_play() {
  known_.assign(known_.size(), {});
  program_.asked_.assign(program_.asked_.size(), {});
  if (tables_before_keys_ > 0) {  // parts were all made by the first plans, which ask for nothing
    program_.tables_.resize(tables_before_keys_);
    program_.prepared_.resize(tables_before_keys_);
  }
  for (std::size_t t = 0; t < program_.tables_.size(); ++t) {
    const Program::TableFacts& facts = program_.tables_[t];
    // Without the indexes of former plans.
    if (facts.phase != Phase::constant)
      program_.prepared_[t] = std::make_unique<Table>(facts.arity);
  }
  for (Program::Component& component : program_.components_) {
    if (component.phase == Phase::constant) continue;
    component.plans.clear();
    component.recursive.clear();
    component.keys.clear();
    component.asked.clear();
  }
  planner_.set_drafting(true);
  find_asked();
  planner_.set_drafting(false);
  for (std::uint32_t c = 0; c < program_.components_.size(); ++c) {
    if (program_.components_[c].phase == Phase::constant) continue;
    plan_whole(c);
    if (!program_.components_[c].keys.empty()) plan_asked(c);
  }
}

// Little work is not worth planning again.
void ProgramBuilder::choose_asked() {
  constexpr std::uint64_t most_plies = 16;
  constexpr std::uint64_t little_work = 1'000;  // a ply
  const auto try_out = [&](const std::vector<bool>& as_a_whole) {
    as_a_whole_ = as_a_whole;
    plan_play();
    return sample_work(program_, most_plies, longest_sample);
  };
  const std::vector<bool> all = as_a_whole_;
  const std::vector<bool> none(all.size(), false);
  const SampledWork first = sample_work(program_, most_plies, longest_sample);
  if (!first.broke_off && first.total <= little_work * (first.plies + 1)) return;
  if (!first.broke_off) program_.rows_ = first.rows;
  const SampledWork whole = try_out(all);
  const SampledWork asked = try_out(none);
  const SampledWork* least = less_work(asked, whole) ? &asked : &whole;
  std::vector<bool> best = least == &asked ? none : all;
  if (!whole.broke_off && !asked.broke_off) {
    std::vector<bool> some(all.size(), false);
    for (std::size_t c = 0; c < some.size(); ++c) {
      some[c] =
          whole.of_component[c] * (asked.plies + 1) <= asked.of_component[c] * (whole.plies + 1);
    }
    if (less_work(try_out(some), *least)) best = some;
  }
  if (as_a_whole_ != best) {
    as_a_whole_ = best;
    plan_play();
  }
}

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
  program_.asked_.resize(description.relations().size());
  known_.resize(description.relations().size());
}

void ProgramBuilder::add_component(std::uint32_t number) {
  Program::Component component;
  for (const RelationId relation : program_.dependency_.components()[number]) {
    const TableId table = program_.table(relation);
    component.tables.push_back(table);
    component.phase = std::max(component.phase, program_.tables_[index_of(table)].phase);
    for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
      const rules::Clause& written = program_.description_->clauses()[clause];
      if (written.body.empty()) add_fact(written, component);
    }
  }
  program_.components_.push_back(std::move(component));
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

// The conditions of a clause on relations of its own component.
std::vector<std::size_t> ProgramBuilder::own_literals(std::uint32_t clause,
                                                      std::uint32_t component) const {
  std::vector<std::size_t> result;
  const std::vector<rules::Literal>& body = program_.description_->clauses()[clause].body;
  for (std::size_t l = 0; l < body.size(); ++l) {
    if (body[l].kind != rules::Literal::Kind::positive) continue;
    if (program_.dependency_.component(body[l].atom.relation) == component) result.push_back(l);
  }
  return result;
}

void ProgramBuilder::plan_whole(std::uint32_t number) {
  Program::Component& component = program_.components_[number];
  for (const RelationId relation : program_.dependency_.components()[number]) {
    for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
      if (program_.description_->clauses()[clause].body.empty()) continue;
      const std::vector<std::size_t> own = own_literals(clause, number);
      for (const std::size_t literal : own) {
        component.recursive.push_back(planner_.plan({.clause = clause, .newest = literal}));
      }
      if (own.empty()) component.plans.push_back(planner_.plan({.clause = clause}));
    }
  }
}

// How many components that change during play rest on one another at most.
std::size_t ProgramBuilder::longest_chain() const {
  std::vector<std::size_t> length(program_.components_.size(), 0);
  std::size_t longest = 0;
  for (std::size_t c = 0; c < length.size(); ++c) {
    if (program_.components_[c].phase == Phase::constant) continue;
    for (const RelationId relation : program_.dependency_.components()[c]) {
      for (const rules::Dependency::Use& use : program_.dependency_.uses(relation)) {
        const std::uint32_t other = program_.dependency_.component(use.on);
        if (other != c) length[c] = std::max(length[c], length[other]);
      }
    }
    longest = std::max(longest, ++length[c]);
  }
  return longest;
}

void ProgramBuilder::find_asked() {
  for (auto c = static_cast<std::uint32_t>(program_.components_.size()); c-- > 0;) {
    if (program_.components_[c].phase == Phase::constant) continue;
    if (settle_columns(c)) make_key_tables(c);
    note_users(c);
  }
}

// The columns that a component is asked for: those that every user knows and that its own rules
// know when they look at it. False where some relation of it has none.
bool ProgramBuilder::settle_columns(std::uint32_t number) {
  if (as_a_whole_[number]) return false;
  const std::vector<RelationId>& members = program_.dependency_.components()[number];
  for (const RelationId relation : members) {
    Known& known = known_[rules::index_of(relation)];
    // A relation that only its own component uses begins with all columns.
    if (!known.used && members.size() > 1) {
      known.columns.resize(program_.tables_[rules::index_of(relation)].arity);
      std::iota(known.columns.begin(), known.columns.end(), 0u);
    }
    const Keyword keyword = program_.description_->relation(relation).keyword;
    if (known.columns.empty() || is_asked_as_a_whole(keyword)) return false;
  }
  for (bool changed = true; changed;) {
    changed = false;
    for (const RelationId relation : members) {
      for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
        if (own_literals(clause, number).empty()) continue;
        planner_.plan({.clause = clause,
                       .newest = Planner::head_is_asked,
                       .asked = &known_[rules::index_of(relation)].columns});
        for (const Planner::Placed& placed : planner_.placed()) {
          if (placed.newest || placed.literal >= Planner::head_is_asked) continue;
          if (!std::ranges::count(program_.components_[number].tables, placed.table)) continue;
          std::vector<std::uint32_t>& columns = known_[index_of(placed.table)].columns;
          const std::size_t before = columns.size();
          keep_common(columns, placed.known);
          drop_nested(columns, program_.description_->clauses()[clause].body[placed.literal]);
          changed = changed || columns.size() != before;
          if (columns.empty()) return false;
        }
      }
    }
  }
  return true;
}

void ProgramBuilder::make_key_tables(std::uint32_t number) {
  Program::Component& component = program_.components_[number];
  for (const TableId table : component.tables) {
    Program::Asked& asked = program_.asked_[index_of(table)];
    asked.columns = known_[index_of(table)].columns;
    asked.keys = TableId{static_cast<std::uint32_t>(program_.tables_.size())};
    const auto arity = static_cast<std::uint32_t>(asked.columns.size());
    program_.tables_.push_back({arity, program_.tables_[index_of(table)].phase});
    program_.prepared_.push_back(std::make_unique<Table>(arity));
    component.keys.push_back(asked.keys);
  }
}

// What a component knows of others when it is worked out the way it will be.
void ProgramBuilder::note_users(std::uint32_t number) {
  const bool asked = !program_.components_[number].keys.empty();
  if (asked) {
    plan_asked(number);
    program_.components_[number].asked.clear();
    return;
  }
  for (const RelationId relation : program_.dependency_.components()[number]) {
    for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
      if (program_.description_->clauses()[clause].body.empty()) continue;
      const std::vector<std::size_t> own = own_literals(clause, number);
      for (const std::size_t literal : own) {
        planner_.plan({.clause = clause, .newest = literal});
        note(planner_.placed(), number);
      }
      if (!own.empty()) continue;
      planner_.plan({.clause = clause});
      note(planner_.placed(), number);
    }
  }
}

void ProgramBuilder::note(const std::vector<Planner::Placed>& placed, std::uint32_t own) {
  for (const Planner::Placed& use : placed) {
    const auto component = program_.component_to_ask(use.table);
    if (!component || *component == own) continue;
    Known& known = known_[index_of(use.table)];
    if (known.used) {
      keep_common(known.columns, use.known);
    } else {
      known = {true, use.known};
    }
  }
}

// One plan for each condition that may see something new: that the head is asked for, and those
// on the component itself; and for each of the latter one that asks for it.
void ProgramBuilder::plan_asked(std::uint32_t number) {
  Program::Component& component = program_.components_[number];
  component.asks_itself = program_.dependency_.is_recursive(number);
  for (const RelationId relation : program_.dependency_.components()[number]) {
    const Program::Asked& asked = program_.asked_[rules::index_of(relation)];
    for (const std::uint32_t clause : program_.description_->relation(relation).clauses) {
      if (program_.description_->clauses()[clause].body.empty()) continue;
      std::vector<std::size_t> newest = own_literals(clause, number);
      if (!newest.empty()) plan_questions(clause, number);
      newest.push_back(Planner::head_is_asked);
      for (const std::size_t literal : newest) {
        component.asked.push_back(planner_.plan(
            {.clause = clause, .newest = literal, .asked = &asked.columns, .keys = asked.keys}));
        note(planner_.placed(), number);
      }
    }
  }
}

void ProgramBuilder::plan_questions(std::uint32_t clause, std::uint32_t number) {
  const RelationId relation = program_.description_->clauses()[clause].head.relation;
  const Program::Asked& asked = program_.asked_[rules::index_of(relation)];
  Planner::Request request{.clause = clause,
                           .newest = Planner::head_is_asked,
                           .asked = &asked.columns,
                           .keys = asked.keys};
  planner_.plan(request);
  const std::vector<Planner::Placed> order = planner_.placed();
  const std::vector<std::size_t> own = own_literals(clause, number);
  std::vector<std::size_t> before;
  for (const Planner::Placed& placed : order) {
    if (placed.literal == Planner::head_is_asked) continue;
    if (std::ranges::count(own, placed.literal)) {
      request.question = placed.literal;
      request.before = &before;
      std::vector<std::size_t> newest{Planner::head_is_asked};
      for (const std::size_t literal : before) {
        if (std::ranges::count(own, literal)) newest.push_back(literal);
      }
      for (const std::size_t literal : newest) {
        request.newest = literal;
        program_.components_[number].asked.push_back(planner_.plan(request));
        note(planner_.placed(), number);
      }
    }
    before.push_back(placed.literal);
  }
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

}  // namespace orchard::logic
