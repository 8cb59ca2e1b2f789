#include "rules/well_formed.hpp"

#include <absl/container/flat_hash_set.h>
#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <set>

#include "base/similar.hpp"
#include "rules/findings.hpp"
#include "rules/keywords.hpp"
#include "rules/misspelled.hpp"
#include "syntax/directives.hpp"

namespace orchard::rules {

using syntax::error_at;
using syntax::NodeIndex;

namespace {

class Checker {
 public:
  Checker(const Description& description, const Dependency& dependency, Diagnostics& diagnostics)
      : description_(description), dependency_(dependency), diagnostics_(diagnostics) {}

  void run() {
    check_arities();
    check_directives();
    for (const Clause& clause : description_.clauses()) {
      if (!no_directives_.contains(clause.head.relation)) check_safety(clause);
    }
    for (std::size_t r = 0; r < description_.relations().size(); ++r) {
      check_negation(RelationId{static_cast<std::uint32_t>(r)});
    }
    check_phases();
    check_recursion();
  }

 private:
  void check_arities();
  void check_directives();
  void not_a_directive(NodeIndex node, const std::string& name);
  void check_safety(const Clause& clause);
  void check_negation(RelationId relation);
  void check_phases();
  void check_phase(Keyword keyword, std::span<const Keyword> forbidden);
  void check_recursion();
  void check_recursive_clause(const Clause& clause, std::uint32_t component);

  bool in_component(const Literal& literal, std::uint32_t component) const {
    return !literal.is_comparison() && dependency_.component(literal.atom.relation) == component;
  }
  std::string name(RelationId relation) const {
    return description_.terms().name(description_.relation(relation).name);
  }
  void add_notes(Diagnostic& diagnostic, std::span<const Dependency::Use> uses) const;

  const Description& description_;
  const Dependency& dependency_;
  Diagnostics& diagnostics_;
  absl::flat_hash_set<RelationId> no_directives_;  // that look like some
};

namespace {

bool looks_like_directive(std::string_view name) {
  return name.size() > 1 && name[0] == '#' && name[1] >= 'a' && name[1] <= 'z';
}

bool is_integer(std::string_view name) {
  return !name.empty() && name.find_first_not_of("-0123456789") == std::string_view::npos;
}

// What stands in place of a directive of other languages, or of none.
Remedy instead_of_directive(std::string_view name) {
  const auto is_one_of = [&](std::initializer_list<std::string_view> names) {
    return std::ranges::find(names, name) != names.end();
  };
  if (is_one_of({"#if", "#when", "#unless", "#else", "#ifdef", "#endif"})) {
    return "a loop from a greater to a smaller number makes nothing, so (#for ?_n 3 size FORM…) "
           "makes "
           "its forms where size is 3 or more";
  }
  if (is_one_of({"#def", "#define", "#const", "#macro", "#set", "#var"})) {
    return "a number gets a name by (#let NAME NUMBER), a condition by a rule, "
           "(<= (NAME ?x) CONDITION…)";
  }
  std::vector<std::string> known;
  std::string list;
  for (const syntax::DirectiveFacts& facts : syntax::directives()) {
    known.emplace_back(facts.name);
    list += (list.empty() ? "" : ", ") + known.back();
  }
  const auto meant = most_similar(std::string(name), known);
  return meant ? Remedy::name_meant(name, *meant) : "the directives are " + list;
}

}  // namespace

void Checker::not_a_directive(NodeIndex node, const std::string& name) {
  syntax::report(description_.tree(), node, "bad-directive",
                 fmt::format("there is no directive `{}`", name), instead_of_directive(name),
                 diagnostics_);
}

// The language allows names such as `#next`. One that rules both make and ask for is a relation;
// else a directive was meant. So it was by `(#power 2 3)`, a term of numbers.
void Checker::check_directives() {
  std::vector<bool> asked(description_.relations().size(), false);
  std::set<std::string> told;
  const auto look_at_terms = [&](const Pattern& pattern) {
    for (std::size_t at = 0; at < pattern.size(); ++at) {
      const PatternSymbol& symbol = pattern[at];
      if (symbol.kind != PatternSymbol::Kind::function) continue;
      const std::string& name = description_.terms().name(symbol.symbol());
      if (!looks_like_directive(name)) continue;
      const auto inner = std::span(pattern).subspan(at + 1, symbol.size - 1);
      const bool numbers = std::ranges::all_of(inner, [&](const PatternSymbol& one) {
        return one.kind == PatternSymbol::Kind::constant &&
               is_integer(description_.terms().name(one.symbol()));
      });
      if (numbers && told.insert(name).second) not_a_directive(symbol.node, name);
    }
  };
  for (const Clause& clause : description_.clauses()) {
    look_at_terms(clause.head.arguments);
    for (const Literal& literal : clause.body) {
      look_at_terms(literal.atom.arguments);
      if (!literal.is_comparison()) asked[index_of(literal.atom.relation)] = true;
    }
  }
  for (std::size_t r = 0; r < asked.size(); ++r) {
    const Relation& relation = description_.relations()[r];
    const std::string& name = description_.terms().name(relation.name);
    if (!looks_like_directive(name) || (asked[r] && relation.concluded)) continue;
    no_directives_.insert(static_cast<RelationId>(r));
    if (told.insert(name).second) not_a_directive(relation.first_use, name);
  }
}

void Checker::check_arities() {
  absl::flat_hash_map<SymbolId, const Relation*> first;
  for (const Relation& relation : description_.relations()) {
    const auto [entry, is_new] = first.try_emplace(relation.name, &relation);
    if (is_new) continue;
    const std::string& text = description_.terms().name(relation.name);
    Diagnostic diagnostic =
        error_at(description_.tree(), relation.first_use, "relation-arity",
                 fmt::format("`{}` has {} argument{} here and {} elsewhere", text, relation.arity,
                             relation.arity == 1 ? "" : "s", entry->second->arity),
                 "a relation keeps one number of arguments; rename one of the two");
    diagnostic.notes.push_back({description_.place(entry->second->first_use), "first used here"});
    diagnostics_.add(std::move(diagnostic));
  }
}

// Every variable needs a positive condition; one message for each rule and variable.
void Checker::check_safety(const Clause& clause) {
  absl::flat_hash_set<std::uint32_t> bound;
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive) continue;
    for (const PatternSymbol& symbol : literal.atom.arguments) {
      if (symbol.kind == PatternSymbol::Kind::variable) bound.insert(symbol.value);
    }
  }
  const auto check = [&](const Pattern& pattern, std::string_view where) {
    for (const PatternSymbol& symbol : pattern) {
      if (symbol.kind != PatternSymbol::Kind::variable || !bound.insert(symbol.value).second) {
        continue;
      }
      const std::string_view variable = description_.rules()[clause.rule].variables[symbol.value];
      std::vector<std::string> others;
      for (const std::string_view other : description_.rules()[clause.rule].variables) {
        if (other != variable) others.emplace_back(other);
      }
      const auto meant = most_similar(variable, others);
      syntax::report(
          description_.tree(), symbol.node, "unsafe-variable",
          fmt::format("{} is used in {}, but in no positive condition", variable, where),
          meant ? fmt::format("add a condition that says which values {} can take; or is it {}?",
                              variable, *meant)
                : fmt::format("add a condition that says which values {} can take", variable),
          diagnostics_);
    }
  };
  check(clause.head.arguments, "the head");
  for (const Literal& literal : clause.body) {
    if (literal.kind == Literal::Kind::negative) check(literal.atom.arguments, "a negation");
    if (literal.is_comparison()) check(literal.atom.arguments, "a comparison");
  }
}

void Checker::add_notes(Diagnostic& diagnostic, std::span<const Dependency::Use> uses) const {
  for (const Dependency::Use& use : uses) {
    const Clause& clause = description_.clauses()[use.clause];
    diagnostic.notes.push_back({description_.place(clause.body[use.literal].atom.node),
                                fmt::format("{} depends on {}{}", name(clause.head.relation),
                                            use.negative ? "not " : "", name(use.on))});
  }
}

void Checker::check_negation(RelationId relation) {
  for (const Dependency::Use& use : dependency_.uses(relation)) {
    if (!use.negative || dependency_.component(use.on) != dependency_.component(relation)) continue;
    const Literal& literal = description_.clauses()[use.clause].body[use.literal];
    Diagnostic diagnostic =
        error_at(description_.tree(), literal.atom.node, "unstratified-negation",
                 fmt::format("`{}` depends on its own negation", name(relation)),
                 "break the cycle: define one of these relations without the other");
    std::vector<Dependency::Use> circle{use};
    if (use.on != relation) {
      const auto back = dependency_.path(use.on, [&](RelationId r) { return r == relation; });
      circle.insert(circle.end(), back.begin(), back.end());
    }
    add_notes(diagnostic, circle);
    diagnostics_.add(std::move(diagnostic));
    return;
  }
}

void Checker::check_phases() {
  using enum Keyword;
  constexpr std::array at_start = {true_, does, next, legal, goal, terminal};
  constexpr std::array declared = {true_, does};
  constexpr std::array in_position = {does};
  check_phase(init, at_start);
  check_phase(base, declared);
  check_phase(input, declared);
  check_phase(legal, in_position);
  check_phase(goal, in_position);
  check_phase(terminal, in_position);
}

void Checker::check_phase(Keyword keyword, std::span<const Keyword> forbidden) {
  const auto relation = description_.find(keyword);
  if (!relation) return;
  const auto chain = dependency_.path(*relation, [&](RelationId used) {
    const Keyword other = description_.relation(used).keyword;
    return std::ranges::find(forbidden, other) != forbidden.end();
  });
  if (chain.empty()) return;
  const Clause& first = description_.clauses()[chain.front().clause];
  const std::string reached = name(chain.back().on);
  Diagnostic diagnostic =
      error_at(description_.tree(), first.body[chain.front().literal].atom.node,
               reached == "does" ? "depends-on-move" : "depends-on-position",
               fmt::format("`{}` must not depend on `{}`", name_of(keyword), reached),
               reached == "does" ? "what a move changes belongs in `next`"
                                 : "use relations that are the same in every position");
  if (chain.size() > 1) add_notes(diagnostic, chain);
  diagnostics_.add(std::move(diagnostic));
}

// The published restriction on recursion keeps what can be derived in one position finite. It is
// applied where it matters: in components where some head builds a function term around a
// variable, the only way in which terms can grow without end.
void Checker::check_recursion() {
  for (std::uint32_t c = 0; c < dependency_.components().size(); ++c) {
    if (!dependency_.is_recursive(c)) continue;
    std::vector<const Clause*> recursive;
    bool grows = false;
    for (const RelationId member : dependency_.components()[c]) {
      for (const std::uint32_t number : description_.relation(member).clauses) {
        const Clause& clause = description_.clauses()[number];
        const auto inside = [&](const Literal& literal) { return in_component(literal, c); };
        if (std::ranges::none_of(clause.body, inside)) continue;
        recursive.push_back(&clause);
        for_each_argument(clause.head.arguments, [&](const auto* first, const auto* end) {
          const auto is_variable = [](const PatternSymbol& s) {
            return s.kind == PatternSymbol::Kind::variable;
          };
          grows = grows || (end - first > 1 && std::any_of(first, end, is_variable));
        });
      }
    }
    if (!grows) continue;
    for (const Clause* clause : recursive) check_recursive_clause(*clause, c);
  }
}

void Checker::check_recursive_clause(const Clause& clause, std::uint32_t component) {
  const auto same = [](const PatternSymbol& a, const PatternSymbol& b) {
    return a.kind == b.kind && a.value == b.value && a.arity == b.arity;
  };
  absl::flat_hash_set<std::uint32_t> bound;  // variables of conditions outside the cycle
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive || in_component(literal, component)) continue;
    for (const PatternSymbol& symbol : literal.atom.arguments) {
      if (symbol.kind == PatternSymbol::Kind::variable) bound.insert(symbol.value);
    }
  }
  for (const Literal& literal : clause.body) {
    if (literal.kind != Literal::Kind::positive || !in_component(literal, component)) continue;
    for_each_argument(literal.atom.arguments, [&](const auto* first, const auto* end) {
      const bool finite = std::all_of(first, end, [&](const PatternSymbol& symbol) {
        return symbol.kind != PatternSymbol::Kind::variable || bound.contains(symbol.value);
      });
      bool in_head = false;
      for_each_argument(clause.head.arguments, [&](const auto* from, const auto* to) {
        in_head = in_head || std::equal(from, to, first, end, same);
      });
      if (finite || in_head) return;
      syntax::report(
          description_.tree(), first->node, "unbounded-recursion",
          fmt::format("`{}` could grow without end through this argument",
                      name(clause.head.relation)),
          "bound it with a condition on a relation outside of the cycle, such as (number ?x)",
          diagnostics_);
    });
  }
}

void add_suspicious(Diagnostic diagnostic, Diagnostics& diagnostics) {
  diagnostic.severity = Severity::suspicious;
  diagnostics.add(std::move(diagnostic));
}

void find_unfinished(const Description& description, Diagnostics& diagnostics) {
  struct Part {
    Keyword keyword;
    const char* code;
    const char* message;
    const char* remedy;
  };
  static constexpr Part parts[] = {
      {Keyword::init, "no-init", "nothing holds at the start", "add (init FLUENT) facts"},
      {Keyword::legal, "no-legal", "no move is ever legal", "add rules for (legal ROLE MOVE)"},
      {Keyword::next, "no-next", "nothing holds after a move", "add rules for (next FLUENT)"},
      {Keyword::terminal, "no-terminal", "no position is an end", "add rules for terminal"},
      {Keyword::goal, "no-goal", "nobody is given a value", "add rules for (goal ROLE VALUE)"},
  };
  const std::set<std::string> allowed = allowed_codes(description.tree().source().text());
  const std::vector<MisspelledHead> misspelled = misspelled_heads(description);
  for (const Part& part : parts) {
    if (allowed.contains(part.code)) continue;
    // It is there, but for a slip of the pen.
    if (std::ranges::count(misspelled, part.keyword, &MisspelledHead::meant) > 0) continue;
    const auto relation = description.find(part.keyword);
    if (relation && description.relation(*relation).concluded) continue;
    Diagnostic diagnostic = plain_error(part.code, part.message, part.remedy);
    diagnostic.place.file = description.tree().source().name();
    add_suspicious(std::move(diagnostic), diagnostics);
  }
}

}  // namespace

void check_restrictions(const Description& description, const Dependency& dependency,
                        Diagnostics& diagnostics) {
  Checker(description, dependency, diagnostics).run();
}

bool is_other_text(const Description& description, Diagnostics& diagnostics) {
  struct Kind {
    std::string_view head;
    const char* plural;
    bool named;  // by a text that comes first
  };
  static constexpr Kind kinds[] = {
      {"case", "cases", true}, {"claim", "claims", true}, {"draw", "drawing rules", false}};
  if (!description.roles().empty()) return false;
  const syntax::Tree& tree = description.tree();
  for (const NodeIndex form : tree.forms()) {
    NodeIndex head = form;  // a fact, or what a rule concludes
    if (tree[form].children >= 2 && tree[form + 1].text == "<=") head = form + 2;
    if (tree[head].children < 2) continue;
    const NodeIndex part = head + 1;
    const auto kind = std::ranges::find(kinds, tree[part].text, &Kind::head);
    if (kind == std::end(kinds) || !tree.is_symbol(part)) continue;
    // Descriptions have no texts in quotes: what looks like one was read as words.
    if (kind->named && !tree[part + 1].text.starts_with('"')) continue;
    Diagnostic diagnostic = plain_error(
        "not-a-description",
        fmt::format("these are {}, not the description of a game", kind->plural),
        fmt::format(
            "open the description, NAME.gdl; {} of the same name beside it are taken with it",
            kind->plural));
    diagnostic.place = tree.place(form);
    diagnostics.add(std::move(diagnostic));
    return true;
  }
  return false;
}

void find_missing(const Description& description, Diagnostics& diagnostics) {
  if (description.roles().empty()) {
    Diagnostic diagnostic =
        plain_error("no-role", "the description names no role", "add (role NAME) for each player");
    diagnostic.place.file = description.tree().source().name();
    diagnostics.add(std::move(diagnostic));
  }
  find_unfinished(description, diagnostics);
}

}  // namespace orchard::rules
