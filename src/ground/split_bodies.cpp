#include "ground/split_bodies.hpp"

#include <algorithm>

namespace orchard::ground {

using rules::Literal;

namespace {

constexpr double most_static = 1'000'000;  // of a part that never changes

void mark(const Pattern& pattern, std::vector<bool>& variables) {
  for (const PatternSymbol& symbol : pattern) {
    if (symbol.kind == PatternSymbol::Kind::variable) variables[symbol.value] = true;
  }
}

std::vector<bool> variables_of(const FlatClause& clause, const FlatAtom& atom) {
  std::vector<bool> result(clause.variables, false);
  mark(atom.columns, result);
  return result;
}

bool within(const std::vector<bool>& some, const std::vector<bool>& all) {
  for (std::size_t v = 0; v < some.size(); ++v) {
    if (some[v] && !all[v]) return false;
  }
  return true;
}

}  // namespace

bool BodySplitter::is_static(const FlatLiteral& literal) const {
  return literal.kind == Literal::Kind::distinct || literal.kind == Literal::Kind::equal ||
         predicates_[index_of(literal.atom.predicate)].is_static();
}

// By the positive conditions of the clause as written; variables that stand for the arguments of a
// fluent or move given as a variable are not known there.
void BodySplitter::estimate(const FlatClause& clause) {
  constexpr double unknown = 16;
  sizes_.assign(clause.variables, unknown);
  const rules::Clause& source = description_.clauses()[clause.clause];
  std::vector<bool> done(clause.variables, false);
  for (const Literal& literal : source.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    for (const PatternSymbol& symbol : literal.atom.arguments) {
      if (symbol.kind != PatternSymbol::Kind::variable || done[symbol.value]) continue;
      done[symbol.value] = true;
      const rules::Domains::Domain domain = domains_.values(description_, source, symbol);
      if (!domain.contains(rules::Domains::anything)) {
        sizes_[symbol.value] = static_cast<double>(std::max<std::size_t>(domain.size(), 1));
      }
    }
  }
}

double BodySplitter::instances(const Variables& variables) const {
  double result = 1;
  for (std::size_t v = 0; v < variables.size(); ++v) {
    if (variables[v]) result *= sizes_[v];
  }
  return result;
}

// What moves out with a variable: every condition that speaks of it, and those that speak of
// nothing else than these do. False if that is no part, or if something in it would not be bound.
bool BodySplitter::part_of(const FlatClause& clause, std::uint32_t variable, Part& part) const {
  const std::size_t count = clause.body.size();
  part = {std::vector<bool>(count, false), {}, true, 0, 0};
  Variables inside(clause.variables, false);
  Variables bound(clause.variables, false);
  const auto take = [&](std::size_t l) {
    part.takes[l] = true;
    part.is_static = part.is_static && is_static(clause.body[l]);
    mark(clause.body[l].atom.columns, inside);
    if (clause.body[l].kind == Literal::Kind::positive) mark(clause.body[l].atom.columns, bound);
  };
  for (std::size_t l = 0; l < count; ++l) {
    if (variables_of(clause, clause.body[l].atom)[variable]) take(l);
  }
  const bool was_static = part.is_static;
  for (std::size_t l = 0; l < count; ++l) {
    const Variables own = variables_of(clause, clause.body[l].atom);
    const bool speaks = std::ranges::find(own, true) != own.end();
    // What changes is kept out of a part that never does.
    if (part.takes[l] || !speaks || !within(own, inside)) continue;
    if (!was_static || is_static(clause.body[l])) take(l);
  }
  if (inside != bound) return false;
  Variables outside = variables_of(clause, clause.head);
  bool rests = false;
  for (std::size_t l = 0; l < count; ++l) {
    if (part.takes[l]) continue;
    mark(clause.body[l].atom.columns, outside);
    rests = true;
  }
  if (!rests || outside[variable]) return false;
  part.shared.assign(clause.variables, false);
  Variables all(clause.variables, false);
  for (std::size_t v = 0; v < all.size(); ++v) {
    part.shared[v] = inside[v] && outside[v];
    all[v] = inside[v] || outside[v];
  }
  part.rest = instances(outside);
  part.whole = part.rest;
  if (part.is_static) return instances(inside) <= most_static;
  part.whole += instances(inside);
  return part.whole * splitting_.least_gain <= instances(all);
}

bool BodySplitter::find_part(const FlatClause& clause, Part& best) const {
  Variables all = variables_of(clause, clause.head);
  for (const FlatLiteral& literal : clause.body) mark(literal.atom.columns, all);
  if (instances(all) <= splitting_.few_instances) return false;
  bool found = false;
  Part part;
  for (std::uint32_t v = 0; v < clause.variables; ++v) {
    if (!all[v] || !part_of(clause, v, part)) continue;
    if (!found || part.whole < best.whole) best = part;
    found = true;
  }
  return found;
}

// The clause of the part; what it derives stands in its place.
FlatClause BodySplitter::take_out(FlatClause& clause, const Part& part, bool& is_new) {
  FlatClause result;
  result.variables = clause.variables;
  result.clause = clause.clause;
  std::vector<FlatLiteral> rest;
  for (std::size_t l = 0; l < clause.body.size(); ++l) {
    (part.takes[l] ? result.body : rest).push_back(std::move(clause.body[l]));
  }
  // The body as numbers, with the variables numbered as they come.
  std::vector<std::uint32_t> key;
  absl::flat_hash_map<std::uint32_t, std::uint32_t> numbers;
  for (const FlatLiteral& literal : result.body) {
    key.push_back(static_cast<std::uint32_t>(literal.kind));
    key.push_back(static_cast<std::uint32_t>(literal.atom.predicate));
    key.push_back(static_cast<std::uint32_t>(literal.atom.columns.size()));
    for (const PatternSymbol& symbol : literal.atom.columns) {
      const bool variable = symbol.kind == PatternSymbol::Kind::variable;
      key.push_back(static_cast<std::uint32_t>(symbol.kind));
      key.push_back(
          variable ? numbers.try_emplace(symbol.value, static_cast<std::uint32_t>(numbers.size()))
                         .first->second
                   : symbol.value);
      key.push_back(symbol.arity);
    }
  }
  for (const FlatLiteral& literal : result.body) {
    for (const PatternSymbol& symbol : literal.atom.columns) {
      if (symbol.kind != PatternSymbol::Kind::variable || !part.shared[symbol.value]) continue;
      const auto same = [&](const PatternSymbol& other) { return other.value == symbol.value; };
      if (std::ranges::any_of(result.head.columns, same)) continue;
      result.head.columns.push_back(symbol);
      key.push_back(numbers.at(symbol.value));
    }
  }
  const auto known = known_.find(key);
  is_new = known == known_.end();
  result.head.predicate = is_new ? make_part_(result) : known->second;
  if (is_new) known_.emplace(std::move(key), result.head.predicate);
  rest.push_back({Literal::Kind::positive, result.head});
  clause.body = std::move(rest);
  return result;
}

std::vector<FlatClause> BodySplitter::split(FlatClause clause) {
  estimate(clause);
  std::vector<FlatClause> result{std::move(clause)};
  for (std::size_t c = 0; c < result.size(); ++c) {
    Part part;
    while (find_part(result[c], part)) {
      bool is_new = false;
      FlatClause inner = take_out(result[c], part, is_new);
      if (is_new) result.push_back(std::move(inner));
    }
  }
  return result;
}

}  // namespace orchard::ground
