// Whether `base` and `input` agree with what happens.
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "review/inquiry/inquiry.hpp"
#include "review/inquiry/value_groups.hpp"

namespace orchard::review {

using rules::Keyword;

namespace {

// The instances of a relation that does not depend on the position.
std::vector<std::vector<Term>> instances(const Exploration& exploration, Keyword keyword) {
  const GameCore& core = *GameAccess::core(exploration.game());
  const auto relation = core.program().description().find(keyword);
  if (!relation) return {};
  GameCore::Lease evaluator(core, true);
  evaluator->set_position(GameAccess::state(exploration.game().initial()).fluents());
  const logic::Table& table = evaluator->reference().instances(*relation);
  std::vector<std::vector<Term>> result;
  for (std::uint32_t r = 0; r < table.rows(); ++r) {
    std::vector<Term>& row = result.emplace_back();
    for (const TermId term : std::span(table.row(r), table.arity())) {
      row.push_back(core.terms().term(term));
    }
  }
  return result;
}

}  // namespace

std::vector<Term> declared_fluents(const Exploration& exploration) {
  std::vector<Term> result;
  for (auto& row : instances(exploration, Keyword::base)) result.push_back(std::move(row[0]));
  return result;
}

std::vector<std::vector<Term>> declared_moves(const Exploration& exploration) {
  std::vector<std::vector<Term>> result(exploration.game().roles().size());
  for (auto& row : instances(exploration, Keyword::input)) {
    if (const auto role = exploration.game().role(row[0].to_string())) {
      result[role->index()].push_back(std::move(row[1]));
    }
  }
  return result;
}

Conclusion ask_declared(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
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
      asked.push_back({fmt::format("{} comes to be, and no base declares it", term.to_string()),
                       inquiry.watch_fault(inquiry.game().fluents[f])});
    }
  }
  if (input) {
    const auto declared = declared_moves(exploration);
    for (std::size_t role = 0; role < ground.moves().size(); ++role) {
      const std::set<Term> known(declared[role].begin(), declared[role].end());
      for (std::size_t m = 0; m < ground.moves()[role].size(); ++m) {
        const Term term = ground.terms().term(ground.moves()[role][m].term);
        if (known.contains(term)) continue;
        asked.push_back({fmt::format("{} becomes legal for {}, and no input declares it",
                                     term.to_string(), exploration.game().roles()[role].name()),
                         inquiry.watch_fault(inquiry.game().legal[role][m])});
      }
    }
  }
  return [&inquiry, asked, base, input] {
    if (const Watched* first = soonest(inquiry, asked)) {
      return std::vector{
          failure(inquiry, "declared", inquiry.sighting(first->number), first->what)};
    }
    if (!base && !input) {
      return std::vector{
          Answer{"declared", Verdict::described, "no base and no input in the rules"}};
    }
    const std::string what =
        fmt::format("{}{}{} declare{} all that happens", base ? "base" : "",
                    base && input ? " and " : "", input ? "input" : "", base && input ? "" : "s");
    // Whatever is not declared cannot come to be by the rules alone, if nothing is on watch.
    if (asked.empty()) {
      return std::vector{Answer{"declared", Verdict::holds, what + ", whatever is played"}};
    }
    return std::vector{nowhere(inquiry, "declared", what, asked)};
  };
}

}  // namespace orchard::review
