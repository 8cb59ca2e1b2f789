// The one rule that takes a row for a column: variables that alone join two sorts of things which
// all other rules keep apart.
//
// A variable joins the places where it stands. Each rule is left out in turn and the places are
// put into parts by the variables of all others (union-find). A variable of the rule is suspicious
// if it joins two parts that several other rules speak of and that stand side by side, as
// arguments of the same relation or function, as rows and columns of a board do. (Parts that never
// do are as well a fluent and what is derived from it.)
//
// Often two rules are to blame as well: one that concludes with turned arguments, and one that
// reads them the right way round. Then the one is told whose variable has a name that other rules
// use in one of the two parts only, and the search goes on without it. Rules · variables, with a
// bound on the work: very large descriptions are not searched.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <optional>
#include <set>
#include <tuple>

#include "base/interruption.hpp"
#include "rules/finding_sink.hpp"
#include "rules/places.hpp"
#include "syntax/names.hpp"

namespace orchard::rules {
namespace {

struct Join {  // a variable of a rule
  std::vector<std::uint32_t> places;
  const PatternSymbol* last = nullptr;
};
// A rule as the user wrote it, with all that directives made of it.
using WrittenRule = std::map<std::string_view, Join>;

class Parts {
 public:
  explicit Parts(std::size_t places) : parent_(places), rules_(places, 0) {
    std::iota(parent_.begin(), parent_.end(), 0u);
  }
  std::uint32_t root(std::uint32_t place) {
    while (parent_[place] != place) place = parent_[place] = parent_[parent_[place]];
    return place;
  }
  void join(const Join& join) {
    for (const std::uint32_t place : join.places) {
      const std::uint32_t into = root(join.places.front());
      const std::uint32_t from = root(place);
      if (into == from) continue;
      parent_[from] = into;
      rules_[into] += rules_[from];
    }
    // A variable that stands at one place only says nothing of its sort.
    if (join.places.size() > 1) ++rules_[root(join.places.front())];
  }
  std::uint32_t variables_of(std::uint32_t root) const { return rules_[root]; }

 private:
  std::vector<std::uint32_t> parent_;
  std::vector<std::uint32_t> rules_;  // of a root: variables that speak of its part
};

class MixedSorts {
 public:
  MixedSorts(const Description& description, FindingSink& sink)
      : description_(description), sink_(sink), places_(description) {}

  void run() {
    collect();
    constexpr std::size_t most_work = 100'000'000;
    if (rules_.size() * (variables_ + places_.size()) > most_work) return;
    for (const syntax::NodeIndex form : forms_) left_out_.push_back(sink_.found_in(form));
    constexpr int most_told = 5;
    for (int told = 0; told < most_told; ++told) {
      std::optional<Mix> first;
      for (std::size_t r = 0; r < rules_.size(); ++r) {
        const auto mix = left_out_[r] ? std::nullopt : find(r);
        if (mix && (!first || (mix->named && !first->named))) first = mix;
      }
      if (!first) return;
      left_out_[first->rule] = true;
      sink_.add(first->symbol->node, "mixed-sorts",
                fmt::format("only this rule takes {} for two sorts of things", first->name),
                "check which arguments it stands at, and whether another variable was meant");
    }
  }

 private:
  // Variables that must speak of a part before it counts as a sort.
  static constexpr std::uint32_t least_support = 3;

  void collect();
  struct Mix {
    std::size_t rule;
    std::string_view name;
    const PatternSymbol* symbol;
    bool named;  // other rules use the name in one of the parts only
  };
  std::optional<Mix> find(std::size_t rule);
  bool is_named(Parts& parts, std::size_t rule, std::string_view name, std::uint32_t one,
                std::uint32_t other) const;
  bool side_by_side(Parts& parts, std::uint32_t one, std::uint32_t other) const;
  bool share_names(Parts& parts, std::uint32_t one, std::uint32_t other) const;
  bool serves_both(Parts& parts, const Join& join, std::uint32_t one, std::uint32_t other) const;
  bool are_compared(Parts& parts, std::uint32_t one, std::uint32_t other) const;
  void find_tables();

  const Description& description_;
  FindingSink& sink_;
  Places places_;
  std::vector<std::vector<std::uint32_t>> owners_;  // places of each relation and function
  std::vector<std::set<SymbolId>> names_;  // by place: constants of facts there, but no numbers
  std::vector<std::vector<std::uint32_t>> tables_;  // relations that never change: their places
  std::vector<WrittenRule> rules_;
  std::vector<syntax::NodeIndex> forms_;  // of the rules, one each
  std::vector<bool> left_out_;            // rules in which something was found already
  std::size_t variables_ = 0;
};

void MixedSorts::collect() {
  std::map<std::tuple<Places::Owner, SymbolId, std::uint32_t>, std::size_t> owners;
  for (const auto& [key, place] : places_.all()) {
    const std::size_t owner =
        owners.try_emplace({key.owner, key.name, key.arity}, owners.size()).first->second;
    owners_.resize(owners.size());
    owners_[owner].push_back(static_cast<std::uint32_t>(index_of(place)));
  }
  names_.resize(places_.size());
  find_tables();
  std::map<FindingSink::Written, std::size_t> known;
  for (const Clause& clause : description_.clauses()) {
    const Rule& rule = description_.rules()[clause.rule];
    if (clause.body.empty()) {
      places_.visit(description_, clause.head, [&](PlaceId place, const PatternSymbol& symbol) {
        if (symbol.kind != PatternSymbol::Kind::constant) return;
        if (integer_value(description_.terms().name(symbol.symbol()))) return;
        names_[index_of(place)].insert(symbol.symbol());
      });
    }
    if (rule.variables.empty()) continue;
    const auto [entry, is_new] =
        known.try_emplace(FindingSink::written(description_, rule.node), rules_.size());
    if (is_new) {
      rules_.emplace_back();
      forms_.push_back(rule.node);
    }
    WrittenRule& joins = rules_[entry->second];
    const auto read = [&](PlaceId place, const PatternSymbol& symbol) {
      if (symbol.kind != PatternSymbol::Kind::variable) return;
      Join& join = joins[rule.variables[symbol.value]];
      variables_ += join.places.empty() ? 1 : 0;
      join.last = &symbol;
      const auto here = static_cast<std::uint32_t>(index_of(place));
      if (std::ranges::find(join.places, here) == join.places.end()) join.places.push_back(here);
    };
    places_.visit(description_, clause.head, read);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) places_.visit(description_, literal.atom, read);
    }
  }
}

std::optional<MixedSorts::Mix> MixedSorts::find(std::size_t rule) {
  end_if_interrupted();
  Parts parts(places_.size());
  for (std::size_t other = 0; other < rules_.size(); ++other) {
    if (other == rule || left_out_[other]) continue;
    for (const auto& [name, join] : rules_[other]) parts.join(join);
  }
  std::optional<Mix> found;
  for (const auto& [name, join] : rules_[rule]) {
    for (const std::uint32_t place : join.places) {
      const std::uint32_t here = parts.root(place);
      const std::uint32_t first = parts.root(join.places.front());
      if (here == first) continue;
      if (std::min(parts.variables_of(here), parts.variables_of(first)) < least_support) continue;
      if (!side_by_side(parts, here, first) || share_names(parts, here, first)) continue;
      if (serves_both(parts, join, here, first) || are_compared(parts, here, first)) continue;
      const Mix mix{rule, name, join.last, is_named(parts, rule, name, here, first)};
      if (!found || (mix.named && !found->named)) found = mix;
    }
  }
  return found;
}

bool MixedSorts::is_named(Parts& parts, std::size_t rule, std::string_view name, std::uint32_t one,
                          std::uint32_t other) const {
  bool in_one = false;
  bool in_other = false;
  for (std::size_t r = 0; r < rules_.size(); ++r) {
    if (r == rule) continue;
    const auto join = rules_[r].find(name);
    if (join == rules_[r].end()) continue;
    const std::uint32_t part = parts.root(join->second.places.front());
    in_one = in_one || part == one;
    in_other = in_other || part == other;
  }
  return in_one != in_other;
}

bool MixedSorts::side_by_side(Parts& parts, std::uint32_t one, std::uint32_t other) const {
  return std::ranges::any_of(owners_, [&](const std::vector<std::uint32_t>& places) {
    const auto in = [&](std::uint32_t part) {
      return std::ranges::any_of(places, [&](std::uint32_t p) { return parts.root(p) == part; });
    };
    return in(one) && in(other);
  });
}

// Whether facts say the same two names, no numbers, of both: then they are one sort after all.
bool MixedSorts::share_names(Parts& parts, std::uint32_t one, std::uint32_t other) const {
  std::set<SymbolId> of_one;
  std::set<SymbolId> of_other;
  for (std::uint32_t place = 0; place < names_.size(); ++place) {
    const std::uint32_t part = parts.root(place);
    if (part == one) of_one.insert(names_[place].begin(), names_[place].end());
    if (part == other) of_other.insert(names_[place].begin(), names_[place].end());
  }
  std::vector<SymbolId> both;
  std::ranges::set_intersection(of_one, of_other, std::back_inserter(both));
  return both.size() >= 2;
}

// Whether facts say of every two values which of them comes first, one of one part and one of the
// other: what is compared is of one sort, as what was named and what there is.
bool MixedSorts::are_compared(Parts& parts, std::uint32_t one, std::uint32_t other) const {
  for (const std::vector<std::uint32_t>& table : tables_) {
    if (table.size() != 2) continue;
    const std::uint32_t left = parts.root(table[0]);
    const std::uint32_t right = parts.root(table[1]);
    if (!(left == one && right == other) && !(left == other && right == one)) continue;
    std::set<std::pair<SymbolId, SymbolId>> said;
    std::set<SymbolId> values;
    for (const Clause& clause : description_.clauses()) {
      if (!clause.body.empty() || clause.head.arguments.size() != 2) continue;
      const auto place = places_.find(Places::Owner::relation,
                                      description_.relation(clause.head.relation).name, 2, 0);
      if (!place || index_of(*place) != table[0]) continue;
      const PatternSymbol& first = clause.head.arguments[0];
      const PatternSymbol& second = clause.head.arguments[1];
      if (first.kind != PatternSymbol::Kind::constant) continue;
      if (second.kind != PatternSymbol::Kind::constant) continue;
      said.emplace(first.symbol(), second.symbol());
      values.insert({first.symbol(), second.symbol()});
    }
    const bool ordered = std::ranges::all_of(values, [&](SymbolId a) {
      return std::ranges::all_of(values, [&](SymbolId b) {
        return a == b || said.contains({a, b}) != said.contains({b, a});
      });
    });
    if (ordered && values.size() >= 3) return true;
  }
  return false;
}

// Relations that follow from facts alone, however deep.
void MixedSorts::find_tables() {
  const auto& relations = description_.relations();
  std::vector<bool> changes(relations.size());
  for (std::size_t r = 0; r < relations.size(); ++r) {
    changes[r] = relations[r].keyword != Keyword::none && relations[r].keyword != Keyword::role;
  }
  for (bool again = true; again;) {
    again = false;
    for (const Clause& clause : description_.clauses()) {
      if (changes[index_of(clause.head.relation)]) continue;
      const bool moved = std::ranges::any_of(clause.body, [&](const Literal& literal) {
        return !literal.is_comparison() && changes[index_of(literal.atom.relation)];
      });
      if (moved) changes[index_of(clause.head.relation)] = again = true;
    }
  }
  for (std::size_t r = 0; r < relations.size(); ++r) {
    if (changes[r]) continue;
    std::vector<std::uint32_t> table;
    for (std::uint32_t argument = 0; argument < relations[r].arity; ++argument) {
      const auto place =
          places_.find(Places::Owner::relation, relations[r].name, relations[r].arity, argument);
      if (place) table.push_back(static_cast<std::uint32_t>(index_of(*place)));
    }
    if (!table.empty() && table.size() == relations[r].arity) tables_.push_back(std::move(table));
  }
}

// Whether the variable goes from one part to the other by a table that both need: rules with one
// table of numbers, or of neighbours, for rows and columns alike have no other one, of as many
// arguments all of one part, for the other part.
bool MixedSorts::serves_both(Parts& parts, const Join& join, std::uint32_t one,
                             std::uint32_t other) const {
  const auto is_of = [&](const std::vector<std::uint32_t>& table, std::uint32_t part) {
    return std::ranges::all_of(table, [&](std::uint32_t p) { return parts.root(p) == part; });
  };
  return std::ranges::any_of(tables_, [&](const std::vector<std::uint32_t>& table) {
    const bool used = std::ranges::any_of(join.places, [&](std::uint32_t place) {
      return std::ranges::find(table, place) != table.end();
    });
    const bool of_one = is_of(table, one);
    if (!used || !(of_one || is_of(table, other))) return false;
    return std::ranges::none_of(tables_, [&](const std::vector<std::uint32_t>& another) {
      return another.size() == table.size() && is_of(another, of_one ? other : one);
    });
  });
}

}  // namespace

void find_mixed_sorts(const Description& description, FindingSink& sink) {
  MixedSorts(description, sink).run();
}

}  // namespace orchard::rules
