#include "support/rule_terms.hpp"

#include <algorithm>

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

Rule substituted(const Rule& rule, const Term& variable, const Term& by) {
  return mapped(Rules{rule},
                [&](const std::string& name, std::vector<Term> arguments) {
                  return name == variable.name() ? by : made(name, arguments);
                })
      .front();
}

bool is_number(const std::string& name) {
  return Term::constant(name).number().has_value();
}

Term with_fluents(const Term& condition, const FluentChange& change) {
  if (condition.name() == "true") {
    const auto changed = change(condition.arguments()[0]);
    return changed ? *changed : condition;
  }
  if (condition.name() != "not" && condition.name() != "or" && condition.name() != "and") {
    return condition;
  }
  std::vector<Term> parts;
  for (const Term& part : condition.arguments()) parts.push_back(with_fluents(part, change));
  return Term::function(std::string(condition.name()), parts);
}

std::optional<TurnFluent> turn_fluent(const Rules& rules) {
  std::vector<Term> roles;
  for (const Rule& rule : rules) {
    if (rule.head.name() == "role" && rule.body.empty()) roles.push_back(rule.head.arguments()[0]);
  }
  if (roles.size() != 2 || std::ranges::find(roles, Term::constant("random")) != roles.end()) {
    return std::nullopt;
  }
  std::optional<TurnFluent> result;
  for (const Rule& rule : rules) {
    if (rule.head.name() != "init" || !rule.body.empty()) continue;
    const Term fluent = rule.head.arguments()[0];
    if (fluent.arity() != 1) continue;
    const auto role = std::ranges::find(roles, fluent.arguments()[0]);
    if (role == roles.end()) continue;
    const TurnFluent found{std::string(fluent.name()), *role,
                           role == roles.begin() ? roles[1] : roles[0]};
    const auto makes = [&](const char* keyword) {
      return std::ranges::count_if(rules, [&](const Rule& other) {
        return other.head.name() == keyword && found.is(other.head.arguments()[0]);
      });
    };
    // Such a fluent that stays as it is says something else.
    if (makes("init") == 1 && makes("next") > 0) result = found;
  }
  return result;
}

}  // namespace orchard::testing
