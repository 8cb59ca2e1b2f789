// What can stand at the arguments of a description. Any thread may call.
#pragma once

#include <string>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

// The names that can stand at one argument, computed from the rules: an over-approximation that
// ignores negation and comparisons.
struct ArgumentDomain {
  // The kinds of symbols that have arguments.
  enum class Kind {
    relation,  // argument of a relation: (above HERE 2)
    fluent,    // argument of a fluent: (true (square HERE 2 bare))
    move,      // argument of a move: (does east (tie HERE 2))
    function,  // argument of any other function term
  };
  // The kind of symbol that the argument belongs to.
  Kind kind = Kind::relation;
  // The name of that symbol.
  std::string name;
  // The number of arguments of that symbol.
  std::size_t arity = 0;
  std::size_t argument = 0;         // from 1
  std::vector<std::string> values;  // constants; a function as "(open …)"; in the order of names
};

// The word that the command prints for it.
std::string_view name_of(ArgumentDomain::Kind kind);

// All arguments that the rules speak of, by kind, name and argument. `init`, `true`, `next` and
// `base` are one relation here, named `true`; `legal`, `does` and `input` another, named `does`.
// O(rounds · size of the rules · values at a place).
std::vector<ArgumentDomain> argument_domains(const Game& game);

}  // namespace orchard
