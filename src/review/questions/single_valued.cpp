// Groups of fluents that are meant to be exclusive: one value for each key.
//
// What is meant is taken from the start: a place of a fluent is a value place if no key (the other
// places) has two values there. If every key has one, or many have the same name (bare squares), no
// key is to be without; but pieces, each on a place of its own, may be taken.
#include <fmt/core.h>

#include <map>
#include <set>

#include "review/inquiry/reasons.hpp"
#include "review/inquiry/value_groups.hpp"
#include "review/questions/questions.hpp"

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

// Those that hold at the end of the line; if none does, those that held before its last step.
std::vector<Term> changed(const std::vector<Term>& fluents, const Line& line) {
  for (std::size_t back = 1; back <= 2 && back <= line.positions.size(); ++back) {
    const Position& position = *(line.positions.end() - static_cast<std::ptrdiff_t>(back));
    std::vector<Term> held;
    for (const Term& fluent : fluents) {
      if (position.holds(fluent)) held.push_back(fluent);
    }
    if (!held.empty()) return held;
  }
  return {};
}

}  // namespace

Conclusion ask_single_valued(Watchlist& list) {
  std::vector<Watched> asked;
  std::vector<std::vector<Term>> meant;  // the fluents of each
  std::string groups;
  for (const ValueGroup& group : value_groups(list.exploration())) {
    groups += (groups.empty() ? "" : ", ") + group.name;
    for (const auto& [key, fluents] : group.keys) {
      std::vector<Signal> values;
      std::vector<Term> terms;
      for (const std::uint32_t f : fluents) {
        values.push_back(list.game().fluents[f]);
        terms.push_back(list.exploration().ground().terms().term(
            list.exploration().ground().fluents()[f].term));
      }
      meant.push_back(terms);
      const std::string pattern = pattern_of(group, key);
      asked.push_back(
          {"two values of " + pattern, list.watch_fault(list.network().several(values))});
      if (!group.total) continue;
      meant.push_back(std::move(terms));
      asked.push_back(
          {"no value of " + pattern, list.watch_fault(!list.network().any(std::move(values)))});
    }
  }
  return [asked, meant, groups](Findings& findings) {
    if (const Watched* first = soonest(findings, asked)) {
      Answer answer =
          failure(findings, "single-valued", findings.sighting(first->number), {first->what});
      const auto& fluents = meant[static_cast<std::size_t>(first - asked.data())];
      add_reasons_of_step(findings.exploration().game(), changed(fluents, *answer.line), answer);
      return std::vector{answer};
    }
    if (groups.empty()) {
      return std::vector{Answer{"single-valued",
                                Verdict::holds,
                                {"the start has no fluent with one value for each key"}}};
    }
    return std::vector{
        nowhere(findings, "single-valued", "one value for each key of " + groups, asked)};
  };
}

}  // namespace orchard::review
