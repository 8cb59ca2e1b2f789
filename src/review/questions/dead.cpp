// Parts of the rules that never take part: clauses, moves, fluents.
#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "review/inquiry/meeting.hpp"
#include "review/questions/conditions.hpp"

namespace orchard::review {

namespace {

// For each clause of the description the disjunction of its instances' bodies; `always` where what
// it gives does not change during play.
std::vector<Signal> clause_signals(Inquiry& inquiry) {
  const ground::GroundProgram& ground = inquiry.exploration().ground();
  const std::size_t count = ground.description().clauses().size();
  std::vector<std::vector<std::vector<Signal>>> bodies(count);
  for (const ground::GroundClause& clause : ground.clauses()) {
    if (ground.is_part(clause.head)) continue;  // what it derives stands in the body of another
    std::vector<Signal>& body = bodies[clause.clause].emplace_back();
    for (const auto atom : ground.positive(clause)) {
      body.push_back(inquiry.game().atoms[ground::index_of(atom)]);
    }
    for (const auto atom : ground.negative(clause)) {
      if (atom == ground::no_atom) continue;
      body.push_back(!inquiry.game().atoms[ground::index_of(atom)]);
    }
  }
  std::vector<Signal> result;
  for (std::size_t c = 0; c < count; ++c) {
    const bool constant = ground.is_constant(ground.description().clauses()[c].head.relation);
    result.push_back(constant ? circuit::always
                              : inquiry.network().any_of_all(std::move(bodies[c])));
  }
  return result;
}

}  // namespace

const std::vector<ClauseUse>& Inquiry::clause_use() {
  if (clause_use_) return *clause_use_;
  // Of the game itself: what claims add stands behind.
  const rules::Description& description =
      GameAccess::core(exploration_.game())->program().description();
  std::vector<Signal> signals = clause_signals(*this);
  signals.resize(description.clauses().size());
  const std::vector<bool> met = which_are_met(exploration_, network_, signals);
  std::vector<ClauseUse>& result = clause_use_.emplace();
  for (std::size_t c = 0; c < met.size(); ++c) {
    const rules::Clause& clause = description.clauses()[c];
    result.push_back({description.place(description.rules()[clause.rule].node), met[c]});
  }
  return result;
}

namespace {

// "2 of 8 moves are never legal: a, b".
std::string named(const Inquiry& inquiry, const std::vector<Watched>& watched,
                  const std::string& what, const std::string& never) {
  constexpr std::size_t most_named = 5;
  std::vector<std::string> names;
  for (const Watched& one : watched) {
    if (!inquiry.sighting(one.number).first) names.push_back(one.what);
  }
  if (names.empty()) return "";
  std::string result = fmt::format("{} of {} {} {}: ", names.size(), watched.size(), what, never);
  for (std::size_t i = 0; i < std::min(names.size(), most_named); ++i) {
    result += (i == 0 ? "" : ", ") + names[i];
  }
  return result + (names.size() > most_named ? " …" : "");
}

}  // namespace

Conclusion ask_dead(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
  const ground::GroundProgram& ground = exploration.ground();
  std::vector<Watched> moves;
  for (std::size_t role = 0; role < ground.moves().size(); ++role) {
    for (std::size_t m = 0; m < ground.moves()[role].size(); ++m) {
      moves.push_back({fmt::format("{} of {}", ground.terms().text(ground.moves()[role][m].term),
                                   exploration.game().roles()[role].name()),
                       inquiry.watch(inquiry.game().legal[role][m])});
    }
  }
  return [&inquiry, &exploration, moves] {
    std::vector<Note> places;
    std::vector<std::string> found;
    const auto add = [&](const std::vector<Note>& notes, std::string words) {
      if (notes.empty()) return;
      places.insert(places.end(), notes.begin(), notes.end());
      found.push_back(std::move(words));
    };
    const std::vector<ClauseUse>& clauses = inquiry.clause_use();
    const std::vector<Note> unused = unused_rules(inquiry);
    const auto dead = static_cast<std::size_t>(
        std::ranges::count_if(clauses, [](const ClauseUse& clause) { return !clause.used; }));
    add(unused, fmt::format("{} of {} clauses never take{} part", dead, clauses.size(),
                            dead == 1 ? "s" : ""));
    const std::vector<Note> idle = idle_conditions(inquiry);
    add(idle, counted(idle.size(), "condition excludes nothing", "conditions exclude nothing"));
    const std::string never_legal = named(inquiry, moves, "moves", "never legal");
    if (!never_legal.empty()) found.push_back(never_legal);
    if (found.empty()) {
      return std::vector{Answer{
          "dead", Verdict::holds,
          fmt::format("all {} clauses and {} moves take part", clauses.size(), moves.size())}};
    }
    std::string evidence;
    for (const std::string& words : found) evidence += (evidence.empty() ? "" : "; ") + words;
    // Where not all is explored clauses were looked for in random games alone.
    evidence += ", " + (exploration.complete() ? exploration.extent()
                                               : "as far as random games show; unknown beyond");
    Answer answer{"dead", exploration.complete() ? Verdict::suspicious : Verdict::unknown,
                  evidence};
    answer.places = std::move(places);
    return std::vector{answer};
  };
}

}  // namespace orchard::review
