// Groups of fluents that are meant to be exclusive: one value for each key.
//
// Meant is taken from the start: a place of a fluent is a value place if no key (the other places)
// has two values there, and at least half of all keys have one.
#include <fmt/core.h>

#include <map>

#include "review/inquiry.hpp"
#include "review/value_groups.hpp"

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

std::vector<ValueGroup> value_groups(const Exploration& exploration) {
  const ground::GroundProgram& ground = exploration.ground();
  struct Gathered {
    std::map<std::vector<Term>, std::vector<std::uint32_t>> keys;
    std::map<std::vector<Term>, std::size_t> at_start;
  };
  std::map<std::tuple<std::string, std::size_t, std::size_t>, Gathered> gathered;
  const auto each_place = [&](const Term& term, auto&& visit) {
    const std::vector<Term> arguments = term.arguments();
    for (std::size_t place = 0; place < arguments.size(); ++place) {
      std::vector<Term> key = arguments;
      key.erase(key.begin() + static_cast<std::ptrdiff_t>(place));
      visit(gathered[{term.name(), arguments.size(), place}], std::move(key));
    }
  };
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const auto& fluent = ground.fluents()[f];
    each_place(ground.terms().term(fluent.term), [&](Gathered& group, std::vector<Term> key) {
      if (fluent.initial) ++group.at_start[key];
      group.keys[std::move(key)].push_back(f);
    });
  }
  for (const Term& declared : declared_fluents(exploration)) {
    each_place(declared, [&](Gathered& group, std::vector<Term> key) {
      group.keys.try_emplace(std::move(key));
    });
  }
  std::vector<ValueGroup> result;
  for (auto& [name, group] : gathered) {
    bool meant = !group.at_start.empty() && group.at_start.size() * 2 >= group.keys.size();
    for (const auto& [key, count] : group.at_start) meant = meant && count == 1;
    if (!meant) continue;
    const auto& [functor, arity, place] = name;
    result.push_back({functor, arity, place, std::move(group.keys)});
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
      asked.push_back({"two values of " + pattern, inquiry.watch(inquiry.several(values))});
      asked.push_back(
          {"no value of " + pattern, inquiry.watch(!inquiry.network().any(std::move(values)))});
    }
  }
  return [&inquiry, asked, groups] {
    const Exploration& exploration = inquiry.exploration();
    if (const Watched* first = soonest(inquiry, asked)) {
      return std::vector{
          failure(inquiry, "single-valued", inquiry.sighting(first->number), first->what)};
    }
    if (groups.empty()) {
      return std::vector{Answer{"single-valued", Verdict::holds,
                                "the start has no fluent with one value for each key"}};
    }
    return std::vector{
        nowhere(inquiry, "single-valued",
                fmt::format("one value for each key, of {}, in {}", groups, exploration.extent()))};
  };
}

}  // namespace orchard::review
