#include "rules/findings.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <map>

#include "base/similar.hpp"
#include "rules/domains.hpp"
#include "rules/finding_sink.hpp"
#include "rules/keywords.hpp"
#include "rules/misspelled.hpp"
#include "rules/single_variables.hpp"

namespace orchard::rules {

using syntax::NodeIndex;

namespace {

class SlipFinder {
 public:
  SlipFinder(const Description& description, FindingSink& sink)
      : description_(description), domains_(description), sink_(sink) {}

  // False if what was found makes the rest look wrong.
  bool run() {
    find_function_arities();
    find_undefined();
    if (find_arithmetic_terms()) return false;
    if (finished()) {
      find_impossible(description_, sink_);
      find_unread(description_, sink_);
      find_idle_roles();
    }
    for (const Keyword keyword : {Keyword::legal, Keyword::goal, Keyword::sees}) {
      find_strangers(keyword);
    }
    find_similar_variables();
    compare_declared(Keyword::base, {Keyword::init, Keyword::next}, 0, "fluent");
    compare_declared(Keyword::input, {Keyword::legal}, 1, "move");
    return true;
  }

 private:
  using Names =
      std::map<Domains::Name, NodeIndex, bool (*)(const Domains::Name&, const Domains::Name&)>;

  bool has(Keyword keyword) const {
    const auto relation = description_.find(keyword);
    return relation && description_.relation(*relation).concluded;
  }
  // While these are missing, all that depends on them is missing too; saying so would be noise.
  bool finished() const { return has(Keyword::next) && has(Keyword::legal); }

  void find_undefined();
  bool say_what_it_is(const Relation& relation, const std::string& name);
  void find_idle_roles();
  void find_idle_roles(Keyword keyword, const char* code, const char* what);
  void find_strangers(Keyword keyword);
  void find_function_arities();
  bool find_arithmetic_terms();
  void find_similar_variables();
  void compare_declared(Keyword declaring, std::initializer_list<Keyword> making,
                        std::size_t argument, const char* what);
  // Names of the terms at an argument of the heads of a relation; none if a variable stands there.
  std::optional<Names> head_names(std::initializer_list<Keyword> keywords, std::size_t argument);
  std::string text(const Domains::Name& name) const {
    const std::string& symbol = description_.terms().name(name.symbol);
    return name.arity == 0 ? symbol : fmt::format("({} …)", symbol);
  }
  bool add(NodeIndex node, std::string code, std::string message, Remedy remedy) {
    return sink_.add(node, std::move(code), std::move(message), std::move(remedy));
  }

  const Description& description_;
  Domains domains_;
  FindingSink& sink_;
};

namespace {

// How a comparison is written in a language that has none; null if the name is no comparison.
const char* instead_of(std::string_view name) {
  if (name == "=" || name == "==") return "write the same variable in both places";
  if (name == "!=" || name == "/=" || name == "<>") return "write (distinct A B)";
  for (const std::string_view order : {"<", ">", ">=", "=<", "less", "greater"}) {
    if (name == order) {
      return "make facts that say which number is less, (#for ?a 0 9 (#for ?b (#+ ?a 1) 10 (below "
             "?a ?b))), and ask for (below ?x ?y)";
    }
  }
  return nullptr;
}

}  // namespace

// Whether a name that is used as a relation is that of a fluent or of a move: a keyword is missing.
bool SlipFinder::say_what_it_is(const Relation& relation, const std::string& name) {
  const Domains::Name term{relation.name, relation.arity};
  const std::string written = relation.arity == 0 ? name : fmt::format("({} …)", name);
  const auto makes = [&](std::initializer_list<Keyword> keywords, std::size_t argument) {
    const auto names = head_names(keywords, argument);
    return names && names->contains(term);
  };
  if (makes({Keyword::init, Keyword::next, Keyword::base}, 0)) {
    add(relation.first_use, "undefined-relation",
        fmt::format("`{}` is a fluent, and no relation: what holds now is asked by true", name),
        fmt::format("write (true {})", written));
    return true;
  }
  if (makes({Keyword::legal, Keyword::input}, 1)) {
    add(relation.first_use, "undefined-relation",
        fmt::format("`{}` is a move, and no relation: what is done is asked by does", name),
        fmt::format("write (does ?role {})", written));
    return true;
  }
  return false;
}

void SlipFinder::find_undefined() {
  std::vector<std::string> defined;
  for (const Relation& relation : description_.relations()) {
    if (relation.concluded) defined.push_back(description_.terms().name(relation.name));
  }
  for (const KeywordFacts& facts : keyword_table()) {
    if (facts.in_bodies) defined.emplace_back(facts.name);
  }
  for (const Relation& relation : description_.relations()) {
    if (relation.concluded || relation.keyword != Keyword::none) continue;
    const std::string& name = description_.terms().name(relation.name);
    if (const char* const remedy = relation.arity == 2 ? instead_of(name) : nullptr) {
      add(relation.first_use, "undefined-relation",
          fmt::format("the language has no comparison `{}`", name), remedy);
      continue;
    }
    if (say_what_it_is(relation, name)) continue;
    const auto meant = most_similar(name, defined);
    if (meant) sink_.explain(*meant);
    add(relation.first_use, "undefined-relation",
        fmt::format("`{}` is never concluded, so it never holds", name),
        meant ? Remedy::name_meant(name, *meant)
              : "check the spelling, or add a fact or rule for it");
  }
}

void SlipFinder::find_idle_roles() {
  find_idle_roles(Keyword::legal, "role-without-moves", "no move is ever legal for {}");
  find_idle_roles(Keyword::goal, "role-without-goal", "no value is ever given to {}");
}

void SlipFinder::find_idle_roles(Keyword keyword, const char* code, const char* what) {
  if (!has(keyword)) return;
  Domains::Domain named;
  for (const std::uint32_t number : description_.relation(*description_.find(keyword)).clauses) {
    const Atom& head = description_.clauses()[number].head;
    bool first = true;
    domains_.places().visit(description_, head, [&](PlaceId place, const PatternSymbol& symbol) {
      if (!std::exchange(first, false)) return;
      if (symbol.kind == PatternSymbol::Kind::variable) {
        named.insert(domains_.domain(place).begin(), domains_.domain(place).end());
      } else {
        named.insert({symbol.symbol(), symbol.arity});
      }
    });
  }
  const auto role_relation = description_.find(Keyword::role);
  for (const std::uint32_t number : description_.relation(*role_relation).clauses) {
    const Atom& fact = description_.clauses()[number].head;
    const PatternSymbol& role = fact.arguments.front();
    const std::string& name = description_.terms().name(role.symbol());
    if (named.contains({role.symbol(), role.arity})) continue;
    if (keyword == Keyword::goal && name == "random") continue;
    add(fact.node, code, fmt::format(fmt::runtime(what), name),
        fmt::format("add a rule for ({} {} …)", name_of(keyword), name));
  }
}

// (goal ?who 100) where ?who can be bare: moves, values and percepts are for roles.
void SlipFinder::find_strangers(Keyword keyword) {
  if (!has(keyword)) return;
  Domains::Domain roles;
  for (const std::uint32_t number :
       description_.relation(*description_.find(Keyword::role)).clauses) {
    const PatternSymbol& role = description_.clauses()[number].head.arguments.front();
    roles.insert({role.symbol(), role.arity});
  }
  for (const std::uint32_t number : description_.relation(*description_.find(keyword)).clauses) {
    const Clause& clause = description_.clauses()[number];
    const PatternSymbol& who = clause.head.arguments.front();
    Domains::Domain strangers;
    if (who.kind == PatternSymbol::Kind::variable) {
      strangers = domains_.values(description_, clause, who);
    } else {
      strangers.insert({who.symbol(), who.arity});
    }
    absl::erase_if(strangers, [&](const Domains::Name& name) { return roles.contains(name); });
    if (strangers.empty()) continue;
    std::vector<std::string> names;
    for (const Domains::Name& name : strangers) names.push_back(text(name));
    std::ranges::sort(names, [](const auto& a, const auto& b) { return compare_names(a, b) < 0; });
    std::vector<std::string> known;
    for (const Domains::Name& name : roles) known.push_back(text(name));
    const auto meant = names.size() == 1 ? most_similar(names.front(), known) : std::nullopt;
    add(who.node, "not-a-role",
        fmt::format("{} can stand here, and {} no role", some_of(names),
                    names.size() == 1 ? "is" : "are"),
        meant ? Remedy::name_meant(names.front(), *meant)
              : "add a condition such as (role ?who) here, or to the rules that lead here");
  }
}

// The language lets a function keep one number of arguments. A constant of the same name is
// something else, such as a phase that is called like its moves, unless both are written at one
// place.
void SlipFinder::find_function_arities() {
  absl::flat_hash_map<SymbolId, const PatternSymbol*> functions;
  absl::flat_hash_map<std::pair<SymbolId, PlaceId>, const PatternSymbol*> at_place;
  const auto tell = [&](const PatternSymbol& symbol, const PatternSymbol& known) {
    sink_.explain(description_.terms().name(symbol.symbol()));
    add(symbol.node, "function-arity",
        fmt::format("`{}` has {} argument{} here and {} in line {}",
                    description_.terms().name(symbol.symbol()), symbol.arity,
                    symbol.arity == 1 ? "" : "s", known.arity, description_.place(known.node).line),
        "a function keeps one number of arguments; check what is missing, or rename one");
  };
  const auto read = [&](PlaceId place, const PatternSymbol& symbol) {
    if (symbol.kind == PatternSymbol::Kind::variable) return;
    const PatternSymbol& here =
        *at_place.try_emplace({symbol.symbol(), place}, &symbol).first->second;
    if (here.arity != symbol.arity) return tell(symbol, here);
    if (symbol.arity == 0) return;
    const PatternSymbol& function = *functions.try_emplace(symbol.symbol(), &symbol).first->second;
    if (function.arity != symbol.arity) tell(symbol, function);
  };
  const Places& places = domains_.places();
  for (const Clause& clause : description_.clauses()) {
    places.visit(description_, clause.head, read);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) places.visit(description_, literal.atom, read);
    }
  }
}

// (+ ?n 1) is a term like any other: no number comes of it. Once for each place it was written at.
bool SlipFinder::find_arithmetic_terms() {
  constexpr std::array<std::string_view, 4> operations = {"+", "-", "*", "/"};
  std::set<FindingSink::Written> known;
  bool found = false;
  const auto read = [&](const Pattern& pattern) {
    for (const PatternSymbol& symbol : pattern) {
      if (symbol.kind == PatternSymbol::Kind::variable || symbol.arity != 2) continue;
      const std::string& name = description_.terms().name(symbol.symbol());
      if (std::ranges::find(operations, name) == operations.end()) continue;
      if (!known.insert(FindingSink::written(description_, symbol.node)).second) continue;
      found |= add(
          symbol.node, "arithmetic-term",
          fmt::format("({} …) is a term here; the language works nothing out", name),
          fmt::format("numbers are worked out before the rules are read, by ({} …), from numbers, "
                      "sizes and variables of #for; else count with facts such as (follows 1 2)",
                      name == "/" ? "#div" : "#" + name));
    }
  };
  for (const Clause& clause : description_.clauses()) {
    read(clause.head.arguments);
    for (const Literal& literal : clause.body) read(literal.atom.arguments);
  }
  return found;
}

// ?rwo beside ?row: a name used once in a rule that is close to another name of the rule. A name
// that begins with ?_ says that it is used once on purpose.
void SlipFinder::find_similar_variables() {
  struct Use {
    NodeIndex node = syntax::no_node;
    int count = 0;
  };
  constexpr std::size_t shortest = 4;  // with the question mark; shorter names are all alike
  const syntax::Tree& tree = description_.tree();
  for (const Rule& rule : description_.rules()) {
    std::map<std::string_view, Use> uses;
    for (NodeIndex at = rule.node; at < rule.node + tree[rule.node].size; ++at) {
      if (!tree.is_variable(at)) continue;
      Use& use = uses[tree[at].text];
      use.node = at;
      ++use.count;
    }
    for (const auto& [name, use] : uses) {
      if (use.count > 1 || name.size() < shortest || name.starts_with("?_")) continue;
      for (const auto& [other, its] : uses) {
        const bool numbered = name.back() >= '0' && name.back() <= '9';
        if (other == name || other.size() < shortest || numbered) continue;
        if (edit_distance(name, other) == 1) {
          add(use.node, "similar-variables",
              fmt::format("{} is used once in this rule, beside {}", name, other),
              Remedy::name_meant(name, other));
          break;
        }
      }
    }
  }
}

std::optional<SlipFinder::Names> SlipFinder::head_names(std::initializer_list<Keyword> keywords,
                                                        std::size_t argument) {
  Names names([](const Domains::Name& a, const Domains::Name& b) {
    return std::pair(a.symbol, a.arity) < std::pair(b.symbol, b.arity);
  });
  for (const Keyword keyword : keywords) {
    const auto relation = description_.find(keyword);
    if (!relation) continue;
    for (const std::uint32_t number : description_.relation(*relation).clauses) {
      const Pattern& pattern = description_.clauses()[number].head.arguments;
      const PatternSymbol& symbol = pattern[argument == 0 ? 0 : pattern.front().size];
      if (symbol.kind == PatternSymbol::Kind::variable) return std::nullopt;
      names.try_emplace({symbol.symbol(), symbol.arity}, symbol.node);
    }
  }
  return names;
}

void SlipFinder::compare_declared(Keyword declaring, std::initializer_list<Keyword> making,
                                  std::size_t argument, const char* what) {
  if (!has(declaring) || !finished()) return;
  const auto declared = head_names({declaring}, argument);
  const auto made = head_names(making, argument);
  if (!declared || !made) return;
  for (const auto& [name, node] : *made) {
    if (declared->contains(name)) continue;
    add(node, fmt::format("undeclared-{}", what),
        fmt::format("{} is not declared by `{}`", text(name), name_of(declaring)),
        fmt::format("add it to the rules for `{}`", name_of(declaring)));
  }
  for (const auto& [name, node] : *declared) {
    if (made->contains(name)) continue;
    add(node, fmt::format("unmade-{}", what),
        fmt::format("{} is declared, but no rule makes it", text(name)),
        "check the spelling, or remove it");
  }
}

}  // namespace

namespace {

// While rules for moves are missing, their helpers may be waiting for them.
bool has_moves(const Description& description) {
  const auto concluded = [&](Keyword keyword) {
    const auto relation = description.find(keyword);
    return relation && description.relation(*relation).concluded;
  };
  return concluded(Keyword::next) && concluded(Keyword::legal) && concluded(Keyword::goal) &&
         concluded(Keyword::terminal);
}

}  // namespace

void find_slips(const Description& description, Diagnostics& diagnostics) {
  FindingSink sink(description, diagnostics);
  // Half of the rules look wrong where a keyword is misspelled: that alone is said.
  bool misspelled = false;
  for (const MisspelledHead& head : misspelled_heads(description)) {
    const Relation& relation = description.relation(head.relation);
    const bool wanted =
        sink.add(relation.first_use, "misspelled-keyword",
                 fmt::format("`{}` is concluded here, but no rule asks for it",
                             description.terms().name(relation.name)),
                 Remedy::name_meant(description.terms().name(relation.name), name_of(head.meant)));
    misspelled = misspelled || wanted;
  }
  if (misspelled) return;
  if (!SlipFinder(description, sink).run()) return;
  find_repeated_rules(description, sink);
  find_mixed_sorts(description, sink);
  find_broken_orders(description, sink);
  find_odd_constants(description, sink);
  find_lonely_names(description, sink);
  if (has_moves(description)) find_unusable_facts(description, sink);
  find_unmarked_variables(description, sink);
  if (has_moves(description)) find_unused(description, sink);
}

std::set<std::string> allowed_codes(std::string_view text) {
  constexpr std::string_view mark = "orchard: allow ";
  std::set<std::string> codes;
  for (std::size_t at = text.find(mark); at != std::string_view::npos; at = text.find(mark, at)) {
    at += mark.size();
    const std::size_t line_start = text.rfind('\n', at) + 1;  // 0 if there is none
    if (text.substr(line_start, at - line_start).find_first_of(";%") == std::string_view::npos) {
      continue;
    }
    std::string_view rest = text.substr(at, text.find('\n', at) - at);
    while (!rest.empty()) {
      const std::size_t end = std::min(rest.find_first_of(" ,\r\t"), rest.size());
      if (end > 0) codes.emplace(rest.substr(0, end));
      rest.remove_prefix(std::min(end + 1, rest.size()));
    }
  }
  return codes;
}

}  // namespace orchard::rules
