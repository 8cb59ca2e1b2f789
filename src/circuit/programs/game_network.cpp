#include "circuit/programs/game_network.hpp"

#include <algorithm>
#include <map>
#include <optional>

#include "base/components.hpp"
#include "circuit/network/linear_fixpoint.hpp"

namespace orchard::circuit {

using ground::AtomId;
using ground::GroundClause;
using ground::GroundProgram;
using rules::Keyword;

namespace {

class NetworkBuilder {
 public:
  explicit NetworkBuilder(const GroundProgram& program) : program_(program) {}

  GameNetwork run() {
    add_inputs();
    find_inputs();
    find_components();
    add_outputs();
    return std::move(result_);
  }

 private:
  void add_inputs();
  void find_inputs();
  void find_components();
  void add_component(const std::vector<std::uint32_t>& atoms);
  void add_plain(std::uint32_t atom);
  bool add_linear(const std::vector<std::uint32_t>& atoms);
  void add_rounds(const std::vector<std::uint32_t>& atoms);
  void add_outputs();
  void add_body(const GroundClause& clause, std::vector<Signal>& signals) const;
  Signal signal(AtomId atom) const {
    return atom == ground::no_atom ? never : result_.atoms[ground::index_of(atom)];
  }
  bool is_input(std::uint32_t atom) const { return is_input_[atom]; }
  std::span<const GroundClause> clauses_of(std::uint32_t atom) const {
    return program_.clauses_of(AtomId{atom});
  }

  const GroundProgram& program_;
  GameNetwork result_;
  std::vector<bool> is_input_;            // by atom
  Network::Terms terms_;                  // of the atom under way
  std::vector<std::uint32_t> component_;  // by atom, while components are found
};

void NetworkBuilder::add_inputs() {
  result_.atoms.assign(program_.atom_count(), never);
  Network& network = result_.network;
  for (const GroundProgram::Fluent& fluent : program_.fluents()) {
    result_.fluents.push_back(network.add_input());
    if (fluent.now != ground::no_atom) {
      result_.atoms[ground::index_of(fluent.now)] = result_.fluents.back();
    }
  }
  for (const auto& moves : program_.moves()) {
    std::vector<Signal>& does = result_.does.emplace_back();
    for (const GroundProgram::Move& move : moves) {
      does.push_back(network.add_input());
      if (move.does != ground::no_atom) result_.atoms[ground::index_of(move.does)] = does.back();
    }
  }
}

void NetworkBuilder::find_inputs() {
  for (std::uint32_t atom = 0; atom < program_.atom_count(); ++atom) {
    const Keyword keyword = program_.keyword(AtomId{atom});
    is_input_.push_back(keyword == Keyword::true_ || keyword == Keyword::does);
  }
}

// Of the atoms that are no inputs.
void NetworkBuilder::find_components() {
  const auto count = static_cast<std::uint32_t>(program_.atom_count());
  component_.assign(count, 0xFFFFFFFF);
  struct Cursor {
    std::uint32_t atom;
    std::size_t clause = 0;
    std::size_t body = 0;
  };
  const auto next = [&](Cursor& at) -> std::optional<std::uint32_t> {
    const auto clauses = clauses_of(at.atom);
    while (at.clause < clauses.size() && !is_input(at.atom)) {
      const GroundClause& clause = clauses[at.clause];
      if (at.body == clause.positive + clause.negative) {
        ++at.clause;
        at.body = 0;
        continue;
      }
      const auto positive = program_.positive(clause);
      const AtomId on = at.body < positive.size()
                            ? positive[at.body]
                            : program_.negative(clause)[at.body - positive.size()];
      ++at.body;
      if (!is_input(static_cast<std::uint32_t>(on))) return static_cast<std::uint32_t>(on);
    }
    return std::nullopt;
  };
  std::uint32_t components = 0;
  each_component(
      count, [](std::uint32_t atom) { return Cursor{atom}; }, next,
      [&](std::vector<std::uint32_t> members) {
        if (is_input(members.front())) return;
        for (const std::uint32_t member : members) component_[member] = components;
        ++components;
        std::ranges::sort(members);
        add_component(members);
      });
}

void NetworkBuilder::add_component(const std::vector<std::uint32_t>& atoms) {
  bool recursive = false;
  for (const std::uint32_t atom : atoms) {
    for (const GroundClause& clause : clauses_of(atom)) {
      for (const AtomId on : program_.positive(clause)) {
        recursive = recursive || component_[ground::index_of(on)] == component_[atom];
      }
    }
  }
  if (!recursive) return add_plain(atoms.front());
  if (!add_linear(atoms)) add_rounds(atoms);
}

void NetworkBuilder::add_body(const GroundClause& clause, std::vector<Signal>& signals) const {
  for (const AtomId atom : program_.positive(clause)) signals.push_back(signal(atom));
  for (const AtomId atom : program_.negative(clause)) signals.push_back(!signal(atom));
}

void NetworkBuilder::add_plain(std::uint32_t atom) {
  terms_.clear();
  for (const GroundClause& clause : clauses_of(atom)) {
    add_body(clause, terms_.signals);
    terms_.end_term();
  }
  result_.atoms[atom] = result_.network.any_of_all(terms_);
}

// False if a clause asks for two unknowns.
bool NetworkBuilder::add_linear(const std::vector<std::uint32_t>& atoms) {
  LinearFixpoint equations(result_.network);
  std::map<std::uint32_t, std::uint32_t> number;
  for (const std::uint32_t atom : atoms) {
    number.emplace(atom, static_cast<std::uint32_t>(number.size()));
  }
  for (const std::uint32_t atom : atoms) {
    for (const GroundClause& clause : clauses_of(atom)) {
      std::optional<std::uint32_t> unknown;
      std::vector<Signal> known;
      for (const AtomId on : program_.positive(clause)) {
        if (component_[ground::index_of(on)] != component_[atom]) {
          known.push_back(signal(on));
        } else if (unknown && *unknown != static_cast<std::uint32_t>(on)) {
          return false;
        } else {
          unknown = static_cast<std::uint32_t>(on);
        }
      }
      for (const AtomId on : program_.negative(clause)) known.push_back(!signal(on));
      const auto from = unknown ? std::optional(number[*unknown]) : std::nullopt;
      equations.add(number[atom], from, std::move(known));
    }
  }
  const std::vector<Signal> values = equations.solve(atoms.size());
  for (const std::uint32_t atom : atoms) result_.atoms[atom] = values[number[atom]];
  return true;
}

// A shortest proof of an atom uses each atom once on a path, so as many rounds as atoms are enough.
void NetworkBuilder::add_rounds(const std::vector<std::uint32_t>& atoms) {
  for (const std::uint32_t atom : atoms) result_.atoms[atom] = never;
  for (std::size_t round = 0; round < atoms.size(); ++round) {
    bool changed = false;
    for (const std::uint32_t atom : atoms) {
      const Signal before = result_.atoms[atom];
      add_plain(atom);
      changed = changed || result_.atoms[atom] != before;
    }
    if (!changed) return;
  }
}

void NetworkBuilder::add_outputs() {
  for (const GroundProgram::Fluent& fluent : program_.fluents()) {
    result_.next.push_back(signal(fluent.next));
  }
  result_.terminal = signal(program_.terminal());
  const auto any_of = [&](const std::vector<AtomId>& atoms) {
    std::vector<Signal> signals;
    for (const AtomId atom : atoms) signals.push_back(signal(atom));
    return result_.network.any(std::move(signals));
  };
  result_.undeclared_legal = any_of(program_.undeclared_legal());
  result_.undeclared_next = any_of(program_.undeclared_next());
  const auto of_values = [&](const std::vector<std::vector<GroundProgram::Value>>& values) {
    std::vector<std::vector<Signal>> signals;
    for (const auto& of_role : values) {
      std::vector<Signal>& list = signals.emplace_back();
      for (const GroundProgram::Value& value : of_role) list.push_back(signal(value.atom));
    }
    return signals;
  };
  result_.goals = of_values(program_.goals());
  result_.percepts = of_values(program_.percepts());
  for (const auto& moves : program_.moves()) {
    std::vector<Signal>& legal = result_.legal.emplace_back();
    for (const GroundProgram::Move& move : moves) legal.push_back(signal(move.legal));
  }
}

}  // namespace

GameNetwork build_network(const GroundProgram& program) {
  return NetworkBuilder(program).run();
}

}  // namespace orchard::circuit
