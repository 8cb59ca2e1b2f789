// Parts of the rules that never take part: clauses, moves, fluents.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <utility>

#include "base/counted.hpp"
#include "review/inquiry/meeting.hpp"
#include "review/questions/conditions.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

namespace {

constexpr std::size_t most_named = 5;

std::string listed(const std::vector<std::string>& names) {
  std::string result;
  for (std::size_t i = 0; i < std::min(names.size(), most_named); ++i) {
    result += (i == 0 ? "" : ", ") + names[i];
  }
  return result + (names.size() > most_named ? " …" : "");
}

// The moves of one role and one function: (go 1 2), (go 2 2) …
using MoveKind = std::vector<Watched>;

// "5 of 74 moves are never legal: a, b": squares that a rule covers and play does not come to.
std::string never_legal(const Findings& findings, const std::vector<MoveKind>& kinds) {
  std::size_t all = 0;
  std::vector<std::string> names;
  for (const MoveKind& kind : kinds) {
    all += kind.size();
    for (const Watched& move : kind) {
      if (!findings.sighting(move.number).first) names.push_back(move.what);
    }
  }
  if (names.empty()) return {};
  return fmt::format("{} of {} moves never legal: {}", names.size(), all, listed(names));
}

// Kinds of which none is ever legal: there the rule is wrong, not the square.
std::vector<std::string> dead_kinds(const Findings& findings, const std::vector<MoveKind>& kinds) {
  std::vector<std::string> names;
  for (const MoveKind& kind : kinds) {
    const bool legal = std::ranges::any_of(kind, [&](const Watched& move) {
      return findings.sighting(move.number).first.has_value();
    });
    if (legal) continue;
    names.push_back(kind.front().what + (kind.size() > 1 ? " and all like it" : ""));
  }
  return names;
}

}  // namespace

Conclusion ask_dead(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  const ground::GroundProgram& ground = exploration.ground();
  std::vector<MoveKind> kinds;
  for (std::size_t role = 0; role < ground.moves().size(); ++role) {
    const std::string& who = exploration.game().roles()[role].name();
    std::map<std::pair<std::string, std::size_t>, std::size_t> known;
    for (std::size_t m = 0; m < ground.moves()[role].size(); ++m) {
      const Term move = ground.terms().term(ground.moves()[role][m].term);
      const auto [kind, is_new] = known.try_emplace({move.name(), move.arity()}, kinds.size());
      if (is_new) kinds.emplace_back();
      kinds[kind->second].push_back(
          {fmt::format("{} of {}", move.to_string(), who), list.watch(list.game().legal[role][m])});
    }
  }
  return [&exploration, kinds](Findings& findings) {
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
    const std::vector<std::string> dead_moves = dead_kinds(findings, kinds);
    if (!dead_moves.empty()) {
      found.push_back(fmt::format(
          "{} never legal: {}", dead_moves.size() == 1 ? "a kind of move is" : "kinds of moves are",
          listed(dead_moves)));
    }
    const std::string unreached = never_legal(findings, kinds);
    if (found.empty() && unreached.empty()) {
      std::size_t moves = 0;
      for (const MoveKind& kind : kinds) moves += kind.size();
      return std::vector{
          Answer{"dead",
                 Verdict::holds,
                 {fmt::format("all {} clauses and {} moves take part", clauses.size(), moves)}}};
    }
    if (found.empty()) {
      Answer answer{"dead", exploration.looked_at_all() ? Verdict::holds : Verdict::unknown, {}};
      answer.evidence.finding =
          fmt::format("all {} clauses and every kind of move take part", clauses.size());
      answer.evidence.remarks.push_back(unreached);
      answer.evidence.reach = exploration.reach();
      return std::vector{answer};
    }
    if (!unreached.empty() && dead_moves.empty()) found.push_back(unreached);
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
