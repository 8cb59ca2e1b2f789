#include "review/claims/claim_values.hpp"

#include <algorithm>
#include <set>
#include <utility>

#include "game/core.hpp"
#include "game/lane_game.hpp"

namespace orchard::review {

namespace {

// Matches a pattern with a ground term; puts what variables stand for into `values`.
bool match(const Term& pattern, const Term& ground,
           std::vector<std::pair<std::string, Term>>& values) {
  if (pattern.is_variable()) {
    values.emplace_back(pattern.name(), ground);
    return true;
  }
  if (pattern.name() != ground.name() || pattern.arity() != ground.arity()) return false;
  const auto left = pattern.arguments();
  const auto right = ground.arguments();
  for (std::size_t i = 0; i < left.size(); ++i) {
    if (!match(left[i], right[i], values)) return false;
  }
  return true;
}

}  // namespace

bool gather_values(const Game& game, const Term& atom, ClaimValues& values_of) {
  bool fits = false;
  const ground::GroundProgram& ground = GameAccess::core(game)->lanes_near_start()->ground();
  const rules::TermTable& terms = ground.terms();
  std::map<std::string, std::set<Term>> found;
  const auto consider = [&](const Term& fact) {
    std::vector<std::pair<std::string, Term>> values;
    if (!match(atom, fact, values)) return;
    fits = true;
    for (auto& [variable, value] : values) found[variable].insert(std::move(value));
  };
  const auto of_role = [&](std::size_t role, TermId term) {
    return Term::function(atom.name(),
                          {Term::constant(game.roles()[role].name()), terms.term(term)});
  };
  if (atom.name() == "true") {
    for (const auto& fluent : ground.fluents())
      consider(Term::function("true", {terms.term(fluent.term)}));
  } else if (atom.name() == "legal" || atom.name() == "does") {
    for (std::size_t role = 0; role < ground.moves().size(); ++role) {
      for (const auto& move : ground.moves()[role]) consider(of_role(role, move.term));
    }
  } else if (atom.name() == "goal") {
    for (std::size_t role = 0; role < ground.goals().size(); ++role) {
      for (const auto& goal : ground.goals()[role]) consider(of_role(role, goal.term));
    }
  } else if (atom.name() == "terminal") {
    fits = ground.terminal() != ground::no_atom;
  } else if (const auto relation =
                 ground.description().find(atom.name(), static_cast<std::uint32_t>(atom.arity()))) {
    for (const auto& instance : ground.instances(*relation)) {
      std::vector<Term> arguments;
      for (const TermId term : instance.arguments) arguments.push_back(terms.term(term));
      consider(Term::function(atom.name(), arguments));
    }
  }
  for (auto& [variable, values] : found) {
    auto& all = values_of[variable];
    all.insert(all.end(), values.begin(), values.end());
    std::ranges::sort(all);
    all.erase(std::unique(all.begin(), all.end()), all.end());
  }
  return fits;
}

}  // namespace orchard::review
