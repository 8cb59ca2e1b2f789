// Descriptions as rules of terms, for tests that rewrite them. Directives are worked out.
#pragma once

#include <functional>
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

bool is_number(const std::string& name);

}  // namespace orchard::testing
