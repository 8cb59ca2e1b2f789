// Descriptions as rules of terms, for tests that rewrite them. Directives are worked out.
#pragma once

#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "orchard/term.hpp"

namespace orchard::testing {

// Names that the language gives a meaning.
inline const std::set<std::string> keywords = {
    "<=",   "and",   "or",   "not",  "distinct", "role",  "init",   "true",    "does",
    "next", "legal", "goal", "base", "sees",     "input", "random", "terminal"};

struct Rule {
  Term head;
  std::vector<Term> body;
};
using Rules = std::vector<Rule>;

Rules rules_of(const std::string& text);
std::string text_of(const Rules& rules);

// A constant, or a function with its arguments.
Term made(const std::string& name, const std::vector<Term>& arguments);
// Every term with what `change` makes of it, the arguments first.
using TermChange = std::function<Term(const std::string& name, std::vector<Term> arguments)>;
Term mapped(const Term& term, const TermChange& change);
Rules mapped(Rules rules, const TermChange& change);
// A rule with a term in the place of a variable.
Rule substituted(const Rule& rule, const Term& variable, const Term& by);

bool is_number(const std::string& name);

// A condition with what `change` makes of each fluent that it asks for by `true`; none leaves it.
using FluentChange = std::function<std::optional<Term>(const Term& fluent)>;
Term with_fluents(const Term& condition, const FluentChange& change);

// In a game of two players without chance: the fluent that names whose turn it is.
struct TurnFluent {
  std::string name;
  Term first;  // the role that begins
  Term second;
  bool is(const Term& fluent) const { return fluent.name() == name && fluent.arity() == 1; }
};
std::optional<TurnFluent> turn_fluent(const Rules& rules);

}  // namespace orchard::testing
