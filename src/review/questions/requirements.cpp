// Requirements that a look at every position decides.
#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "review/inquiry/reasons.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

using circuit::never;

Conclusion ask_opens(Watchlist&) {
  return [](Findings& findings) {
    const Game& game = findings.exploration().game();
    Answer answer{"opens", Verdict::holds, {"the start is not an end"}};
    if (game.terminal(game.initial())) {
      answer = {"opens", Verdict::fails, {"the start is already an end"}};
      answer.line = Line{{game.initial()}, {}};
      answer.line_title = "at the start";
    }
    return std::vector{answer};
  };
}

namespace {

const Game& game_of(Findings& findings) {
  return findings.exploration().game();
}

// (legal blue ?move), (goal blue ?value)
Term about(const Role& role, const char* relation, const char* other) {
  return Term::function(relation, {Term::constant(role.name()), Term::constant(other)});
}

}  // namespace

Conclusion ask_moves(Watchlist& list) {
  const circuit::GameNetwork& game = list.game();
  std::vector<Watched> watched;
  for (std::size_t role = 0; role < game.legal.size(); ++role) {
    const Signal can_move = list.network().any(game.legal[role]);
    watched.push_back({fmt::format("{} has no legal move, and the game is not over",
                                   list.exploration().game().roles()[role].name()),
                       list.watch_fault(list.network().both(!game.terminal, !can_move))});
  }
  return [watched](Findings& findings) {
    if (const Watched* first = soonest(findings, watched)) {
      const auto& sighting = findings.sighting(first->number);
      Answer answer = failure(findings, "moves", sighting, {first->what, {}, sighting.count});
      const Role& role =
          game_of(findings).roles()[static_cast<std::size_t>(first - watched.data())];
      add_reasons(game_of(findings), {about(role, "legal", "?move")}, answer);
      return std::vector{answer};
    }
    return std::vector{
        nowhere(findings, "moves", "every role has a legal move before the end", watched)};
  };
}

namespace {

std::optional<std::int64_t> number_of(const Exploration& exploration, TermId term) {
  return exploration.ground().terms().term(term).number();
}

}  // namespace

Conclusion ask_winnable(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  struct Asked {
    std::size_t role;
    std::int64_t most;
    std::size_t watched;
  };
  std::vector<Asked> asked;
  for (std::size_t role = 0; role < exploration.game().roles().size(); ++role) {
    if (exploration.is_chance(role)) continue;
    const auto& goals = exploration.ground().goals()[role];
    std::optional<std::size_t> best;
    for (std::size_t g = 0; g < goals.size(); ++g) {
      const auto value = number_of(exploration, goals[g].term);
      if (value && (!best || *value > *number_of(exploration, goals[*best].term))) best = g;
    }
    const Signal signal =
        best ? list.network().both(list.game().terminal, list.game().goals[role][*best]) : never;
    asked.push_back(
        {role, best ? *number_of(exploration, goals[*best].term) : 0, list.watch_hope(signal)});
  }
  return [&exploration, asked](Findings& findings) {
    std::vector<Answer> answers;
    const Asked* const top =
        asked.empty() ? nullptr : &*std::ranges::max_element(asked, {}, &Asked::most);
    constexpr std::int64_t most_of_language = 100;
    for (const Asked& one : asked) {
      const std::string& name = exploration.game().roles()[one.role].name();
      const auto& sighting = findings.sighting(one.watched);
      const std::string id = "winnable:" + name;
      if (exploration.ground().goals()[one.role].empty()) {
        answers.push_back({id, Verdict::fails, {fmt::format("no rule gives {} a goal", name)}});
      } else if (one.most < top->most) {
        answers.push_back(
            {id,
             Verdict::suspicious,
             {fmt::format("the goal rules give {} {} at most, and {} {}", name, one.most,
                          exploration.game().roles()[top->role].name(), top->most)}});
      } else if (exploration.keeps_to_explored() && one.most < most_of_language) {
        // Positions beyond may give more.
        answers.push_back({id, Verdict::unknown, {fmt::format("{} may get more later", name)}});
      } else if (sighting.first) {
        const Line line = exploration.line_to(*sighting.first);
        const bool first = Exploration::is_shortest(*sighting.first);
        answers.push_back({id,
                           Verdict::holds,
                           {fmt::format("{} {} {} after {}", name, first ? "first gets" : "gets",
                                        one.most, plies_text(line.joints.size()))}});
      } else if (exploration.looked_at_all() || findings.never(one.watched)) {
        Evidence evidence{
            fmt::format("{} never gets {}, the most that its goal rules give", name, one.most)};
        evidence.reach =
            exploration.looked_at_all() ? exploration.reach() : Reach{Reach::Kind::proved};
        answers.push_back({id, Verdict::fails, evidence});
      } else {
        Evidence evidence{fmt::format("{} gets {} nowhere", name, one.most)};
        evidence.reach = exploration.reach();
        answers.push_back({id, Verdict::unknown, evidence});
      }
    }
    return answers;
  };
}

namespace {

// Of the first role that has not one whole goal from 0 to 100 at the end of the line: those it has,
// or what it lacks.
std::vector<Term> goals_to_explain(const Exploration& exploration, const Answer& answer) {
  const Game& game = exploration.game();
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    const std::vector<Term> goals = game.goals(answer.line->last(), role);
    const auto number = goals.size() == 1 ? goals.front().number() : std::nullopt;
    if (number && *number >= 0 && *number <= 100) continue;
    std::vector<Term> result;
    if (goals.empty()) result.push_back(about(role, "goal", "?value"));
    for (const Term& goal : goals) result.push_back(about(role, "goal", goal.to_string().c_str()));
    return result;
  }
  return {};
}

}  // namespace

Conclusion ask_scored(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  const auto& roles = exploration.game().roles();
  if (std::ranges::all_of(roles, [](const Role& role) { return role.is_chance(); })) return nullptr;
  std::vector<Watched> asked;
  circuit::Network& network = list.network();
  const Signal over = list.game().terminal;
  for (std::size_t role = 0; role < exploration.game().roles().size(); ++role) {
    if (exploration.is_chance(role)) continue;
    const std::string& name = exploration.game().roles()[role].name();
    const std::vector<Signal>& goals = list.game().goals[role];
    std::vector<Signal> odd;
    for (std::size_t g = 0; g < goals.size(); ++g) {
      const auto value = number_of(exploration, exploration.ground().goals()[role][g].term);
      if (!value || *value < 0 || *value > 100) odd.push_back(goals[g]);
    }
    const auto watch_at_ends = [&](std::string what, Signal signal) {
      asked.push_back({std::move(what), list.watch_fault(network.both(over, signal))});
    };
    watch_at_ends(fmt::format("an end gives {} no goal", name), !network.any(goals));
    watch_at_ends(fmt::format("an end gives {} more than one goal", name), network.several(goals));
    watch_at_ends(
        fmt::format("an end gives {} a goal that is not a whole number from 0 to 100", name),
        network.any(odd));
  }
  const std::size_t ends = list.watch(over);
  return [&exploration, asked, ends](Findings& findings) {
    if (const Watched* first = soonest(findings, asked)) {
      const auto& sighting = findings.sighting(first->number);
      Answer answer = failure(findings, "scored", sighting,
                              {first->what, {}, sighting.count, findings.sighting(ends).count});
      add_reasons(exploration.game(), goals_to_explain(exploration, answer), answer);
      return std::vector{answer};
    }
    if (!exploration.looked_at_all()) {
      return std::vector{nowhere(findings, "scored", "every end gives every role one goal", asked)};
    }
    const std::uint64_t count = findings.sighting(ends).count;
    if (count == 0) {
      return std::vector{
          Answer{"scored", Verdict::described, {"no position is an end, so nothing is scored"}}};
    }
    return std::vector{
        Answer{"scored",
               Verdict::holds,
               {count == 1 ? "the only end gives every role one goal"
                           : fmt::format("each of the {} ends gives every role one goal", count)}}};
  };
}

}  // namespace orchard::review
