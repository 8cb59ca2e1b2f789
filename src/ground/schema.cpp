#include "ground/schema.hpp"

#include <algorithm>
#include <tuple>

#include "ground/split_bodies.hpp"
#include "rules/keywords.hpp"

namespace orchard::ground {

using rules::Clause;
using rules::Domains;
using rules::Literal;

namespace {

bool speaks_of_fluents(Keyword keyword) {
  return keyword == Keyword::true_ || keyword == Keyword::next || keyword == Keyword::init;
}
bool speaks_of_moves(Keyword keyword) {
  return keyword == Keyword::does || keyword == Keyword::legal;
}

// Where the fluent or move stands among the columns of such an atom.
std::size_t split_at(Keyword keyword, const Pattern& columns) {
  return speaks_of_moves(keyword) ? columns.front().size : 0;
}

void replace_variable(Pattern& pattern, std::uint32_t variable, const Pattern& by) {
  Pattern result;
  bool replaced = false;
  for (const PatternSymbol& symbol : pattern) {
    if (symbol.kind == PatternSymbol::Kind::variable && symbol.value == variable) {
      result.insert(result.end(), by.begin(), by.end());
      replaced = true;
    } else {
      result.push_back(symbol);
    }
  }
  if (!replaced) return;
  syntax::assign_sizes(result);
  pattern = std::move(result);
}

}  // namespace

Schema::Schema(const rules::Description& description, const rules::Dependency& dependency,
               const std::vector<RelationId>& also, const Splitting& splitting)
    : description_(description), dependency_(dependency), domains_(description) {
  std::vector<RelationId> asked = also;
  for (const Keyword keyword : {Keyword::init, Keyword::next, Keyword::legal, Keyword::goal,
                                Keyword::terminal, Keyword::sees}) {
    if (const auto relation = description.find(keyword)) asked.push_back(*relation);
  }
  const std::vector<bool> needed = dependency.cone(asked);
  for (std::uint32_t number = 0; number < description.clauses().size(); ++number) {
    const Clause& clause = description.clauses()[number];
    if (needed[rules::index_of(clause.head.relation)]) add_clause(clause, number);
  }
  split_bodies(splitting);
  // Whatever can be next can be true, whatever is legal can be done.
  const std::size_t count = predicates_.size();
  for (std::size_t p = 0; p < count; ++p) {
    const Keyword keyword = predicates_[p].keyword;
    const Keyword fed = speaks_of_moves(keyword) ? Keyword::does : Keyword::true_;
    if (keyword != Keyword::next && keyword != Keyword::init && keyword != Keyword::legal) continue;
    const auto relation = description.find(fed);
    if (!relation) continue;  // nothing asks what is true, or done
    const PatternSymbol name{PatternSymbol::Kind::function,
                             static_cast<std::uint32_t>(predicates_[p].name),
                             predicates_[p].name_arity, 1, syntax::no_node};
    const PredicateId target = predicate(*relation, &name);
    predicates_[p].feeds = target;
  }
}

void Schema::add_clause(const Clause& clause, std::uint32_t number) {
  FlatClause raw;
  raw.clause = number;
  raw.variables = static_cast<std::uint32_t>(description_.rules()[clause.rule].variables.size());
  const auto as_atom = [](const rules::Atom& atom) {
    return FlatAtom{PredicateId{static_cast<std::uint32_t>(atom.relation)}, atom.arguments};
  };
  raw.head = as_atom(clause.head);
  for (const Literal& literal : clause.body)
    raw.body.push_back({literal.kind, as_atom(literal.atom)});
  // One clause for each name that a fluent or move given as a variable can have.
  std::vector<FlatClause> pending{std::move(raw)};
  while (!pending.empty()) {
    FlatClause next = std::move(pending.back());
    pending.pop_back();
    if (specialise(next, pending)) continue;
    next.head = flatten(next.head);
    for (FlatLiteral& literal : next.body) {
      if (literal.kind == Literal::Kind::positive || literal.kind == Literal::Kind::negative) {
        literal.atom = flatten(literal.atom);
      }
    }
    clauses_.push_back(std::move(next));
  }
}

// Until `flatten`, the predicate of an atom is the number of its relation.
bool Schema::specialise(const FlatClause& raw, std::vector<FlatClause>& result) {
  const auto variable_of = [&](const FlatAtom& atom) -> std::optional<std::uint32_t> {
    const RelationId relation{static_cast<std::uint32_t>(atom.predicate)};
    const Keyword keyword = description_.relation(relation).keyword;
    if (!speaks_of_fluents(keyword) && !speaks_of_moves(keyword)) return std::nullopt;
    const PatternSymbol& symbol = atom.columns[split_at(keyword, atom.columns)];
    if (symbol.kind != PatternSymbol::Kind::variable) return std::nullopt;
    return symbol.value;
  };
  std::optional<std::uint32_t> variable = variable_of(raw.head);
  const FlatAtom* atom = &raw.head;
  bool negated = false;
  for (const FlatLiteral& literal : raw.body) {
    if (variable) break;
    if (literal.kind != Literal::Kind::positive && literal.kind != Literal::Kind::negative)
      continue;
    variable = variable_of(literal.atom);
    atom = &literal.atom;
    negated = literal.kind == Literal::Kind::negative;
  }
  if (!variable) return false;
  const RelationId relation{static_cast<std::uint32_t>(atom->predicate)};
  const bool moves = speaks_of_moves(description_.relation(relation).keyword);
  const auto shared = description_.find(moves ? Keyword::does : Keyword::true_);
  const auto place = domains_.places().find(
      rules::Places::Owner::relation,
      shared ? description_.relation(*shared).name
             : description_.keyword_symbol(moves ? Keyword::does : Keyword::true_),
      moves ? 2 : 1, moves ? 1 : 0);
  Domains::Domain domain;
  if (place) domain = domains_.domain(*place);
  if (negated) {
    // That it does not hold is true of what can never be a fluent or a move, too.
    PatternSymbol symbol;
    symbol.kind = PatternSymbol::Kind::variable;
    symbol.value = *variable;
    const Domains::Domain bound =
        domains_.values(description_, description_.clauses()[raw.clause], symbol);
    if (!bound.empty() && !bound.contains(Domains::anything)) domain = bound;
  }
  // Nothing ever stands there if there is no name.
  std::vector<Domains::Name> names(domain.begin(), domain.end());
  std::ranges::sort(names, {},
                    [](const Domains::Name& name) { return std::pair(name.symbol, name.arity); });
  for (const Domains::Name& name : names) {
    FlatClause copy = raw;
    Pattern by;
    by.push_back({name.arity == 0 ? PatternSymbol::Kind::constant : PatternSymbol::Kind::function,
                  static_cast<std::uint32_t>(name.symbol), name.arity, 1 + name.arity,
                  atom->columns.front().node});
    for (std::uint32_t i = 0; i < name.arity; ++i) {
      by.push_back(
          {PatternSymbol::Kind::variable, copy.variables++, 0, 1, atom->columns.front().node});
    }
    replace_variable(copy.head.columns, *variable, by);
    for (FlatLiteral& literal : copy.body) replace_variable(literal.atom.columns, *variable, by);
    result.push_back(std::move(copy));
  }
  return true;
}

FlatAtom Schema::flatten(const FlatAtom& raw) {
  const RelationId relation{static_cast<std::uint32_t>(raw.predicate)};
  const Keyword keyword = description_.relation(relation).keyword;
  if (!speaks_of_fluents(keyword) && !speaks_of_moves(keyword)) {
    return {predicate(relation, nullptr), raw.columns};
  }
  const std::size_t at = split_at(keyword, raw.columns);
  FlatAtom result{predicate(relation, &raw.columns[at]), {}};
  result.columns.assign(raw.columns.begin(), raw.columns.begin() + static_cast<std::ptrdiff_t>(at));
  result.columns.insert(result.columns.end(),
                        raw.columns.begin() + static_cast<std::ptrdiff_t>(at) + 1,
                        raw.columns.end());
  return result;
}

PredicateId Schema::predicate(RelationId relation, const PatternSymbol* name) {
  const SymbolId symbol = name == nullptr ? SymbolId{} : name->symbol();
  const std::uint32_t arity = name == nullptr ? 0 : name->arity;
  const auto [known, is_new] = by_name_.try_emplace(
      {relation, symbol, arity}, PredicateId{static_cast<std::uint32_t>(predicates_.size())});
  if (!is_new) return known->second;
  const rules::Relation& facts = description_.relation(relation);
  Predicate predicate;
  predicate.relation = relation;
  predicate.keyword = facts.keyword;
  predicate.name = symbol;
  predicate.name_arity = arity;
  predicate.split = name != nullptr;
  predicate.columns = facts.arity;
  if (name != nullptr) predicate.columns = arity + (speaks_of_moves(facts.keyword) ? 1 : 0);
  predicate.phase = dependency_.phase(relation);
  predicate.component = 2 * dependency_.component(relation);
  // What play asks for is asked in every position, even where it never changes.
  if (predicate.phase == Phase::constant &&
      (facts.keyword == Keyword::legal || facts.keyword == Keyword::goal ||
       facts.keyword == Keyword::terminal || facts.keyword == Keyword::next ||
       facts.keyword == Keyword::sees)) {
    predicate.phase = facts.keyword == Keyword::next || facts.keyword == Keyword::sees
                          ? Phase::step
                          : Phase::position;
  }
  predicates_.push_back(predicate);
  return known->second;
}

PredicateId Schema::add_part(const FlatClause& clause) {
  Predicate part;
  part.relation = description_.clauses()[clause.clause].head.relation;
  part.part = ++parts_;
  part.columns = static_cast<std::uint32_t>(clause.head.columns.size());
  for (const FlatLiteral& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive && literal.kind != Literal::Kind::negative)
      continue;
    const Predicate& asked = predicate(literal.atom.predicate);
    part.phase = std::max(part.phase, asked.phase);
    part.component = std::max(part.component, asked.component);
  }
  // With what it asks for, since that may ask for the part; after it, if its absence is asked for.
  for (const FlatLiteral& literal : clause.body) {
    if (literal.kind == Literal::Kind::negative &&
        predicate(literal.atom.predicate).component == part.component) {
      part.component |= 1;
    }
  }
  predicates_.push_back(part);
  return PredicateId{static_cast<std::uint32_t>(predicates_.size() - 1)};
}

void Schema::split_bodies(const Splitting& splitting) {
  BodySplitter splitter(description_, domains_, predicates_, splitting,
                        [this](const FlatClause& part) { return add_part(part); });
  std::vector<FlatClause> clauses;
  for (FlatClause& clause : clauses_) {
    for (FlatClause& piece : splitter.split(std::move(clause))) clauses.push_back(std::move(piece));
  }
  clauses_ = std::move(clauses);
}

}  // namespace orchard::ground
