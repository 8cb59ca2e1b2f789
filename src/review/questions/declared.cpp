// Whether `base` and `input` agree with what happens.
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "review/inquiry/value_groups.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

using rules::Keyword;

Conclusion ask_declared(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  const rules::Description& description =
      GameAccess::core(exploration.game())->program().description();
  std::vector<Watched> asked;
  const ground::GroundProgram& ground = exploration.ground();
  const bool base = description.uses(Keyword::base);
  const bool input = description.uses(Keyword::input);
  if (base) {
    const std::vector<Term> declared = declared_fluents(exploration);
    const std::set<Term> known(declared.begin(), declared.end());
    for (std::size_t f = 0; f < ground.fluents().size(); ++f) {
      const Term term = ground.terms().term(ground.fluents()[f].term);
      if (known.contains(term)) continue;
      asked.push_back({fmt::format("{} can hold, but base does not declare it", term.to_string()),
                       list.watch_fault(list.game().fluents[f])});
    }
  }
  if (input) {
    const auto declared = declared_moves(exploration);
    for (std::size_t role = 0; role < ground.moves().size(); ++role) {
      const std::set<Term> known(declared[role].begin(), declared[role].end());
      for (std::size_t m = 0; m < ground.moves()[role].size(); ++m) {
        const Term term = ground.terms().term(ground.moves()[role][m].term);
        if (known.contains(term)) continue;
        asked.push_back({fmt::format("{} can be legal for {}, but input does not declare it",
                                     term.to_string(), exploration.game().roles()[role].name()),
                         list.watch_fault(list.game().legal[role][m])});
      }
    }
  }
  return [asked, base, input](Findings& findings) {
    if (const Watched* first = soonest(findings, asked)) {
      return std::vector{
          failure(findings, "declared", findings.sighting(first->number), {first->what})};
    }
    if (!base && !input) {
      return std::vector{
          Answer{"declared", Verdict::described, {"the rules have neither base nor input"}}};
    }
    const std::string what = base && input
                                 ? "base and input declare every fluent and move that occurs"
                             : base ? "base declares every fluent that occurs"
                                    : "input declares every move that occurs";
    // Whatever is not declared cannot come to be by the rules alone, if nothing is on watch.
    if (asked.empty()) {
      return std::vector{Answer{"declared", Verdict::holds, {what + ", by the rules alone"}}};
    }
    return std::vector{nowhere(findings, "declared", what, asked)};
  };
}

}  // namespace orchard::review
