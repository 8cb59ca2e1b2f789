#include "explain/explainer.hpp"

#include <algorithm>

namespace orchard::explain {

using rules::Keyword;
using rules::Literal;
using Kind = Reason::Kind;

namespace {
constexpr std::size_t steps_of_an_attempt = 20'000;
constexpr std::size_t most_attempts = 3;  // below the question itself, unless all are asked for
}  // namespace

bool Explainer::run(const Question& question, Explanation& begun) {
  const auto relation =
      *description_.find(question.atom.name(), static_cast<std::uint32_t>(question.atom.arity()));
  Atom atom{relation, {}};
  for (const Term& argument : question.atom.arguments()) {
    atom.row.push_back(argument.is_ground() ? facts_.program().terms().add(argument)
                                            : rules::no_term);
  }
  Reason reason;
  reason.atom = question.atom;
  reason.negated = question.negated;
  const bool ground = question.atom.is_ground();
  // A variable stands for anything: the first row that fits is taken.
  const auto rows = facts_.matching(relation, atom.row);
  const bool found = !rows.empty();
  if (found) {
    const TermId* row = facts_.row(relation, rows.front());
    atom.row.assign(row, row + atom.row.size());
  }
  if (found && !ground) {
    std::vector<Term> arguments;
    for (const TermId id : atom.row) arguments.push_back(facts_.program().terms().term(id));
    reason.atom = Term::function(question.atom.name(), arguments);
  }
  reason.holds = found != question.negated;
  reason.kind = found ? Kind::rule : Kind::attempts;
  const std::size_t first = begun.reasons.size();
  begun.holds = reason.holds;
  begun.reasons.push_back(std::move(reason));
  tasks_.push_back({first, std::move(atom), 0});
  bool complete = true;
  while (!tasks_.empty() && complete) {
    const Task task = std::move(tasks_.front());
    tasks_.pop_front();
    complete = take_apart(task, begun);
  }
  return complete;
}

bool Explainer::take_apart(const Task& task, Explanation& result) {
  const Keyword keyword = description_.relation(task.atom.relation).keyword;
  if (keyword == Keyword::true_ || keyword == Keyword::does) {
    result.reasons[task.reason].kind = keyword == Keyword::true_ ? Kind::fluent : Kind::move;
    return true;
  }
  const auto [known, is_new] = taken_apart_.try_emplace(task.atom, task.reason);
  if (!is_new) {
    const Reason& before = result.reasons[known->second];
    if (!before.conditions.empty()) result.reasons[task.reason].kind = Kind::repeated;
    if (before.conditions.empty()) {
      Reason& now = result.reasons[task.reason];
      now.kind = before.kind;
      now.place = before.place;
      now.clause = before.clause;
      now.bindings = before.bindings;
    }
    return true;
  }
  const bool holds = result.reasons[task.reason].holds != result.reasons[task.reason].negated;
  if (holds) return prove(task, result);
  attempt(task, result);
  return true;
}

void Explainer::describe_clause(std::uint32_t clause, const Bindings& bindings,
                                Reason& reason) const {
  const rules::Clause& of = description_.clauses()[clause];
  const rules::Rule& rule = description_.rules()[of.rule];
  reason.clause = clause;
  reason.place = description_.place(rule.node);
  for (std::size_t v = 0; v < bindings.size(); ++v) {
    if (bindings[v] == rules::no_term) continue;
    reason.bindings.emplace_back(std::string(rule.variables[v]),
                                 facts_.program().terms().term(bindings[v]));
  }
}

// The atom of a condition, to be taken apart later.
std::size_t Explainer::add_condition(const Literal& literal, const Bindings& bindings,
                                     std::uint32_t rule, bool holds, std::size_t depth,
                                     bool in_proof, Explanation& result) {
  Reason reason;
  reason.atom = instance(description_, literal, bindings, rule);
  reason.negated = literal.kind == Literal::Kind::negative || literal.kind == Literal::Kind::equal;
  reason.holds = holds;
  reason.place = place_of(literal);
  const std::size_t number = result.reasons.size();
  if (literal.is_comparison()) {
    reason.kind = Kind::comparison;
    result.reasons.push_back(std::move(reason));
    return number;
  }
  const bool positive = literal.kind == Literal::Kind::positive;
  // Proofs go down to the leaves; below attempts only what is missing is taken apart.
  const bool constant = facts_.program().tables()[rules::index_of(literal.atom.relation)].phase ==
                        rules::Phase::constant;
  const bool deeper =
      in_proof ? positive : !holds && depth < options_.depth && (!constant || options_.in_full);
  if (in_proof && !positive) {
    reason.kind = Kind::absent;
  } else if (!deeper) {
    const Keyword keyword = description_.relation(literal.atom.relation).keyword;
    reason.kind = keyword == Keyword::true_  ? Kind::fluent
                  : keyword == Keyword::does ? Kind::move
                  : positive || !holds       ? Kind::open
                                             : Kind::absent;
  } else {
    Atom atom{literal.atom.relation, {}};
    rules::for_each_argument(literal.atom.arguments, [&](const rules::PatternSymbol* first,
                                                         const rules::PatternSymbol* end) {
      const Term term = instance(description_, first, end, bindings, rule);
      atom.row.push_back(term.is_ground() ? facts_.program().terms().add(term) : rules::no_term);
    });
    tasks_.push_back({number, std::move(atom), depth});
  }
  result.reasons.push_back(std::move(reason));
  return number;
}

bool Explainer::prove(const Task& task, Explanation& result) {
  if (!proofs_.prove(task.atom)) return false;
  const ProofGraph::Step* step = proofs_.step(task.atom);
  if (step == nullptr) {
    // What never changes; where it is stated outright, its place is told.
    result.reasons[task.reason].kind = Kind::always;
    for (const std::uint32_t clause : description_.relation(task.atom.relation).clauses) {
      ClauseSearch search(facts_, clause);
      if (!search.clause().body.empty() || !search.begin(task.atom.row)) continue;
      result.reasons[task.reason].kind = Kind::stated;
      describe_clause(clause, {}, result.reasons[task.reason]);
      break;
    }
    return true;
  }
  const rules::Clause& clause = description_.clauses()[step->clause];
  describe_clause(step->clause, step->bindings, result.reasons[task.reason]);
  result.reasons[task.reason].kind = clause.body.empty() ? Kind::stated : Kind::rule;
  std::vector<std::size_t> conditions;
  for (const Literal& literal : clause.body) {
    conditions.push_back(
        add_condition(literal, step->bindings, clause.rule, true, task.depth, true, result));
  }
  result.reasons[task.reason].conditions = std::move(conditions);
  return true;
}

void Explainer::attempt(const Task& task, Explanation& result) {
  struct Try {
    std::uint32_t clause;
    ClauseSearch::Nearest nearest;
  };
  std::vector<Try> tries;
  for (const std::uint32_t clause : description_.relation(task.atom.relation).clauses) {
    ClauseSearch search(facts_, clause);
    if (!search.begin(task.atom.row)) continue;
    tries.push_back({clause, search.nearest(steps_of_an_attempt)});
  }
  std::ranges::stable_sort(
      tries, [](const Try& a, const Try& b) { return a.nearest.missing < b.nearest.missing; });
  // Clauses that ask for what can never be are left out, but for those that are asked about.
  const bool asked = task.depth == 0;
  std::erase_if(tries, [&](const Try& next) {
    return next.nearest.missing >= ClauseSearch::never && !(asked && options_.in_full);
  });
  if (tries.empty()) {
    result.reasons[task.reason].kind = Kind::no_rule;
    return;
  }
  result.reasons[task.reason].kind = Kind::attempts;
  if (!asked && !options_.in_full) {
    std::size_t kept = 1;
    while (kept < std::min(tries.size(), most_attempts) &&
           tries[kept].nearest.missing == tries.front().nearest.missing) {
      ++kept;
    }
    result.reasons[task.reason].left_out = tries.size() - kept;
    tries.resize(kept);
  }
  std::vector<std::size_t> attempts;
  for (const Try& next : tries) {
    const rules::Clause& clause = description_.clauses()[next.clause];
    Reason reason;
    reason.kind = Kind::attempt;
    reason.holds = false;
    Literal head;
    head.atom = clause.head;
    reason.atom = instance(description_, head, next.nearest.bindings, clause.rule);
    describe_clause(next.clause, next.nearest.bindings, reason);
    const std::size_t number = result.reasons.size();
    attempts.push_back(number);
    result.reasons.push_back(std::move(reason));
    std::vector<std::size_t> conditions;
    for (std::size_t i = 0; i < clause.body.size(); ++i) {
      conditions.push_back(add_condition(clause.body[i], next.nearest.bindings, clause.rule,
                                         next.nearest.holds[i], task.depth + 1, false, result));
    }
    result.reasons[number].conditions = std::move(conditions);
  }
  result.reasons[task.reason].conditions = std::move(attempts);
}

}  // namespace orchard::explain
