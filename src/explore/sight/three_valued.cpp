#include "explore/sight/three_valued.hpp"

#include <algorithm>
#include <numeric>
#include <optional>

#include "base/components.hpp"

namespace orchard::explore {

using ground::AtomId;
using ground::GroundClause;

ThreeValued::ThreeValued(const ground::GroundProgram& program) : program_(program) {
  const auto& all = program.clauses();
  const auto head = [&](std::uint32_t clause) { return ground::index_of(all[clause].head); };
  clauses_.resize(all.size());
  std::iota(clauses_.begin(), clauses_.end(), 0u);
  std::ranges::stable_sort(clauses_, {}, head);
  const auto count = static_cast<std::uint32_t>(program.atom_count());
  maker_.assign(count, nobody);
  for (std::uint32_t role = 0; role < program.moves().size(); ++role) {
    for (const auto& move : program.moves()[role]) {
      if (move.does != ground::no_atom) maker_[ground::index_of(move.does)] = role;
    }
  }
  first_clause_.assign(count + 1, 0);
  for (const std::uint32_t clause : clauses_) ++first_clause_[head(clause) + 1];
  std::partial_sum(first_clause_.begin(), first_clause_.end(), first_clause_.begin());

  struct Cursor {
    std::uint32_t atom;
    std::size_t clause = 0;
    std::size_t literal = 0;
  };
  const auto next = [&](Cursor& at) -> std::optional<std::uint32_t> {
    const auto own = clauses(AtomId{at.atom});
    for (; at.clause < own.size(); ++at.clause, at.literal = 0) {
      const GroundClause& clause = all[own[at.clause]];
      if (at.literal == clause.positive + clause.negative) continue;
      // The negative literals stand behind the positive ones.
      const std::size_t literal = at.literal++;
      const auto positive = program.positive(clause);
      const AtomId on = literal < positive.size()
                            ? positive[literal]
                            : program.negative(clause)[literal - positive.size()];
      return static_cast<std::uint32_t>(on);
    }
    return std::nullopt;
  };
  each_component(
      count, [](std::uint32_t atom) { return Cursor{atom}; }, next,
      [&](const std::vector<std::uint32_t>& members) {
        atoms_.insert(atoms_.end(), members.begin(), members.end());
        components_.push_back(static_cast<std::uint32_t>(atoms_.size()));
      });
}

std::span<const std::uint32_t> ThreeValued::clauses(AtomId atom) const {
  const std::size_t number = ground::index_of(atom);
  return std::span(clauses_).subspan(first_clause_[number],
                                     first_clause_[number + 1] - first_clause_[number]);
}

bool ThreeValued::is_input(std::uint32_t atom) const {
  const auto keyword = program_.keyword(AtomId{atom});
  return keyword == rules::Keyword::true_ || keyword == rules::Keyword::does;
}

Truth ThreeValued::body(const GroundClause& clause, std::span<const Truth> values) const {
  Truth least = Truth::yes;
  for (const AtomId atom : program_.positive(clause)) {
    least = std::min(least, values[ground::index_of(atom)]);
  }
  for (const AtomId atom : program_.negative(clause)) {
    least = std::min(least, !values[ground::index_of(atom)]);
  }
  return least;
}

// Whether every move that a role may be making derives the atom, each by a clause in which nothing
// else is open.
bool ThreeValued::whatever_is_chosen(std::uint32_t atom, std::span<const Truth> values,
                                     std::span<const std::uint32_t> choices) const {
  const auto is_open = [&](AtomId on) { return values[ground::index_of(on)] == Truth::open; };
  std::vector<std::uint32_t> moves;
  for (const std::uint32_t number : clauses(AtomId{atom})) {
    const GroundClause& clause = program_.clauses()[number];
    const auto positive = program_.positive(clause);
    const auto first = std::ranges::find_if(positive, is_open);
    if (first != positive.end() && maker_[ground::index_of(*first)] != nobody &&
        body(clause, values) == Truth::open && std::ranges::count_if(positive, is_open) == 1 &&
        std::ranges::none_of(program_.negative(clause), is_open)) {
      moves.push_back(static_cast<std::uint32_t>(*first));
    }
  }
  std::ranges::sort(moves);
  moves.erase(std::unique(moves.begin(), moves.end()), moves.end());
  for (std::uint32_t role = 0; role < choices.size(); ++role) {
    const auto of_role = [&](std::uint32_t move) { return maker_[move] == role; };
    if (choices[role] > 0 && std::ranges::count_if(moves, of_role) == choices[role]) return true;
  }
  return false;
}

std::vector<Truth> ThreeValued::evaluate(std::span<const Truth> given,
                                         std::span<const std::uint32_t> choices) const {
  std::vector<Truth> values(given.begin(), given.end());
  std::uint32_t first = 0;
  for (const std::uint32_t end : components_) {
    const auto members = std::span(atoms_).subspan(first, end - first);
    first = end;
    if (members.size() > 1) {
      evaluate_recursive(members, given, values);
      continue;
    }
    const std::uint32_t atom = members.front();
    if (given[atom] != Truth::open || is_input(atom)) continue;
    values[atom] = Truth::no;  // a clause that needs its own head derives nothing
    for (const std::uint32_t clause : clauses(AtomId{atom})) {
      values[atom] = std::max(values[atom], body(program_.clauses()[clause], values));
      if (values[atom] == Truth::yes) break;
    }
    if (values[atom] == Truth::open && !choices.empty() &&
        whatever_is_chosen(atom, values, choices)) {
      values[atom] = Truth::yes;
    }
  }
  return values;
}

// What must hold and what may hold are least fixpoints, one after the other: negation leads out of
// the component only.
void ThreeValued::evaluate_recursive(std::span<const std::uint32_t> atoms,
                                     std::span<const Truth> given,
                                     std::vector<Truth>& values) const {
  const auto grow = [&](Truth wanted) {
    for (bool more = true; more;) {
      more = false;
      for (const std::uint32_t atom : atoms) {
        if (given[atom] != Truth::open || values[atom] >= wanted) continue;
        const auto derives = [&](std::uint32_t clause) {
          return body(program_.clauses()[clause], values) >= wanted;
        };
        if (!std::ranges::any_of(clauses(AtomId{atom}), derives)) continue;
        values[atom] = wanted;
        more = true;
      }
    }
  };
  for (const std::uint32_t atom : atoms) {
    if (given[atom] == Truth::open) values[atom] = Truth::no;
  }
  grow(Truth::yes);
  grow(Truth::open);
}

}  // namespace orchard::explore
