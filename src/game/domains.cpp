#include "orchard/domains.hpp"

#include <algorithm>

#include "game/core.hpp"
#include "rules/domains.hpp"

namespace orchard {

using rules::Places;

namespace {

ArgumentDomain::Kind kind_of(Places::Owner owner) {
  switch (owner) {
    case Places::Owner::relation:
      return ArgumentDomain::Kind::relation;
    case Places::Owner::fluent:
      return ArgumentDomain::Kind::fluent;
    case Places::Owner::move:
      return ArgumentDomain::Kind::move;
    case Places::Owner::function:
      break;
  }
  return ArgumentDomain::Kind::function;
}

}  // namespace

std::string_view name_of(ArgumentDomain::Kind kind) {
  switch (kind) {
    case ArgumentDomain::Kind::relation:
      return "relation";
    case ArgumentDomain::Kind::fluent:
      return "fluent";
    case ArgumentDomain::Kind::move:
      return "move";
    case ArgumentDomain::Kind::function:
      break;
  }
  return "function";
}

std::vector<ArgumentDomain> argument_domains(const Game& game) {
  const rules::Description& description = GameAccess::core(game)->program().description();
  const rules::Domains domains(description);
  std::vector<ArgumentDomain> result;
  for (const auto& [key, place] : domains.places().all()) {
    ArgumentDomain domain;
    domain.kind = kind_of(key.owner);
    domain.name = description.terms().name(key.name);
    domain.arity = key.arity;
    domain.argument = key.argument + 1;
    for (const rules::Domains::Name& name : domains.domain(place)) {
      const std::string& text = description.terms().name(name.symbol);
      domain.values.push_back(name.arity == 0 ? text : "(" + text + " …)");
    }
    std::ranges::sort(domain.values,
                      [](const auto& a, const auto& b) { return compare_names(a, b) < 0; });
    result.push_back(std::move(domain));
  }
  std::ranges::sort(result, [](const ArgumentDomain& a, const ArgumentDomain& b) {
    return std::tie(a.kind, a.name, a.arity, a.argument) <
           std::tie(b.kind, b.name, b.arity, b.argument);
  });
  return result;
}

}  // namespace orchard
