#include "ground/ground_program.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "ground/instantiate.hpp"
#include "rules/keywords.hpp"

namespace orchard::ground {

Result<std::shared_ptr<const GroundProgram>> GroundProgram::make(
    std::shared_ptr<const rules::Description> description, const Limits& limits,
    const std::vector<RelationId>& also) {
  std::vector<RelationId> asked = also;
  for (const Keyword keyword : {Keyword::base, Keyword::input}) {
    const auto relation = description->find(keyword);
    if (limits.guided && relation) asked.push_back(*relation);
  }
  std::shared_ptr<GroundProgram> program(new GroundProgram(std::move(description), asked, limits));
  if (auto fault = Instantiator(*program, limits).run()) return std::move(*fault);
  program->collect();
  return std::shared_ptr<const GroundProgram>(std::move(program));
}

Keyword GroundProgram::keyword(AtomId atom) const {
  return schema_.predicate(atoms_[index_of(atom)].predicate).keyword;
}

Phase GroundProgram::phase(AtomId atom) const {
  return schema_.predicate(atoms_[index_of(atom)].predicate).phase;
}

bool GroundProgram::is_part(AtomId atom) const {
  return schema_.predicate(atoms_[index_of(atom)].predicate).part != 0;
}

// The fluent or move of a row whose columns are its arguments.
TermId GroundProgram::split_term(const Predicate& predicate, std::span<const TermId> row) const {
  return terms().add(predicate.name, row.subspan(row.size() - predicate.name_arity));
}

std::string GroundProgram::text(AtomId atom) const {
  const Predicate& predicate = schema_.predicate(atoms_[index_of(atom)].predicate);
  const auto row =
      stores_[index_of(atoms_[index_of(atom)].predicate)].row(atoms_[index_of(atom)].row);
  std::vector<TermId> arguments(row.begin(), row.end());
  if (predicate.split) {
    arguments.resize(row.size() - predicate.name_arity);
    arguments.push_back(split_term(predicate, row));
  }
  std::string name = terms().name(description_->relation(predicate.relation).name);
  if (predicate.part != 0) {
    name += fmt::format("_part_{}", predicate.part);
    while (terms().find_symbol(name)) name += '_';
  }
  if (arguments.empty()) return name;
  std::string result = "(" + name;
  for (const TermId argument : arguments) result += " " + terms().text(argument);
  return result += ")";
}

std::vector<bool> GroundProgram::initial() const {
  std::vector<bool> result;
  for (const Fluent& fluent : fluents_) result.push_back(fluent.initial);
  return result;
}

std::vector<std::size_t> GroundProgram::first_moves() const {
  std::vector<std::size_t> result;
  std::size_t moves = 0;
  for (const auto& of_role : moves_) {
    result.push_back(moves);
    moves += of_role.size();
  }
  return result;
}

std::string GroundProgram::text() const {
  std::string result;
  for (const GroundClause& clause : clauses_) {
    const bool is_fact = clause.positive + clause.negative == 0;
    if (!is_fact) result += "(<= ";
    result += text(clause.head);
    for (const AtomId atom : positive(clause)) result += " " + text(atom);
    for (const AtomId atom : negative(clause)) result += " (not " + text(atom) + ")";
    result += is_fact ? "\n" : ")\n";
  }
  return result;
}

std::vector<GroundProgram::Instance> GroundProgram::instances(RelationId relation) const {
  std::vector<Instance> result;
  for (std::size_t p = 0; p < schema_.predicates().size(); ++p) {
    const Predicate& predicate = schema_.predicates()[p];
    if (predicate.relation != relation || predicate.split || predicate.part != 0) continue;
    for (std::uint32_t r = 0; r < stores_[p].rows(); ++r) {
      const auto row = stores_[p].row(r);
      result.push_back(
          {{row.begin(), row.end()}, predicate.is_static() ? no_atom : atom_of_row_[p][r]});
    }
  }
  return result;
}

// What the rows of the keywords' tables say, gathered by term.
struct GroundProgram::Collected {
  Collected(const rules::Description& description)
      : terms(description.terms()),
        roles(description.roles()),
        fluents(ByTerm{&terms}),
        moves(roles.size(), std::map<TermId, Move, ByTerm>(ByTerm{&terms})),
        goals(roles.size()),
        percepts(roles.size()) {}

  struct ByTerm {
    const rules::TermTable* terms;
    bool operator()(TermId a, TermId b) const { return terms->compare(a, b) < 0; }
  };
  std::optional<std::size_t> number_of(TermId role) const {
    const auto found = std::ranges::find(roles, role);
    if (found == roles.end()) return std::nullopt;
    return static_cast<std::size_t>(found - roles.begin());
  }

  const rules::TermTable& terms;
  const std::vector<TermId>& roles;
  std::map<TermId, Fluent, ByTerm> fluents;
  std::vector<std::map<TermId, Move, ByTerm>> moves;  // by role
  std::vector<std::vector<Value>> goals;
  std::vector<std::vector<Value>> percepts;
};

void GroundProgram::collect_row(const Predicate& predicate, std::span<const TermId> row,
                                AtomId atom, Collected& collected) {
  switch (predicate.keyword) {
    case Keyword::init:
    case Keyword::true_:
    case Keyword::next: {
      const TermId term = split_term(predicate, row);
      Fluent& fluent = collected.fluents[term];
      fluent.term = term;
      if (predicate.keyword == Keyword::init) fluent.initial = true;
      if (predicate.keyword == Keyword::true_) fluent.now = atom;
      if (predicate.keyword == Keyword::next) fluent.next = atom;
      break;
    }
    case Keyword::legal:
    case Keyword::does:
      if (const auto role = collected.number_of(row.front())) {
        const TermId term = split_term(predicate, row);
        Move& move = collected.moves[*role][term];
        move.term = term;
        (predicate.keyword == Keyword::legal ? move.legal : move.does) = atom;
      }
      break;
    case Keyword::goal:
    case Keyword::sees:
      if (const auto role = collected.number_of(row.front())) {
        auto& values = predicate.keyword == Keyword::goal ? collected.goals : collected.percepts;
        values[*role].push_back({row[1], atom});
      }
      break;
    case Keyword::terminal:
      terminal_ = atom;
      break;
    default:
      break;
  }
}

void GroundProgram::collect() {
  std::vector<bool> undeclared(atoms_.size(), false);
  for (const AtomId atom : undeclared_next_) undeclared[index_of(atom)] = true;
  for (const AtomId atom : undeclared_legal_) undeclared[index_of(atom)] = true;
  for (const AtomId atom : never_) undeclared[index_of(atom)] = true;
  Collected collected(*description_);
  for (std::size_t p = 0; p < schema_.predicates().size(); ++p) {
    const Predicate& predicate = schema_.predicates()[p];
    for (std::uint32_t r = 0; r < stores_[p].rows(); ++r) {
      const AtomId atom = predicate.is_static() ? no_atom : atom_of_row_[p][r];
      if (atom != no_atom && undeclared[index_of(atom)]) continue;
      collect_row(predicate, stores_[p].row(r), atom, collected);
    }
  }
  for (auto& [term, fluent] : collected.fluents) fluents_.push_back(fluent);
  moves_.resize(collected.roles.size());
  for (std::size_t role = 0; role < moves_.size(); ++role) {
    for (auto& [term, move] : collected.moves[role]) {
      if (move.legal != no_atom) moves_[role].push_back(move);
    }
  }
  goals_ = std::move(collected.goals);
  percepts_ = std::move(collected.percepts);
  for (auto* const of_roles : {&goals_, &percepts_}) {
    for (auto& values : *of_roles) {
      std::ranges::sort(values, Collected::ByTerm{&terms()}, &Value::term);
    }
  }
}

}  // namespace orchard::ground
