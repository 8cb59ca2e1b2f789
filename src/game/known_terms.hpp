// What the rules can ever make of a term: names, numbers of arguments, and what can stand at each.
//
// By the domains of the rules (`rules/domains.hpp`), which leave nothing out that a play from the
// start can show; so whatever is refused here is a slip of the pen, or of the rules. While nothing
// says what follows a move, only names are looked at. Immutable; safe to share.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/term.hpp"
#include "rules/domains.hpp"

namespace orchard {

class KnownTerms {
 public:
  explicit KnownTerms(const rules::Description& description);

  // Why nothing can ever be so, and what was probably meant; variables stand for anything.
  struct Fault {
    std::string message;  // "no rule makes a fluent like (cel 1 1 bare)"
    std::string remedy;   // "did you mean `cell`?"
    std::string in_one_line() const { return message + "; " + remedy; }
  };
  // Of an atom as rules write it: (true (cell 1 1 bare)), (legal east wait), (open 1 2). Nothing is
  // said of `base` and `input`, which declare what they like.
  std::optional<Fault> fault_in_atom(const Term& atom) const;
  std::optional<Fault> fault_in_fluent(const Term& fluent) const;
  std::optional<Fault> fault_in_move(const Term& move) const;
  std::optional<Fault> fault_in_role(const Term& role) const;

 private:
  // An argument of a relation, or of a function wherever it stands: a term that a variable carries
  // from a move into a percept is written in the rules as a move only.
  struct Argument {
    bool of_relation = false;
    rules::SymbolId name{};
    std::uint32_t arity = 0;
    std::uint32_t number = 0;  // from 0
  };
  std::vector<rules::PlaceId> places(const Argument& at) const;
  // Of a term there, which is a part of `whole`; `kind` names what it is where it is all of it.
  std::optional<Fault> fault_at(const Argument& at, const Term& term, const Term& whole,
                                const char* kind) const;
  std::string likely(const Term& term, const std::vector<rules::PlaceId>& places) const;
  rules::SymbolId symbol_of(rules::Keyword keyword) const;

  const rules::Description& description_;
  rules::Domains domains_;
  bool only_names_ = false;
};

}  // namespace orchard
