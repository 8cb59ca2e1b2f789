#include "ground/instantiate.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "base/interruption.hpp"
#include "syntax/tree.hpp"

namespace orchard::ground {

using rules::Literal;
using rules::no_term;

namespace {

constexpr std::uint32_t not_taken = ~std::uint32_t{0};

bool is_atom(const FlatLiteral& literal) {
  return literal.kind == Literal::Kind::positive || literal.kind == Literal::Kind::negative;
}

}  // namespace

Instantiator::Instantiator(GroundProgram& program, const Limits& limits)
    : program_(program), limits_(limits), schema_(program.schema_), terms_(program.terms()) {
  for (const Predicate& predicate : schema_.predicates()) {
    program_.stores_.emplace_back(predicate.columns);
    asked_.emplace_back(predicate.columns);
  }
  for (std::uint32_t t = 0; t < terms_.size(); ++t) {
    deepest_ = std::max(deepest_, terms_[TermId{t}].depth);
  }
  const std::size_t predicates = schema_.predicates().size();
  program_.atom_of_row_.resize(predicates);
  stamps_.resize(predicates);
  stamps_for_next_.resize(predicates);
  triggers_.resize(predicates);
  place_of_asked_.resize(predicates);
  find_ways_to_ends();
  for (const FlatClause& clause : schema_.clauses()) {
    const auto number = static_cast<std::uint32_t>(facts_.size());
    ClauseFacts facts;
    facts.clause = &clause;
    facts.head = columns_of(clause.head.columns);
    facts.plans.resize(clause.body.size() + 1);
    for (std::uint32_t l = 0; l < clause.body.size(); ++l) {
      const FlatLiteral& literal = clause.body[l];
      facts.body.push_back(columns_of(literal.atom.columns));
      facts.is_static.push_back(is_atom(literal) &&
                                schema_.predicate(literal.atom.predicate).is_static());
      if (literal.kind == Literal::Kind::positive) {
        triggers_[index_of(literal.atom.predicate)].push_back({number, l});
      }
    }
    facts_.push_back(std::move(facts));
  }
}

// `terminal`, and what may give it by itself, predicate by predicate.
void Instantiator::find_ways_to_ends() {
  may_give_end_.assign(schema_.predicates().size(), false);
  for (std::size_t p = 0; p < may_give_end_.size(); ++p) {
    may_give_end_[p] = schema_.predicates()[p].keyword == Keyword::terminal;
  }
  for (bool changed = true; changed;) {
    changed = false;
    for (const FlatClause& clause : schema_.clauses()) {
      if (!may_give_end_[index_of(clause.head.predicate)]) continue;
      for (const FlatLiteral& literal : clause.body) {
        if (literal.kind != Literal::Kind::positive) continue;
        if (may_give_end_[index_of(literal.atom.predicate)]) continue;
        may_give_end_[index_of(literal.atom.predicate)] = true;
        changed = true;
      }
    }
  }
}

std::optional<Diagnostic> Instantiator::run() {
  run_static();
  if (!fault_) run_dynamic();
  if (!fault_) look_at_limits();
  if (!fault_) finish_clauses();
  return std::move(fault_);
}

// What the tables and clauses take, about; O(number of predicates).
std::uint64_t Instantiator::bytes() const {
  std::uint64_t sum =
      program_.clauses_.capacity() * sizeof(GroundClause) +
      (program_.bodies_.capacity() + program_.atoms_.capacity() * 2) * sizeof(AtomId) +
      queue_.capacity() * sizeof(queue_.front());
  for (std::size_t p = 0; p < asked_.size(); ++p) {
    sum += program_.stores_[p].bytes() + asked_[p].bytes();
    sum += (stamps_[p].capacity() + stamps_for_next_[p].capacity() +
            program_.atom_of_row_[p].capacity()) *
           sizeof(std::uint32_t);
  }
  return sum;
}

void Instantiator::look_at_limits() {
  end_if_interrupted();
  // The network that is made of the clauses takes about as much again.
  if (bytes() <= limits_.bytes / 2) return;
  fail(
      0,
      fmt::format("the circuit would take more than the {} MB that it may; the rules are {} so far",
                  limits_.bytes >> 20,
                  counted(program_.clauses_.size(), "clause without variables",
                          "clauses without variables")),
      "make the sizes smaller, split the rule, or raise --circuit-memory");
}

void Instantiator::run_static() {
  std::uint32_t last = 0;
  for (const Predicate& predicate : schema_.predicates())
    last = std::max(last, predicate.component);
  std::vector<std::vector<std::uint32_t>> by_component(last + 1);
  for (std::uint32_t c = 0; c < facts_.size(); ++c) {
    const Predicate& head = schema_.predicate(facts_[c].clause->head.predicate);
    if (head.is_static()) by_component[head.component].push_back(c);
  }
  for (component_ = 0; component_ <= last && !fault_; ++component_) {
    for (const std::uint32_t c : by_component[component_]) {
      fire(facts_[c], facts_[c].clause->body.size(), {}, 0);
    }
    for (; taken_ < queue_.size() && !fault_; ++taken_) {
      take_up(queue_[taken_].first, queue_[taken_].second);
    }
  }
}

void Instantiator::run_dynamic() {
  dynamic_ = true;
  for (std::size_t p = 0; p < schema_.predicates().size(); ++p) {
    const Predicate& predicate = schema_.predicates()[p];
    if (predicate.keyword != Keyword::init || !predicate.feeds) continue;
    for (std::uint32_t r = 0; r < program_.stores_[p].rows(); ++r) {
      const auto row = program_.stores_[p].row(r);
      add_row(*predicate.feeds, std::vector<TermId>(row.begin(), row.end()));
    }
  }
  for (ClauseFacts& facts : facts_) {
    const FlatClause& clause = *facts.clause;
    const bool waits = std::ranges::any_of(clause.body, [&](const FlatLiteral& literal) {
      return literal.kind == Literal::Kind::positive &&
             !schema_.predicate(literal.atom.predicate).is_static();
    });
    if (!schema_.predicate(clause.head.predicate).is_static() && !waits) {
      fire(facts, clause.body.size(), {}, 0);
    }
  }
  taken_for_next_ = taken_;
  while (!fault_) {
    if (taken_ < queue_.size()) {
      take_up(queue_[taken_].first, queue_[taken_].second);
      ++taken_;
    } else if (taken_for_next_ < queue_.size()) {
      take_up_for_next(queue_[taken_for_next_].first, queue_[taken_for_next_].second);
      ++taken_for_next_;
    } else {
      return;
    }
  }
}

// Joins a new row with all before it through every clause that asks for its predicate.
void Instantiator::take_up(PredicateId predicate, std::uint32_t row) {
  stamps_[index_of(predicate)][row] = ++now_;
  for (const Trigger& trigger : triggers_[index_of(predicate)]) {
    ClauseFacts& facts = facts_[trigger.clause];
    const Predicate& head = schema_.predicate(facts.clause->head.predicate);
    const bool in_turn = dynamic_ ? !head.is_static() && !is_for_next(head)
                                  : head.is_static() && head.component == component_ &&
                                        schema_.predicate(predicate).component == component_;
    if (in_turn) fire(facts, trigger.literal, predicate, row);
    if (fault_) return;
  }
}

// The same through rules for `next`, once everything else that the rows give is known.
void Instantiator::take_up_for_next(PredicateId predicate, std::uint32_t row) {
  for_next_ = true;
  stamps_for_next_[index_of(predicate)][row] = ++now_;
  for (const Trigger& trigger : triggers_[index_of(predicate)]) {
    ClauseFacts& facts = facts_[trigger.clause];
    const Predicate& head = schema_.predicate(facts.clause->head.predicate);
    if (!head.is_static() && is_for_next(head)) fire(facts, trigger.literal, predicate, row);
    if (fault_) return;
  }
  for_next_ = false;
}

// `trigger`: the literal that the row stands for, or the number of literals if there is none.
void Instantiator::fire(ClauseFacts& facts, std::size_t trigger, PredicateId predicate,
                        std::uint32_t row) {
  const FlatClause& clause = *facts.clause;
  Plan& plan = facts.plans[trigger];
  constexpr std::size_t growth = 4;  // tables that have grown so much may want another order
  if (plan.made_at == 0 || queue_.size() > plan.made_at * growth) make_plan(facts, trigger, plan);
  bindings_.assign(clause.variables, no_term);
  chosen_.assign(clause.body.size(), 0);
  trail_.clear();
  if (trigger < clause.body.size()) {
    chosen_[trigger] = row;
    if (!match_row(facts, trigger, program_.stores_[index_of(predicate)].row(row))) return;
  }
  join(facts, plan, trigger);
  store_instances();
}

void Instantiator::join(ClauseFacts& facts, const Plan& plan, std::size_t trigger) {
  frames_.resize(std::max(frames_.size(), plan.steps.size() + 1));
  std::size_t depth = 0;
  enter(facts, plan, 0);
  while (!fault_) {
    if (depth == plan.steps.size()) {
      emit(facts);
    } else if (advance(facts, plan, depth, trigger)) {
      enter(facts, plan, ++depth);
      continue;
    }
    if (depth == 0) return;
    --depth;
  }
}

void Instantiator::enter(const ClauseFacts& facts, const Plan& plan, std::size_t depth) {
  Frame& frame = frames_[depth];
  frame = {0, 0, trail_.size()};
  if (depth == plan.steps.size()) return;
  const Step& step = plan.steps[depth];
  const FlatAtom& atom = facts.clause->body[step.literal].atom;
  if (step.checks) {
    frame.rows = 1;  // one try
    return;
  }
  const FactStore& store = program_.stores_[index_of(atom.predicate)];
  if (step.key.empty()) {
    frame.rows = store.rows();
    return;
  }
  row_.clear();
  for (const std::uint32_t c : step.key) {
    row_.push_back(build_column(atom, facts.body[step.literal][c], false));
    if (row_.back() == no_term) return;  // a term that is nowhere yet
  }
  frame.next = store.first_with(step.index, row_);
  frame.rows = frame.next == FactStore::no_row ? 0 : FactStore::no_row;
}

// The next candidate of a step that fits; binds the variables of its literal.
bool Instantiator::advance(const ClauseFacts& facts, const Plan& plan, std::size_t depth,
                           std::size_t trigger) {
  Frame& frame = frames_[depth];
  const Step& step = plan.steps[depth];
  const FlatLiteral& literal = facts.clause->body[step.literal];
  const FactStore& store = program_.stores_[index_of(literal.atom.predicate)];
  undo(frame.trail);
  while (frame.next < frame.rows) {
    constexpr std::uint64_t between_looks = 1 << 14;
    if (++join_steps_ % between_looks == 0) {
      look_at_limits();
      if (fault_) return false;
    }
    const std::uint32_t row = frame.next;
    frame.next = step.checks || step.key.empty() ? row + 1 : store.next_with(step.index, row);
    if (step.checks) {
      if (literal.kind != Literal::Kind::positive) {
        return holds(literal, facts.body[step.literal]);
      }
      if (!build_row(literal.atom, facts.body[step.literal], false)) return false;
      const auto found = store.find(row_);
      chosen_[step.literal] = found;
      return found != FactStore::no_row && may_use(facts, found, step.literal, trigger);
    }
    if (!may_use(facts, row, step.literal, trigger)) continue;
    chosen_[step.literal] = row;
    if (match_row(facts, step.literal, store.row(row))) return true;
    undo(frame.trail);
  }
  return false;
}

// Rows that are not taken up yet come later; of two literals that the row being taken up fits, the
// instance is made with the first one as its trigger.
bool Instantiator::may_use(const ClauseFacts& facts, std::uint32_t row, std::size_t literal,
                           std::size_t trigger) const {
  // What never changes was all taken up before.
  const std::size_t predicate = index_of(facts.clause->body[literal].atom.predicate);
  const bool by_next = for_next_ && !facts.is_static[literal];
  const std::uint32_t stamp = (by_next ? stamps_for_next_ : stamps_)[predicate][row];
  return literal < trigger && trigger < chosen_.size() ? stamp < now_ : stamp <= now_;
}

bool Instantiator::holds(const FlatLiteral& literal, const Columns& columns) {
  if (literal.kind == Literal::Kind::negative) {
    if (!build_row(literal.atom, columns, false)) return true;
    return program_.stores_[index_of(literal.atom.predicate)].find(row_) == FactStore::no_row;
  }
  const Pattern& terms = literal.atom.columns;
  const bool same = build(terms, 0, true) == build(terms, terms.front().size, true);
  return same == (literal.kind == Literal::Kind::equal);
}

void Instantiator::undo(std::size_t trail) {
  while (trail_.size() > trail) {
    bindings_[trail_.back()] = no_term;
    trail_.pop_back();
  }
}

// An instance of the clause under the bindings.
void Instantiator::emit(ClauseFacts& facts) {
  const FlatClause& clause = *facts.clause;
  if (for_next_ && only_ends(clause)) return;
  ++facts.instances;
  build_row(clause.head, facts.head, true);
  if (deepest_ > limits_.deep) {
    std::uint32_t depth = 0;
    for (const TermId term : row_) depth = std::max(depth, terms_[term].depth);
    if (depth > limits_.deep && ++deep_clauses_ > limits_.deep_clauses) {
      return fail(clause.clause, "the state grows from ply to ply, in terms that nest ever deeper",
                  "keep the state from growing");
    }
    if (depth > limits_.term_depth) {
      return fail(clause.clause, fmt::format("terms grow deeper than {}", limits_.term_depth),
                  "keep the state from growing, or raise --term-depth");
    }
  }
  pending_.push_back({clause.head.predicate, static_cast<std::uint32_t>(program_.clauses_.size()),
                      pending_cells_.size()});
  pending_cells_.insert(pending_cells_.end(), row_.begin(), row_.end());
  if (dynamic_) emit_body(facts);
}

void Instantiator::emit_body(const ClauseFacts& facts) {
  const FlatClause& clause = *facts.clause;
  GroundClause kept;
  kept.clause = clause.clause;
  kept.first = program_.bodies_.size();
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    const FlatLiteral& literal = clause.body[l];
    if (literal.kind != Literal::Kind::positive || facts.is_static[l]) continue;
    program_.bodies_.push_back(program_.atom_of_row_[index_of(literal.atom.predicate)][chosen_[l]]);
    ++kept.positive;
  }
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    const FlatLiteral& literal = clause.body[l];
    if (literal.kind != Literal::Kind::negative || facts.is_static[l]) continue;
    build_row(literal.atom, facts.body[l], true);
    program_.bodies_.push_back(asked(literal.atom.predicate));
    ++kept.negative;
  }
  program_.clauses_.push_back(kept);
}

// The row being built as what a negative condition asks for.
AtomId Instantiator::asked(PredicateId predicate) {
  const std::size_t p = index_of(predicate);
  const auto [row, is_new] = asked_[p].insert(row_);
  if (is_new) {
    place_of_asked_[p].push_back(static_cast<std::uint32_t>(all_asked_.size()));
    all_asked_.push_back({predicate, row});
  }
  return AtomId{is_asked | place_of_asked_[p][row]};
}

void Instantiator::store_instances() {
  for (std::size_t i = 0; i < pending_.size(); ++i) {
    const Instance& instance = pending_[i];
    const std::size_t columns = schema_.predicate(instance.predicate).columns;
    const std::span<const TermId> cells =
        std::span(pending_cells_).subspan(instance.cells, columns);
    const std::uint32_t rows = program_.stores_[index_of(instance.predicate)].rows();
    const std::uint32_t row = add_row(instance.predicate, cells);
    if (!dynamic_) continue;
    GroundClause& kept = program_.clauses_[instance.clause];
    kept.head = program_.atom_of_row_[index_of(instance.predicate)][row];
    const Predicate& predicate = schema_.predicate(instance.predicate);
    const bool is_new = row == rows;
    if (kept.positive == 1 && kept.negative == 0 && !for_next_ &&
        may_give_end_[index_of(instance.predicate)]) {
      ends_.add(program_.bodies_[kept.first], kept.head, predicate.keyword == Keyword::terminal);
    }
    if (is_new && limits_.foreseen != nullptr && !is_foreseen(predicate, cells)) {
      program_.never_.push_back(kept.head);
    } else if (is_new && limits_.guided && !is_declared(predicate, cells)) {
      (predicate.keyword == Keyword::next ? program_.undeclared_next_ : program_.undeclared_legal_)
          .push_back(kept.head);
    } else if (is_new && predicate.feeds) {
      add_row(*predicate.feeds, cells);
    }
  }
  pending_.clear();
  pending_cells_.clear();
}

bool Instantiator::is_for_next(const Predicate& head) const {
  return program_.description().relation(head.relation).keyword == Keyword::next;
}

// Whether a condition of the instance being made holds at ends only.
bool Instantiator::only_ends(const FlatClause& clause) const {
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    const FlatLiteral& literal = clause.body[l];
    if (literal.kind != Literal::Kind::positive) continue;
    if (schema_.predicate(literal.atom.predicate).is_static()) continue;
    const AtomId atom = program_.atom_of_row_[index_of(literal.atom.predicate)][chosen_[l]];
    if (ends_.contains(atom)) return true;
  }
  return false;
}

// By what is known of play.
bool Instantiator::is_foreseen(const Predicate& predicate, std::span<const TermId> row) const {
  if (predicate.keyword != Keyword::next && predicate.keyword != Keyword::legal) return true;
  const TermId name = terms_.find(predicate.name, row.last(predicate.name_arity));
  if (predicate.keyword == Keyword::next) return limits_.foreseen->fluents.contains(name);
  return limits_.foreseen->moves.contains({row.front(), name});
}

// By the instances of base and input, which never change and so are known by now.
bool Instantiator::is_declared(const Predicate& predicate, std::span<const TermId> row) const {
  const bool fluent = predicate.keyword == Keyword::next;
  if (!fluent && predicate.keyword != Keyword::legal) return true;
  const Keyword by = fluent ? Keyword::base : Keyword::input;
  std::vector<TermId> declared(row.begin(), row.end() - predicate.name_arity);
  declared.push_back(terms_.find(predicate.name, row.last(predicate.name_arity)));
  bool any = false;
  for (std::size_t p = 0; p < schema_.predicates().size(); ++p) {
    if (schema_.predicates()[p].keyword != by) continue;
    any = true;
    if (program_.stores_[p].find(declared) != FactStore::no_row) return true;
  }
  return !any;  // a description with neither of them is not guided
}

std::uint32_t Instantiator::add_row(PredicateId predicate, std::span<const TermId> row) {
  const std::size_t p = index_of(predicate);
  const auto [number, is_new] = program_.stores_[p].insert(row);
  if (!is_new) return number;
  stamps_[p].push_back(not_taken);
  stamps_for_next_[p].push_back(not_taken);
  queue_.emplace_back(predicate, number);
  if (schema_.predicates()[p].is_static()) return number;
  program_.atom_of_row_[p].push_back(AtomId{static_cast<std::uint32_t>(program_.atoms_.size())});
  program_.atoms_.push_back({predicate, number});
  return number;
}

}  // namespace orchard::ground
