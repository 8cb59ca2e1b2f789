// Rules that say what another rule says, and bodies that say the same twice or its contrary.
#include <absl/container/flat_hash_map.h>
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <optional>

#include "rules/finding_sink.hpp"

namespace orchard::rules {

using syntax::NodeIndex;

namespace {

bool same(const PatternSymbol& a, const PatternSymbol& b) {
  return a.kind == b.kind && a.value == b.value && a.arity == b.arity;
}

bool same(const Atom& a, const Atom& b) {
  return a.relation == b.relation &&
         std::equal(a.arguments.begin(), a.arguments.end(), b.arguments.begin(), b.arguments.end(),
                    [](const auto& x, const auto& y) { return same(x, y); });
}

// What the variables of the more general clause stand for: a stretch of the other's symbols.
using Bindings = std::vector<std::pair<const PatternSymbol*, std::uint32_t>>;

// Extends `bindings` so that `general` becomes `special`; false if it cannot.
bool match(const Atom& general, const Atom& special, Bindings& bindings) {
  if (general.relation != special.relation) return false;
  const Pattern& from = general.arguments;
  const Pattern& to = special.arguments;
  std::size_t at = 0;
  for (const PatternSymbol& symbol : from) {
    if (at >= to.size()) return false;
    const PatternSymbol& here = to[at];
    if (symbol.kind != PatternSymbol::Kind::variable) {
      if (!same(symbol, here)) return false;
      ++at;
      continue;
    }
    auto& [first, size] = bindings[symbol.value];
    if (first == nullptr) {
      first = &here;
      size = here.size;
    } else if (size != here.size ||
               !std::equal(first, first + size, &here,
                           [](const auto& x, const auto& y) { return same(x, y); })) {
      return false;
    }
    at += here.size;
  }
  return at == to.size();
}

// Whether every instance of `special` is one of `general`: the published notion of subsumption.
class Subsumption {
 public:
  Subsumption(const Clause& general, const Clause& special, std::size_t variables)
      : general_(general), special_(special), variables_(variables) {}

  bool holds() {
    if (general_.body.size() > special_.body.size()) return false;
    Bindings bindings(variables_, {nullptr, 0});
    if (!match(general_.head, special_.head, bindings)) return false;
    // Depth-first over which literal stands for which; bodies are short, the work is bounded.
    std::vector<Bindings> open{bindings};
    std::vector<std::size_t> choice{0};
    while (!choice.empty() && ++steps_ < most_steps) {
      const std::size_t literal = choice.size() - 1;
      if (literal == general_.body.size()) return true;
      std::size_t& candidate = choice.back();
      if (candidate == special_.body.size()) {
        choice.pop_back();
        open.pop_back();
        continue;
      }
      const Literal& wanted = general_.body[literal];
      const Literal& offered = special_.body[candidate++];
      Bindings next = open.back();
      if (wanted.kind != offered.kind || !match(wanted.atom, offered.atom, next)) continue;
      open.push_back(std::move(next));
      choice.push_back(0);
    }
    return false;
  }

 private:
  static constexpr int most_steps = 500;
  const Clause& general_;
  const Clause& special_;
  const std::size_t variables_;
  int steps_ = 0;
};

class RepeatedRules {
 public:
  RepeatedRules(const Description& description, FindingSink& sink)
      : description_(description), sink_(sink) {}

  void run() {
    find_duplicates();
    for (const Relation& relation : description_.relations()) find_subsumed(relation);
    // What `or` makes of a rule may repeat itself without a slip.
    std::vector<int> clauses(description_.rules().size(), 0);
    for (const Clause& clause : description_.clauses()) ++clauses[clause.rule];
    for (const Clause& clause : description_.clauses()) {
      if (clauses[clause.rule] == 1) check_body(clause);
    }
  }

 private:
  void find_duplicates();
  void find_subsumed(const Relation& relation);
  void check_body(const Clause& clause);
  int line(std::uint32_t rule) const {
    return description_.place(description_.rules()[rule].node).line;
  }

  const Description& description_;
  FindingSink& sink_;
  std::vector<bool> repeated_;  // rules
  std::size_t compared_ = 0;
};

void RepeatedRules::find_duplicates() {
  const syntax::Tree& tree = description_.tree();
  std::map<std::string, NodeIndex> known;
  repeated_.assign(description_.rules().size(), false);
  std::size_t number = 0;
  for (const Rule& rule : description_.rules()) {
    std::string canonical;
    std::map<std::string_view, std::size_t> numbers;  // variables by order of appearance
    for (NodeIndex at = rule.node; at < rule.node + tree[rule.node].size; ++at) {
      if (tree.is_variable(at)) {
        canonical +=
            fmt::format("?{} ", numbers.try_emplace(tree[at].text, numbers.size()).first->second);
      } else {
        canonical += fmt::format("{}/{} ", tree[at].text, tree[at].children);
      }
    }
    const auto [entry, is_new] = known.try_emplace(std::move(canonical), rule.node);
    repeated_[number++] = !is_new;
    if (is_new) continue;
    sink_.add(rule.node, "duplicate-rule",
              fmt::format("this is already in line {}", tree.place(entry->second).line),
              "remove one of the two");
  }
}

// Facts are compared with rules, not with one another: equal ones are duplicates.
void RepeatedRules::find_subsumed(const Relation& relation) {
  constexpr std::size_t most_compared = 2'000'000;
  for (const std::uint32_t g : relation.clauses) {
    const Clause& general = description_.clauses()[g];
    const std::vector<std::string_view>& variables = description_.rules()[general.rule].variables;
    if (variables.empty()) continue;
    for (const std::uint32_t s : relation.clauses) {
      const Clause& special = description_.clauses()[s];
      if (general.rule == special.rule || repeated_[general.rule] || repeated_[special.rule]) {
        continue;
      }
      if (++compared_ > most_compared) return;
      if (!Subsumption(general, special, variables.size()).holds()) continue;
      // Two rules that say the same: the later one is the one too many.
      const bool both =
          Subsumption(special, general, description_.rules()[special.rule].variables.size())
              .holds();
      if (both && special.rule < general.rule) continue;
      sink_.add(description_.rules()[special.rule].node, "subsumed-rule",
                fmt::format("the rule in line {} already covers this", line(general.rule)),
                "remove this one, or add the condition that the other one lacks");
    }
  }
}

void RepeatedRules::check_body(const Clause& clause) {
  for (std::size_t i = 0; i < clause.body.size(); ++i) {
    const Literal& literal = clause.body[i];
    if (literal.is_comparison()) {
      const Pattern& terms = literal.atom.arguments;
      const std::size_t half = terms.empty() ? 0 : terms.front().size;
      const bool equal =
          std::equal(terms.begin(), terms.begin() + static_cast<std::ptrdiff_t>(half),
                     terms.begin() + static_cast<std::ptrdiff_t>(half), terms.end(),
                     [](const auto& a, const auto& b) { return same(a, b); });
      if (equal) {
        sink_.add(literal.atom.node, "contradictory-conditions",
                  literal.kind == Literal::Kind::distinct ? "a term never differs from itself"
                                                          : "a term is always the same as itself",
                  "compare two different terms, or leave the condition out");
      }
      continue;
    }
    for (std::size_t j = 0; j < i; ++j) {
      const Literal& other = clause.body[j];
      if (other.is_comparison() || !same(literal.atom, other.atom)) continue;
      const int line = description_.place(other.atom.node).line;
      if (other.kind == literal.kind) {
        sink_.add(literal.atom.node, "repeated-condition",
                  fmt::format("this condition is already in line {} of the same rule", line),
                  "remove it, or write what was meant");
      } else {
        sink_.add(literal.atom.node, "contradictory-conditions",
                  fmt::format("this contradicts the condition in line {}", line),
                  "they never hold together; remove one");
      }
    }
  }
}

}  // namespace

void find_repeated_rules(const Description& description, FindingSink& sink) {
  RepeatedRules(description, sink).run();
}

}  // namespace orchard::rules
