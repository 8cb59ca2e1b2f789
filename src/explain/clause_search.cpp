#include "explain/clause_search.hpp"

#include <algorithm>

namespace orchard::explain {

using rules::Literal;
using rules::PatternSymbol;

Term instance(const rules::Description& description, const PatternSymbol* first,
              const PatternSymbol* end, const Bindings& bindings, std::uint32_t rule) {
  std::vector<Term::Symbol> symbols;
  for (const PatternSymbol* at = first; at != end; ++at) {
    if (at->kind != PatternSymbol::Kind::variable) {
      symbols.push_back({description.terms().name(at->symbol()), at->arity, 1});
      continue;
    }
    if (at->value >= bindings.size() || bindings[at->value] == rules::no_term) {
      symbols.push_back({std::string(description.rules()[rule].variables[at->value]), 0, 1});
      continue;
    }
    for (const Term::Symbol& symbol : description.terms().term(bindings[at->value]).symbols()) {
      symbols.push_back(symbol);
    }
  }
  syntax::assign_sizes(symbols);
  return Term::from_symbols(std::move(symbols));
}

Term instance(const rules::Description& description, const Literal& literal,
              const Bindings& bindings, std::uint32_t rule) {
  std::vector<Term> arguments;
  rules::for_each_argument(literal.atom.arguments,
                           [&](const PatternSymbol* first, const PatternSymbol* end) {
                             arguments.push_back(instance(description, first, end, bindings, rule));
                           });
  if (literal.is_comparison()) return Term::function("distinct", arguments);
  const std::string& name =
      description.terms().name(description.relation(literal.atom.relation).name);
  return arguments.empty() ? Term::constant(name) : Term::function(name, arguments);
}

ClauseSearch::ClauseSearch(Facts& facts, std::uint32_t clause)
    : facts_(facts),
      description_(facts.program().description()),
      clause_(description_.clauses()[clause]) {}

bool ClauseSearch::begin(std::span<const TermId> head) {
  bindings_.assign(description_.rules()[clause_.rule].variables.size(), rules::no_term);
  trail_.clear();
  done_.assign(clause_.body.size(), false);
  missed_.assign(clause_.body.size(), false);
  std::size_t argument = 0;
  bool fits = true;
  rules::for_each_argument(clause_.head.arguments,
                           [&](const PatternSymbol* first, const PatternSymbol* end) {
                             const TermId id = head[argument++];
                             if (id != rules::no_term) fits = fits && match(first, end, id);
                           });
  return fits;
}

// From the last symbol to the first, so that a function finds its arguments on top.
TermId ClauseSearch::value(const PatternSymbol* first, const PatternSymbol* end,
                           const Bindings& bindings) const {
  std::vector<TermId> stack;
  for (const PatternSymbol* at = end; at-- != first;) {
    TermId id = rules::no_term;
    if (at->kind == PatternSymbol::Kind::variable) {
      id = bindings[at->value];
    } else {
      std::vector<TermId> inner(stack.rbegin(), stack.rbegin() + at->arity);
      stack.resize(stack.size() - at->arity);
      if (std::ranges::find(inner, rules::no_term) == inner.end()) {
        id = facts_.program().terms().find(at->symbol(), inner);
      }
    }
    stack.push_back(id);
  }
  return stack.back();
}

bool ClauseSearch::is_ground(const rules::Pattern& pattern, const Bindings& bindings) const {
  return std::ranges::all_of(pattern, [&](const PatternSymbol& symbol) {
    return symbol.kind != PatternSymbol::Kind::variable || bindings[symbol.value] != rules::no_term;
  });
}

bool ClauseSearch::match(const PatternSymbol* first, const PatternSymbol* end, TermId id) {
  std::vector<TermId> pending{id};  // next one last
  for (const PatternSymbol* at = first; at != end; ++at) {
    const TermId term = pending.back();
    pending.pop_back();
    if (at->kind == PatternSymbol::Kind::variable) {
      if (bindings_[at->value] == rules::no_term) {
        bindings_[at->value] = term;
        trail_.push_back(at->value);
      } else if (bindings_[at->value] != term) {
        return false;
      }
      continue;
    }
    const auto& entry = facts_.program().terms()[term];
    if (entry.symbol != at->symbol() || entry.arity != at->arity) return false;
    for (std::uint32_t a = entry.arity; a-- > 0;) pending.push_back(entry.arguments[a]);
  }
  return true;
}

bool ClauseSearch::match_row(const Literal& literal, const TermId* row) {
  bool fits = true;
  rules::for_each_argument(literal.atom.arguments,
                           [&](const PatternSymbol* first, const PatternSymbol* end) {
                             const TermId id = *row++;
                             fits = fits && match(first, end, id);
                           });
  return fits;
}

void ClauseSearch::undo(std::size_t trail) {
  while (trail_.size() > trail) {
    bindings_[trail_.back()] = rules::no_term;
    trail_.pop_back();
  }
}

std::vector<TermId> ClauseSearch::arguments(const Literal& literal,
                                            const Bindings& bindings) const {
  std::vector<TermId> result;
  rules::for_each_argument(literal.atom.arguments,
                           [&](const PatternSymbol* first, const PatternSymbol* end) {
                             result.push_back(value(first, end, bindings));
                           });
  return result;
}

std::optional<bool> ClauseSearch::holds(const Literal& literal, const Bindings& bindings) {
  if (!is_ground(literal.atom.arguments, bindings)) return std::nullopt;
  if (literal.is_comparison()) {
    const bool equal = instance(description_, literal, bindings, clause_.rule).arguments()[0] ==
                       instance(description_, literal, bindings, clause_.rule).arguments()[1];
    return equal == (literal.kind == Literal::Kind::equal);
  }
  const std::vector<TermId> row = arguments(literal, bindings);
  const bool known = std::ranges::find(row, rules::no_term) == row.end() &&
                     facts_.contains(literal.atom.relation, row);
  return known == (literal.kind == Literal::Kind::positive);
}

// The next condition to try, with its rows; none if all are chosen, or only tests are left whose
// variables have no value.
std::optional<std::size_t> ClauseSearch::pick(std::span<const std::uint32_t>& rows) {
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < done_.size(); ++i) {
    if (done_[i]) continue;
    const Literal& literal = clause_.body[i];
    if (is_ground(literal.atom.arguments, bindings_)) {
      rows = {};
      return i;
    }
    if (literal.kind != Literal::Kind::positive) continue;
    std::vector<TermId> key;
    rules::for_each_argument(
        literal.atom.arguments, [&](const PatternSymbol* first, const PatternSymbol* end) {
          const bool ground = std::all_of(first, end, [&](const PatternSymbol& symbol) {
            return symbol.kind != PatternSymbol::Kind::variable ||
                   bindings_[symbol.value] != rules::no_term;
          });
          key.push_back(ground ? value(first, end, bindings_) : rules::no_term);
        });
    const auto found = facts_.matching(literal.atom.relation, key);
    if (best && found.size() >= rows.size()) continue;
    best = i;
    rows = found;
  }
  return best;
}

std::size_t ClauseSearch::weight(const Literal& literal) const {
  if (literal.is_comparison()) return never;
  const auto phase_of = [&](RelationId relation) {
    return facts_.program().tables()[rules::index_of(relation)].phase;
  };
  const bool for_ever = phase_of(literal.atom.relation) == rules::Phase::constant &&
                        phase_of(clause_.head.relation) != rules::Phase::constant;
  return for_ever ? never : 1;
}

// Walks the tree of choices. `visit` gets how many conditions are missing and says how many may be
// missing from now on; it is called where no condition is left to choose. False if steps ran out.
bool ClauseSearch::run(std::size_t& steps, std::size_t most_missing,
                       const std::function<std::size_t(std::size_t missing)>& visit) {
  std::vector<Choice> choices;
  std::size_t missing = 0;
  bool descend = true;
  while (true) {
    if (descend) {
      Choice choice;
      const auto condition = pick(choice.rows);
      if (condition) {
        choice.condition = *condition;
        choice.trail = trail_.size();
        done_[*condition] = true;
        choices.push_back(choice);
      } else {
        if (missing <= most_missing) {
          const std::size_t allowed = visit(missing);
          if (allowed == static_cast<std::size_t>(-1)) return true;  // enough
          most_missing = allowed;
        }
        if (choices.empty()) return true;
      }
    }
    if (steps == 0) return false;
    --steps;
    // The next way for the last choice.
    Choice& last = choices.back();
    undo(last.trail);
    if (last.missed) {
      last.missed = missed_[last.condition] = false;
      missing -= weight(clause_.body[last.condition]);
      done_[last.condition] = false;
      choices.pop_back();
      if (choices.empty()) return true;
      descend = false;
      continue;
    }
    const Literal& literal = clause_.body[last.condition];
    descend = false;
    if (is_ground(literal.atom.arguments, bindings_)) {
      if (last.next++ == 0 && *holds(literal, bindings_)) {
        descend = true;
        continue;
      }
      if (last.next > 1 && !missed_[last.condition] && *holds(literal, bindings_)) {
        // It held; leaving it out would only make things worse.
        done_[last.condition] = false;
        choices.pop_back();
        if (choices.empty()) return true;
        continue;
      }
    } else if (last.next < last.rows.size()) {
      descend = match_row(literal, facts_.row(literal.atom.relation, last.rows[last.next++]));
      continue;
    }
    if (missing + weight(literal) <= most_missing) {
      last.missed = missed_[last.condition] = true;
      missing += weight(literal);
      descend = true;
    } else {
      done_[last.condition] = false;
      choices.pop_back();
      if (choices.empty()) return true;
    }
  }
}

void ClauseSearch::all(std::size_t& steps, const std::function<bool(const Bindings&)>& visit) {
  run(steps, 0, [&](std::size_t) {
    return visit(bindings_) ? std::size_t{0} : static_cast<std::size_t>(-1);
  });
}

ClauseSearch::Nearest ClauseSearch::nearest(std::size_t steps) {
  Nearest best;
  std::size_t open = 0;  // variables without a value in `best`
  bool any = false;
  run(steps, clause_.body.size() * never, [&](std::size_t missing) {
    const auto without = static_cast<std::size_t>(std::ranges::count(bindings_, rules::no_term));
    if (!any || missing < best.missing || (missing == best.missing && without < open)) {
      any = true;
      open = without;
      best = {bindings_, {}, missing};
    }
    return best.missing;
  });
  if (!any) best.bindings = bindings_;
  best.missing = 0;
  for (const Literal& literal : clause_.body) {
    best.holds.push_back(holds(literal, best.bindings).value_or(false));
    best.missing += best.holds.back() ? 0 : weight(literal);
  }
  return best;
}

}  // namespace orchard::explain
