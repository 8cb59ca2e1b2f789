#include "support/naive_evaluator.hpp"

#include <algorithm>
#include <functional>

namespace orchard::testing {

std::vector<NaiveEvaluator::Tree> NaiveEvaluator::parse(const std::string& text) {
  std::vector<std::vector<Tree>> open(1);
  std::string word;
  const auto flush = [&] {
    if (!word.empty()) open.back().push_back({word, {}});
    word.clear();
  };
  for (const char c : text) {
    if (c == '(' || c == ')' || c == ' ' || c == '\n') {
      flush();
      if (c == '(') open.emplace_back();
      if (c == ')') {
        Tree list{"", std::move(open.back())};
        open.pop_back();
        open.back().push_back(std::move(list));
      }
    } else {
      word += c;
    }
  }
  flush();
  return open.front();
}

std::string NaiveEvaluator::text_of(const Tree& tree) {
  if (!tree.symbol.empty()) return tree.symbol;
  std::string text = "(";
  for (const Tree& child : tree.children) text += (text.size() > 1 ? " " : "") + text_of(child);
  return text + ")";
}

std::string NaiveEvaluator::relation_of(const Tree& atom) {
  return atom.symbol.empty() ? atom.children.front().symbol : atom.symbol;
}

NaiveEvaluator::Tree NaiveEvaluator::substitute(const Tree& tree, const Binding& binding) {
  if (tree.symbol.starts_with("?")) return binding.at(tree.symbol);
  Tree result{tree.symbol, {}};
  for (const Tree& child : tree.children) result.children.push_back(substitute(child, binding));
  return result;
}

bool NaiveEvaluator::match(const Tree& pattern, const Tree& value, Binding& binding) {
  if (pattern.symbol.starts_with("?")) {
    const auto known = binding.find(pattern.symbol);
    if (known != binding.end()) return text_of(known->second) == text_of(value);
    binding[pattern.symbol] = value;
    return true;
  }
  if (pattern.symbol != value.symbol || pattern.children.size() != value.children.size()) {
    return false;
  }
  for (std::size_t i = 0; i < pattern.children.size(); ++i) {
    if (!match(pattern.children[i], value.children[i], binding)) return false;
  }
  return true;
}

NaiveEvaluator::NaiveEvaluator(const std::string& rules) {
  for (Tree& form : parse(rules)) {
    if (relation_of(form) == "<=") {
      Rule rule{form.children[1], {form.children.begin() + 2, form.children.end()}};
      // Conditions that bind come first; the order of the rest does not matter.
      std::ranges::stable_sort(rule.body, {}, [](const Tree& condition) {
        const std::string name = relation_of(condition);
        return name == "not" || name == "distinct" || name == "or" ? 1 : 0;
      });
      std::ranges::stable_sort(rule.body, {}, [](const Tree& condition) {
        const std::string name = relation_of(condition);
        return name == "not" || name == "distinct" ? 1 : 0;
      });
      rules_.push_back(std::move(rule));
    } else {
      rules_.push_back({form, {}});
    }
  }
  find_strata();
}

void NaiveEvaluator::find_strata() {
  bool changed = true;
  const auto raise = [&](const std::string& relation, int least) {
    int& stratum = stratum_[relation];
    if (stratum >= least) return;
    stratum = least;
    changed = true;
  };
  std::function<void(const std::string&, const Tree&, bool)> look =
      [&](const std::string& head, const Tree& condition, bool negated) {
        const std::string name = relation_of(condition);
        if (name == "distinct") return;
        if (name == "not" || name == "or" || name == "and") {
          for (std::size_t i = 1; i < condition.children.size(); ++i) {
            look(head, condition.children[i], negated != (name == "not"));
          }
          return;
        }
        raise(head, stratum_[name] + (negated ? 1 : 0));
      };
  while (changed) {
    changed = false;
    for (const Rule& rule : rules_) {
      for (const Tree& condition : rule.body) look(relation_of(rule.head), condition, false);
    }
  }
}

bool NaiveEvaluator::holds(const Tree& condition, const Binding& binding,
                           const std::map<std::string, std::vector<Tree>>& known) const {
  const std::string name = relation_of(condition);
  if (name == "not") return !holds(condition.children[1], binding, known);
  if (name == "distinct") {
    return text_of(substitute(condition.children[1], binding)) !=
           text_of(substitute(condition.children[2], binding));
  }
  if (name == "or") {
    return std::any_of(condition.children.begin() + 1, condition.children.end(),
                       [&](const Tree& part) { return holds(part, binding, known); });
  }
  const auto atoms = known.find(name);
  if (atoms == known.end()) return false;
  return std::ranges::any_of(atoms->second, [&](const Tree& atom) {
    Binding copy = binding;
    return match(condition, atom, copy);
  });
}

void NaiveEvaluator::solve(const Rule& rule, std::size_t condition, Binding binding,
                           const std::map<std::string, std::vector<Tree>>& known,
                           std::vector<Tree>& out) const {
  if (condition == rule.body.size()) {
    out.push_back(substitute(rule.head, binding));
    return;
  }
  const Tree& next = rule.body[condition];
  const std::string name = relation_of(next);
  if (name == "or") {
    for (std::size_t i = 1; i < next.children.size(); ++i) {
      Rule chosen = rule;
      chosen.body[condition] = next.children[i];
      solve(chosen, condition, binding, known, out);
    }
    return;
  }
  if (name == "not" || name == "distinct") {
    if (holds(next, binding, known)) solve(rule, condition + 1, std::move(binding), known, out);
    return;
  }
  const auto atoms = known.find(name);
  if (atoms == known.end()) return;
  for (const Tree& atom : atoms->second) {
    Binding extended = binding;
    if (match(next, atom, extended)) {
      solve(rule, condition + 1, std::move(extended), known, out);
    }
  }
}

NaiveEvaluator::Atoms NaiveEvaluator::derive(const Atoms& facts) const {
  Atoms all = facts;
  std::map<std::string, std::vector<Tree>> known;
  for (const std::string& fact : facts) {
    const Tree tree = parse(fact).front();
    known[relation_of(tree)].push_back(tree);
  }
  int highest = 0;
  for (const auto& [relation, stratum] : stratum_) highest = std::max(highest, stratum);
  for (int stratum = 0; stratum <= highest; ++stratum) {
    for (bool changed = true; changed;) {
      changed = false;
      for (const Rule& rule : rules_) {
        const auto of_head = stratum_.find(relation_of(rule.head));
        if ((of_head == stratum_.end() ? 0 : of_head->second) != stratum) continue;
        std::vector<Tree> found;
        solve(rule, 0, {}, known, found);
        for (Tree& atom : found) {
          if (!all.insert(text_of(atom)).second) continue;
          known[relation_of(atom)].push_back(std::move(atom));
          changed = true;
        }
      }
    }
  }
  return all;
}

std::set<std::string> NaiveEvaluator::arguments_of(const Atoms& atoms,
                                                   const std::string& relation) {
  std::set<std::string> result;
  const std::string head = "(" + relation + " ";
  for (const std::string& atom : atoms) {
    if (atom.starts_with(head)) {
      result.insert(atom.substr(head.size(), atom.size() - head.size() - 1));
    }
  }
  return result;
}

}  // namespace orchard::testing
