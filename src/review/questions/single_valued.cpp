// Groups of fluents that are meant to be exclusive: one value for each key.
//
// What is meant is taken from the start: a place of a fluent is a value place if no key (the other
// places) has two values there. If every key has one, or many have the same name (bare squares), no
// key is to be without.
#include <fmt/core.h>

#include <map>
#include <set>

#include "review/inquiry/inquiry.hpp"
#include "review/inquiry/value_groups.hpp"

namespace orchard::review {

namespace {

std::string pattern_of(const ValueGroup& group, const std::vector<Term>& key) {
  std::string text = "(" + group.name;
  std::size_t next = 0;
  for (std::size_t place = 0; place < group.arity; ++place) {
    text += place == group.value_place ? " …" : " " + key[next++].to_string();
  }
  return text + ")";
}

}  // namespace

namespace {

// Whether some rule keeps all fluents of a name for ever, whatever happens: they are a list that
// grows.
bool is_kept_for_ever(const rules::Description& description, const std::string& name,
                      std::size_t arity) {
  const auto same = [](const rules::PatternSymbol& a, const rules::PatternSymbol& b) {
    return a.kind == b.kind && a.value == b.value && a.arity == b.arity;
  };
  return std::ranges::any_of(description.clauses(), [&](const rules::Clause& clause) {
    if (description.relation(clause.head.relation).keyword != rules::Keyword::next ||
        clause.body.size() != 1 || clause.body[0].kind != rules::Literal::Kind::positive) {
      return false;
    }
    const rules::Atom& kept = clause.body[0].atom;
    const rules::PatternSymbol& fluent = clause.head.arguments.front();
    return description.relation(kept.relation).keyword == rules::Keyword::true_ &&
           fluent.kind == rules::PatternSymbol::Kind::function && fluent.arity == arity &&
           description.terms().name(fluent.symbol()) == name &&
           std::ranges::equal(clause.head.arguments, kept.arguments, same);
  });
}

}  // namespace

std::vector<ValueGroup> value_groups(const Exploration& exploration) {
  const ground::GroundProgram& ground = exploration.ground();
  struct Gathered {
    std::map<std::vector<Term>, std::vector<std::uint32_t>> keys;
    std::map<std::vector<Term>, std::size_t> at_start;
    std::set<Term> values_at_start;
  };
  std::map<std::tuple<std::string, std::size_t, std::size_t>, Gathered> gathered;
  const auto each_place = [&](const Term& term, auto&& visit) {
    const std::vector<Term> arguments = term.arguments();
    for (std::size_t place = 0; place < arguments.size(); ++place) {
      std::vector<Term> key = arguments;
      key.erase(key.begin() + static_cast<std::ptrdiff_t>(place));
      visit(gathered[{term.name(), arguments.size(), place}], std::move(key), arguments[place]);
    }
  };
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const auto& fluent = ground.fluents()[f];
    each_place(ground.terms().term(fluent.term),
               [&](Gathered& group, std::vector<Term> key, const Term& value) {
                 if (fluent.initial) {
                   ++group.at_start[key];
                   group.values_at_start.insert(value);
                 }
                 group.keys[std::move(key)].push_back(f);
               });
  }
  for (const Term& declared : declared_fluents(exploration)) {
    each_place(declared, [&](Gathered& group, std::vector<Term> key, const Term&) {
      group.keys.try_emplace(std::move(key));
    });
  }
  std::vector<ValueGroup> result;
  for (auto& [name, group] : gathered) {
    bool single = !group.at_start.empty();
    for (const auto& [key, count] : group.at_start) single = single && count == 1;
    if (!single) continue;
    const bool filled = group.at_start.size() > 1 && group.values_at_start.size() == 1 &&
                        !group.values_at_start.begin()->number();
    const bool total = filled || group.at_start.size() == group.keys.size();
    // One key of many with a value is a list that has just begun.
    if (!total && group.at_start.size() * 2 < group.keys.size()) continue;
    const auto& [functor, arity, place] = name;
    const rules::Description& description =
        GameAccess::core(exploration.game())->program().description();
    if (group.keys.size() == 1 && is_kept_for_ever(description, functor, arity)) continue;
    result.push_back({functor, arity, place, total, std::move(group.keys)});
  }
  return result;
}

Conclusion ask_single_valued(Inquiry& inquiry) {
  std::vector<Watched> asked;
  std::string groups;
  for (const ValueGroup& group : value_groups(inquiry.exploration())) {
    groups += (groups.empty() ? "" : ", ") + group.name;
    for (const auto& [key, fluents] : group.keys) {
      std::vector<Signal> values;
      for (const std::uint32_t f : fluents) values.push_back(inquiry.game().fluents[f]);
      const std::string pattern = pattern_of(group, key);
      asked.push_back(
          {"two values of " + pattern, inquiry.watch_fault(inquiry.network().several(values))});
      if (!group.total) continue;
      asked.push_back({"no value of " + pattern,
                       inquiry.watch_fault(!inquiry.network().any(std::move(values)))});
    }
  }
  return [&inquiry, asked, groups] {
    if (const Watched* first = soonest(inquiry, asked)) {
      return std::vector{
          failure(inquiry, "single-valued", inquiry.sighting(first->number), first->what)};
    }
    if (groups.empty()) {
      return std::vector{Answer{"single-valued", Verdict::holds,
                                "the start has no fluent with one value for each key"}};
    }
    return std::vector{
        nowhere(inquiry, "single-valued", "one value for each key, of " + groups, asked)};
  };
}

}  // namespace orchard::review
