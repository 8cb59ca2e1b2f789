#include "review/inquiry/reasons.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <optional>

#include "orchard/explain.hpp"

namespace orchard::review {
namespace {

constexpr std::size_t most_told = 4;  // rules beside one answer

// The rule by which it holds, or the nearest of those that could have given it; of these one that
// `kept` holds for comes first: what keeps a fluent is nearer than what makes it anew.
Note note_of(const Explanation& explanation, const Term& atom, const std::optional<Term>& kept) {
  const std::vector<Reason>& reasons = explanation.reasons;
  const Reason* reason = &reasons.front();
  if (reason->kind == Reason::Kind::since) reason = &reasons[reason->conditions.front()];
  if (reason->kind != Reason::Kind::attempts) {
    const bool given = reason->kind == Reason::Kind::rule || reason->kind == Reason::Kind::stated;
    return {reason->place, given ? fmt::format("{} holds by this rule", atom.to_string())
                                 : fmt::format("no rule gives {}", atom.to_string())};
  }
  const auto keeps = [&](std::size_t attempt) {
    return std::ranges::any_of(reasons[attempt].conditions, [&](std::size_t condition) {
      return reasons[condition].holds && reasons[condition].atom == kept;
    });
  };
  const auto keeper = std::ranges::find_if(reason->conditions, keeps);
  const Reason& nearest =
      reasons[keeper == reason->conditions.end() ? reason->conditions.front() : *keeper];
  std::string missing;
  for (const std::size_t condition : nearest.conditions) {
    if (reasons[condition].holds) continue;
    missing += (missing.empty() ? "" : " and ") + reasons[condition].literal();
  }
  return {nearest.place, fmt::format("{} does not hold here: this rule would give it with {}",
                                     atom.to_string(), missing)};
}

void add_reason(const Game& game, const Circumstances& here, const Term& atom, Answer& answer,
                const std::optional<Term>& kept = {}) {
  if (answer.places.size() >= most_told) return;
  const auto explanation = why(game, here, orchard::Question{atom});
  if (explanation && !explanation->reasons.empty()) {
    answer.places.push_back(note_of(*explanation, atom, kept));
  }
}

}  // namespace

void add_reasons(const Game& game, const std::vector<Term>& atoms, Answer& answer) {
  if (!answer.line) return;
  for (const Term& atom : atoms) add_reason(game, {answer.line->last()}, atom, answer);
}

void add_reasons_of_step(const Game& game, const std::vector<Term>& fluents, Answer& answer) {
  if (!answer.line || answer.line->joints.empty()) return;
  const Line& line = *answer.line;
  const Circumstances before{*(line.positions.end() - 2), line.joints.back()};
  for (const Term& fluent : fluents) {
    add_reason(game, before, Term::function("next", {fluent}), answer,
               Term::function("true", {fluent}));
  }
}

}  // namespace orchard::review
