#include "support/rule_terms.hpp"

#include "syntax/expand.hpp"

namespace orchard::testing {

Rules rules_of(const std::string& text) {
  Diagnostics faults;
  const syntax::Tree tree =
      syntax::read_description(syntax::Source("rewritten", text), {}, {}, faults);
  Rules rules;
  for (const syntax::NodeIndex form : tree.forms()) {
    const Term term = syntax::term_of(tree, form).value();
    std::vector<Term> parts{term};
    if (term.name() == "<=") parts = term.arguments();
    Rule rule{parts.front(), {parts.begin() + 1, parts.end()}};
    rules.push_back(std::move(rule));
  }
  return rules;
}

std::string text_of(const Rules& rules) {
  std::string text;
  for (const Rule& rule : rules) {
    std::vector<Term> parts{rule.head};
    parts.insert(parts.end(), rule.body.begin(), rule.body.end());
    text += (rule.body.empty() ? rule.head : Term::function("<=", parts)).to_string() + "\n";
  }
  return text;
}

Term mapped(const Term& term, const TermChange& change) {
  std::vector<Term> arguments;
  for (const Term& argument : term.arguments()) arguments.push_back(mapped(argument, change));
  return change(term.name(), std::move(arguments));
}

Term made(const std::string& name, const std::vector<Term>& arguments) {
  return arguments.empty() ? Term::constant(name) : Term::function(name, arguments);
}

Rules mapped(Rules rules, const TermChange& change) {
  for (Rule& rule : rules) {
    rule.head = mapped(rule.head, change);
    for (Term& condition : rule.body) condition = mapped(condition, change);
  }
  return rules;
}

bool is_number(const std::string& name) {
  return Term::constant(name).number().has_value();
}

}  // namespace orchard::testing
