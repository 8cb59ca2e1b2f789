// Parts of the rules that never take part: clauses, moves, fluents.
#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "review/inquiry/meeting.hpp"
#include "review/questions/conditions.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

namespace {

// "2 of 8 moves are never legal: a, b".
std::string named(const Findings& findings, const std::vector<Watched>& watched,
                  const std::string& what, const std::string& never) {
  constexpr std::size_t most_named = 5;
  std::vector<std::string> names;
  for (const Watched& one : watched) {
    if (!findings.sighting(one.number).first) names.push_back(one.what);
  }
  if (names.empty()) return "";
  std::string result = fmt::format("{} of {} {} {}: ", names.size(), watched.size(), what, never);
  for (std::size_t i = 0; i < std::min(names.size(), most_named); ++i) {
    result += (i == 0 ? "" : ", ") + names[i];
  }
  return result + (names.size() > most_named ? " …" : "");
}

}  // namespace

Conclusion ask_dead(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  const ground::GroundProgram& ground = exploration.ground();
  std::vector<Watched> moves;
  for (std::size_t role = 0; role < ground.moves().size(); ++role) {
    for (std::size_t m = 0; m < ground.moves()[role].size(); ++m) {
      moves.push_back({fmt::format("{} of {}", ground.terms().text(ground.moves()[role][m].term),
                                   exploration.game().roles()[role].name()),
                       list.watch(list.game().legal[role][m])});
    }
  }
  return [&exploration, moves](Findings& findings) {
    std::vector<Note> places;
    std::vector<std::string> found;
    const auto add = [&](const std::vector<Note>& notes, std::string words) {
      if (notes.empty()) return;
      places.insert(places.end(), notes.begin(), notes.end());
      found.push_back(std::move(words));
    };
    const std::vector<ClauseUse>& clauses = findings.facts().clause_use();
    const std::vector<Note> unused = unused_rules(findings);
    const auto dead = static_cast<std::size_t>(
        std::ranges::count_if(clauses, [](const ClauseUse& clause) { return !clause.used; }));
    add(unused, fmt::format("{} of {} clauses never take{} part", dead, clauses.size(),
                            dead == 1 ? "s" : ""));
    const std::vector<Note> idle = idle_conditions(findings);
    add(idle, counted(idle.size(), "condition excludes nothing", "conditions exclude nothing"));
    const std::string never_legal = named(findings, moves, "moves", "never legal");
    if (!never_legal.empty()) found.push_back(never_legal);
    if (found.empty()) {
      return std::vector{Answer{
          "dead",
          Verdict::holds,
          {fmt::format("all {} clauses and {} moves take part", clauses.size(), moves.size())}}};
    }
    Answer answer{"dead", exploration.complete() ? Verdict::suspicious : Verdict::unknown, {}};
    for (const std::string& words : found) {
      answer.evidence.finding += (answer.evidence.finding.empty() ? "" : "; ") + words;
    }
    // Where not all is explored clauses were looked for in random games alone.
    answer.evidence.reach =
        exploration.complete() ? exploration.reach() : Reach{Reach::Kind::random_games};
    answer.places = std::move(places);
    return std::vector{answer};
  };
}

}  // namespace orchard::review
