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

void GroundProgram::collect() {
  std::vector<bool> undeclared(atoms_.size(), false);
  for (const AtomId atom : undeclared_next_) undeclared[index_of(atom)] = true;
  for (const AtomId atom : undeclared_legal_) undeclared[index_of(atom)] = true;
  const auto by_term = [&](TermId a, TermId b) { return terms().compare(a, b) < 0; };
  std::map<TermId, Fluent, decltype(by_term)> fluents(by_term);
  const std::vector<TermId>& roles = description_->roles();
  std::vector<std::map<TermId, Move, decltype(by_term)>> moves(
      roles.size(), std::map<TermId, Move, decltype(by_term)>(by_term));
  goals_.resize(roles.size());
  percepts_.resize(roles.size());
  const auto number_of = [&](TermId role) {
    return static_cast<std::size_t>(std::ranges::find(roles, role) - roles.begin());
  };
  for (std::size_t p = 0; p < schema_.predicates().size(); ++p) {
    const Predicate& predicate = schema_.predicates()[p];
    const FactStore& store = stores_[p];
    for (std::uint32_t r = 0; r < store.rows(); ++r) {
      const auto row = store.row(r);
      const AtomId atom = predicate.is_static() ? no_atom : atom_of_row_[p][r];
      if (atom != no_atom && undeclared[index_of(atom)]) continue;
      switch (predicate.keyword) {
        case Keyword::init:
        case Keyword::true_:
        case Keyword::next: {
          const TermId term = split_term(predicate, row);
          Fluent& fluent = fluents[term];
          fluent.term = term;
          if (predicate.keyword == Keyword::init) fluent.initial = true;
          if (predicate.keyword == Keyword::true_) fluent.now = atom;
          if (predicate.keyword == Keyword::next) fluent.next = atom;
          break;
        }
        case Keyword::legal:
        case Keyword::does: {
          const std::size_t role = number_of(row.front());
          if (role == roles.size()) break;
          const TermId term = split_term(predicate, row);
          Move& move = moves[role][term];
          move.term = term;
          (predicate.keyword == Keyword::legal ? move.legal : move.does) = atom;
          break;
        }
        case Keyword::goal:
        case Keyword::sees: {
          const std::size_t role = number_of(row[0]);
          if (role == roles.size()) break;
          (predicate.keyword == Keyword::goal ? goals_ : percepts_)[role].push_back({row[1], atom});
          break;
        }
        case Keyword::terminal:
          terminal_ = atom;
          break;
        default:
          break;
      }
    }
  }
  for (auto& [term, fluent] : fluents) fluents_.push_back(fluent);
  moves_.resize(roles.size());
  for (std::size_t role = 0; role < roles.size(); ++role) {
    for (auto& [term, move] : moves[role]) {
      if (move.legal != no_atom) moves_[role].push_back(move);
    }
    const auto in_order = [&](const Value& a, const Value& b) { return by_term(a.term, b.term); };
    std::ranges::sort(goals_[role], in_order);
    std::ranges::sort(percepts_[role], in_order);
  }
}

}  // namespace orchard::ground
