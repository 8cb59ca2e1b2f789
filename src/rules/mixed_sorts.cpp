// The one rule that takes a row for a column: variables that alone join two sorts of things which
// all other rules keep apart.
//
// A variable joins the places where it stands. Each rule is left out in turn and the places are
// put into parts by the variables of all others (union-find). A variable of the rule is suspicious
// if it joins two parts that several other rules speak of and that stand side by side, as
// arguments of the same relation or function, as rows and columns of a board do. (Parts that never
// do are as well a fluent and what is derived from it.) Rules · variables, with a bound on the
// work: very large descriptions are not searched.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <tuple>

#include "rules/finding_sink.hpp"
#include "rules/places.hpp"

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
    ++rules_[root(join.places.front())];
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
    for (std::size_t r = 0; r < rules_.size(); ++r) check(r);
  }

 private:
  // Variables that must speak of a part before it counts as a sort.
  static constexpr std::uint32_t least_support = 3;

  void collect();
  void check(std::size_t rule);
  bool side_by_side(Parts& parts, std::uint32_t one, std::uint32_t other) const;

  const Description& description_;
  FindingSink& sink_;
  Places places_;
  std::vector<std::vector<std::uint32_t>> owners_;  // places of each relation and function
  std::vector<WrittenRule> rules_;
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
  std::map<FindingSink::Written, std::size_t> known;
  for (const Clause& clause : description_.clauses()) {
    const Rule& rule = description_.rules()[clause.rule];
    if (rule.variables.empty()) continue;
    const auto [entry, is_new] =
        known.try_emplace(FindingSink::written(description_, rule.node), rules_.size());
    if (is_new) rules_.emplace_back();
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

void MixedSorts::check(std::size_t rule) {
  Parts parts(places_.size());
  for (std::size_t other = 0; other < rules_.size(); ++other) {
    if (other == rule) continue;
    for (const auto& [name, join] : rules_[other]) {
      if (!join.places.empty()) parts.join(join);
    }
  }
  for (const auto& [name, join] : rules_[rule]) {
    for (const std::uint32_t place : join.places) {
      const std::uint32_t here = parts.root(place);
      const std::uint32_t first = parts.root(join.places.front());
      if (here == first) continue;
      if (std::min(parts.variables_of(here), parts.variables_of(first)) < least_support) continue;
      if (!side_by_side(parts, here, first)) continue;
      sink_.add(join.last->node, "mixed-sorts",
                fmt::format("only this rule takes {} for two sorts of things", name),
                "check which arguments it stands at, and whether another variable was meant");
      break;
    }
  }
}

bool MixedSorts::side_by_side(Parts& parts, std::uint32_t one, std::uint32_t other) const {
  return std::ranges::any_of(owners_, [&](const std::vector<std::uint32_t>& places) {
    const auto in = [&](std::uint32_t part) {
      return std::ranges::any_of(places, [&](std::uint32_t p) { return parts.root(p) == part; });
    };
    return in(one) && in(other);
  });
}

}  // namespace

void find_mixed_sorts(const Description& description, FindingSink& sink) {
  MixedSorts(description, sink).run();
}

}  // namespace orchard::rules
