#include "rules/single_variables.hpp"

#include <fmt/core.h>

#include <map>
#include <set>
#include <vector>

namespace orchard::rules {
namespace {

struct Uses {
  std::vector<std::pair<syntax::NodeIndex, std::string_view>> unmarked;    // once
  std::vector<std::pair<syntax::NodeIndex, std::string_view>> used_again;  // marked, more than once
  std::size_t marked = 0;                                                  // once
};

// Each rule as it was written, not as often as directives make it.
Uses uses_of(const Description& description) {
  const syntax::Tree& tree = description.tree();
  std::set<FindingSink::Written> seen;
  Uses result;
  for (const Rule& rule : description.rules()) {
    if (!seen.insert(FindingSink::written(description, rule.node)).second) continue;
    std::map<std::string_view, std::pair<syntax::NodeIndex, int>> uses;
    for (syntax::NodeIndex at = rule.node; at < rule.node + tree[rule.node].size; ++at) {
      if (tree.is_variable(at)) ++uses.try_emplace(tree[at].text, at, 0).first->second.second;
    }
    for (const auto& [name, use] : uses) {
      const bool marked = name.starts_with("?_");
      if (marked && use.second == 1) ++result.marked;
      if (marked && use.second > 1) result.used_again.emplace_back(use.first, name);
      if (!marked && use.second == 1 && !name.starts_with("?any")) {
        result.unmarked.emplace_back(use.first, name);
      }
    }
  }
  return result;
}

bool are_marked(const Uses& uses) {
  constexpr std::size_t least = 4;
  constexpr std::size_t share = 8;  // so many times as many marked ones
  return uses.marked >= least && uses.unmarked.size() * share <= uses.marked;
}

Remedy written_as(std::string_view name, const std::string& instead, std::string_view sentence) {
  Remedy remedy(fmt::format(fmt::runtime(sentence), instead));
  remedy.correction = Correction{std::string(name), instead};
  return remedy;
}

}  // namespace

void find_unmarked_variables(const Description& description, FindingSink& sink) {
  const Uses uses = uses_of(description);
  if (!are_marked(uses)) return;
  // Where something else is found in the rule, that is likely to be why.
  const auto is_explained = [&](syntax::NodeIndex node) {
    return sink.found_in(description.tree().form_of(node));
  };
  for (const auto& [node, name] : uses.unmarked) {
    if (is_explained(node)) continue;
    sink.add(
        node, "lone-variable",
        fmt::format("{} is used once in its rule; all others of that kind begin with ?_", name),
        written_as(name, "?_" + std::string(name.substr(1)),
                   "is a condition missing, or another variable meant? If not, write {}"));
  }
  constexpr std::size_t share = 8;
  if (uses.used_again.size() * share > uses.marked) return;
  for (const auto& [node, name] : uses.used_again) {
    if (is_explained(node)) continue;
    sink.add(
        node, "lone-variable",
        fmt::format("{} is used more than once in its rule; no other that begins with ?_ is", name),
        written_as(name, "?" + std::string(name.substr(2)),
                   "is another variable meant? If not, write {}"));
  }
}

void hint_at_single_variables(const Description& description, FindingSink& sink) {
  const Uses uses = uses_of(description);
  if (are_marked(uses)) return;
  for (const auto& [node, name] : uses.unmarked) {
    sink.add(node, "variable-used-once", fmt::format("{} is used only once in its rule", name),
             written_as(name, "?_" + std::string(name.substr(1)),
                        "if anything may stand here, a name such as ?any or {} says so"),
             Severity::hint);
  }
}

}  // namespace orchard::rules
