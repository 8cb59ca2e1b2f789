// What a game is like: turn order in words, draws, balance, sums, outcome tables. No judgement.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include "explore/sampling/joint_moves.hpp"
#include "review/inquiry/turn_order.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

namespace {

std::string percent(double share) {
  const double value = 100 * share;
  return value > 0 && value < 1 ? fmt::format("{:.2f} %", value) : fmt::format("{:.0f} %", value);
}

// Who moves when, in random games.
struct TurnCounts {
  std::map<std::vector<std::size_t>, std::uint64_t> plies;  // by who is to move
  std::map<std::pair<std::vector<std::size_t>, std::vector<std::size_t>>, std::uint64_t> after;
  std::vector<std::size_t> begins;
  std::map<std::size_t, std::pair<std::uint64_t, std::uint64_t>> only_one;  // role → of its turns
  std::uint64_t idle = 0;  // plies in which nobody can do anything but wait
};

// Where all moves ever are waiting moves, `all_wait`, everybody moves all the time.
TurnCounts count_turns(Exploration& exploration, bool all_wait = false) {
  TurnCounts counts;
  std::vector<std::vector<std::size_t>> before;
  exploration.sample([&](std::span<const std::uint64_t>,
                         std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
    for (std::size_t at = 0; at < places.size(); ++at) {
      bool goes_on = !lanes.terminal(at);
      for (std::size_t role = 0; role < exploration.space().roles(); ++role) {
        goes_on = goes_on && lanes.legal_count(at, role) > 0;
      }
      if (!goes_on) continue;
      before.resize(std::max(before.size(), places[at].game + 1));
      std::vector<std::size_t>& last = before[places[at].game];
      const auto who = all_wait ? movers(exploration, lanes, at) : doing(exploration, lanes, at);
      if (who.empty()) {
        ++counts.idle;
        last.clear();  // who moves next moves after nobody
        continue;
      }
      ++counts.plies[who];
      if (!last.empty()) ++counts.after[{last, who}];
      if (counts.begins.empty()) counts.begins = who;
      last = who;
      if (who.size() == 1) {
        auto& [one, all] = counts.only_one[who[0]];
        one += lanes.legal_count(at, who[0]) == 1 ? 1 : 0;
        ++all;
      }
    }
  });
  return counts.plies.empty() && counts.idle > 0 ? count_turns(exploration, true) : counts;
}

// Who moves after whom, from the beginning on, if that is the same all the time; else nothing.
std::vector<std::vector<std::size_t>> round_of(const TurnCounts& counts) {
  std::map<std::vector<std::size_t>, std::vector<std::size_t>> next;
  for (const auto& [pair, count] : counts.after) {
    if (!next.emplace(pair.first, pair.second).second) return {};
  }
  std::vector<std::vector<std::size_t>> round{counts.begins};
  while (round.size() < counts.plies.size()) {
    const auto after = next.find(round.back());
    if (after == next.end() || std::ranges::find(round, after->second) != round.end()) return {};
    round.push_back(after->second);
  }
  const auto again = next.find(round.back());
  return again == next.end() || again->second == round.front()
             ? round
             : std::vector<std::vector<std::size_t>>{};
}

std::string turns_in_words(const Exploration& exploration, const TurnCounts& counts) {
  const auto name = [&](const std::vector<std::size_t>& who) {
    return joined_roles(exploration, who);
  };
  if (counts.plies.empty()) return "nobody ever moves";
  const std::uint64_t all =
      std::accumulate(counts.plies.begin(), counts.plies.end(), std::uint64_t{0},
                      [](std::uint64_t sum, const auto& entry) { return sum + entry.second; });
  std::string idle;
  if (counts.idle > 0) {
    const auto plies = static_cast<double>(counts.idle);
    idle = fmt::format("; in {} of plies nobody can do anything but wait",
                       percent(plies / (plies + static_cast<double>(all))));
  }
  if (counts.plies.size() == 1) {
    const auto& who = counts.plies.begin()->first;
    const std::string_view how = who.size() == 1 ? "moves" : "move at once";
    return idle.empty() ? fmt::format("{} {} every ply", name(who), how)
                        : fmt::format("nobody but {} moves{}", name(who), idle);
  }
  std::string text;
  const std::vector<std::vector<std::size_t>> round = round_of(counts);
  const bool alternate =
      counts.plies.size() == 2 && std::ranges::all_of(counts.after, [](const auto& entry) {
        return entry.first.first != entry.first.second;
      });
  if (alternate) {
    std::vector<std::string> sides;
    bool at_once = false;
    for (const auto& [who, plies] : counts.plies) {
      at_once = at_once || who.size() > 1;
      sides.push_back(name(who) + (who.size() > 1 ? " at once" : ""));
    }
    text = at_once ? fmt::format("{} alternate with {}", sides[0], sides[1])
                   : joined(sides) + " alternate";
  } else if (!round.empty()) {
    std::vector<std::string> sides;
    for (const auto& who : round) sides.push_back(name(who) + (who.size() > 1 ? " at once" : ""));
    text = joined(sides) + " move in turn";
  } else {
    std::vector<std::string> parts;
    for (const auto& [who, plies] : counts.plies) {
      const double share = static_cast<double>(plies) / static_cast<double>(all);
      std::string part = fmt::format("{} {} in {} of plies", name(who),
                                     who.size() == 1 ? "moves" : "move at once", percent(share));
      const auto again = counts.after.find({who, who});
      std::uint64_t followed = 0;
      for (const auto& [pair, count] : counts.after) followed += pair.first == who ? count : 0;
      if (again != counts.after.end() && followed > 0) {
        part += fmt::format(
            ", and goes again in {} of its plies",
            percent(static_cast<double>(again->second) / static_cast<double>(followed)));
      }
      parts.push_back(part);
    }
    text = joined(parts);
  }
  if (round.empty() || alternate) {
    text += fmt::format("; {} begin{}", name(counts.begins), counts.begins.size() == 1 ? "s" : "");
  }
  text += idle;
  for (const auto& [role, turns] : counts.only_one) {
    if (exploration.is_chance(role) || turns.first == 0) continue;
    text += fmt::format(
        "; {} has only one move in {} of its turns", exploration.game().roles()[role].name(),
        percent(static_cast<double>(turns.first) / static_cast<double>(turns.second)));
  }
  return text;
}

std::vector<std::size_t> players(const Exploration& exploration) {
  std::vector<std::size_t> result;
  for (std::size_t role = 0; role < exploration.game().roles().size(); ++role) {
    if (!exploration.is_chance(role)) result.push_back(role);
  }
  return result;
}

std::optional<double> number_of(const std::vector<Term>& values) {
  if (values.size() != 1 || !values[0].number()) return std::nullopt;
  return static_cast<double>(*values[0].number());
}

// Everybody gets the same.
bool is_draw(const Exploration& exploration, const std::vector<std::vector<Term>>& goals) {
  const auto who = players(exploration);
  return std::ranges::all_of(who, [&](std::size_t role) {
    return number_of(goals[role]) && goals[role] == goals[who.front()];
  });
}

std::vector<std::vector<Term>> goals_of(const Exploration& exploration,
                                        const StateSpace::Outcome& outcome) {
  std::vector<std::vector<Term>> goals(outcome.size());
  for (std::size_t role = 0; role < outcome.size(); ++role) {
    for (const std::uint32_t goal : outcome[role]) {
      goals[role].push_back(
          exploration.ground().terms().term(exploration.ground().goals()[role][goal].term));
    }
  }
  return goals;
}

}  // namespace

Conclusion ask_turns(Watchlist&) {
  return [](Findings& findings) {
    Exploration& exploration = findings.exploration();
    return std::vector{Answer{
        "turns", Verdict::described, {turns_in_words(exploration, count_turns(exploration))}}};
  };
}

namespace {

// An end that gives all players the same.
Signal drawn_end(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  const auto& goals = exploration.ground().goals();
  const std::vector<std::size_t> who = players(exploration);
  std::vector<std::vector<Signal>> ways;
  for (const auto& value : goals[who.front()]) {
    if (!exploration.ground().terms().term(value.term).number()) continue;
    std::vector<Signal>& all = ways.emplace_back();
    for (const std::size_t role : who) {
      const auto same =
          std::ranges::find(goals[role], value.term, &ground::GroundProgram::Value::term);
      all.push_back(
          same == goals[role].end()
              ? circuit::never
              : list.game().goals[role][static_cast<std::size_t>(same - goals[role].begin())]);
    }
  }
  return list.network().both(list.game().terminal, list.network().any_of_all(ways));
}

}  // namespace

Conclusion ask_draws(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  if (players(exploration).size() < 2) return nullptr;
  const std::size_t draw = list.watch(drawn_end(list));
  return [&exploration, draw](Findings& findings) {
    const auto& first = findings.sighting(draw).first;
    Answer answer{"draws", Verdict::described, {}};
    Evidence& evidence = answer.evidence;
    if (first && Exploration::is_shortest(*first)) {
      evidence.finding = fmt::format("draws are possible, the first after {}",
                                     plies_text(exploration.depth_of(*first)));
    } else if (exploration.looked_at_all()) {
      evidence.finding = "no draw is possible";
      return std::vector{answer};
    } else {
      evidence.finding = first ? "draws are possible" : "no draw was met";
      evidence.reach = first ? Reach{} : exploration.reach();
    }
    if (const auto& random = findings.facts().random_play(); random && random->playouts > 0) {
      std::uint64_t draws = 0;
      for (const auto& [goals, games] : random->outcomes) {
        draws += is_draw(exploration, goals) ? games : 0;
      }
      evidence.remarks.push_back(
          fmt::format("{} of {} random games are drawn",
                      percent(static_cast<double>(draws) / static_cast<double>(random->playouts)),
                      random->playouts));
    }
    if (const auto& solution = findings.facts().best_play(); solution && !solution->secures()) {
      constexpr double same = 1e-6;
      double least = 100;
      double most = 0;
      for (const std::size_t role : players(exploration)) {
        const double value =
            *solution->value(exploration.game().initial(), exploration.game().roles()[role]);
        least = std::min(least, value);
        most = std::max(most, value);
      }
      evidence.remarks.push_back(fmt::format(
          "{}best play is {}a draw", all_is_seen(exploration) ? "" : "with everything seen, ",
          most - least < same ? "" : "not "));
    }
    return std::vector{answer};
  };
}

Conclusion ask_balance(Watchlist& list) {
  if (players(list.exploration()).empty()) return nullptr;
  return [](Findings& findings) {
    const Exploration& exploration = findings.exploration();
    const auto& random = findings.facts().random_play();
    std::string text;
    const auto add = [&](std::string_view how, auto&& of_role) {
      text += text.empty() ? "" : "; ";
      text += how;
      std::string_view between = " ";
      for (const std::size_t role : players(exploration)) {
        text +=
            fmt::format("{}{} {}", between, exploration.game().roles()[role].name(), of_role(role));
        between = ", ";
      }
    };
    if (random && random->finished() > 0) {
      add("mean goal under random play", [&](std::size_t role) {
        double sum = 0;
        for (const auto& [goals, games] : random->outcomes) {
          sum += number_of(goals[role]).value_or(0) * static_cast<double>(games);
        }
        return fmt::format("{:.1f}", sum / static_cast<double>(random->finished()));
      });
    }
    if (const auto& solution = findings.facts().best_play()) {
      const std::string_view how =
          solution->secures() ? "guaranteed against all others" : "under best play";
      const std::string_view seen = all_is_seen(exploration) ? "" : "with everything seen, ";
      add(fmt::format("{}{}", seen, how), [&](std::size_t role) {
        return fmt::format("{:.4g}", *solution->value(exploration.game().initial(),
                                                      exploration.game().roles()[role]));
      });
    }
    return std::vector{
        Answer{"balance", Verdict::described, {text.empty() ? "no random game ended" : text}}};
  };
}

namespace {

// Ends in which the goals of the players come to a sum.
struct Sum {
  double of_goals = 0;
  std::size_t watched = 0;
};

// For each choice of one goal a player, if they are not too many.
std::optional<std::vector<Sum>> watched_sums(Watchlist& list) {
  constexpr std::size_t most = 100;
  const Exploration& exploration = list.exploration();
  std::vector<std::vector<std::uint32_t>> values;
  std::size_t choices = 1;
  for (const std::size_t role : players(exploration)) {
    values.emplace_back(exploration.ground().goals()[role].size());
    std::iota(values.back().begin(), values.back().end(), 0);
    choices *= values.back().size();
    if (choices > most) return std::nullopt;
  }
  std::vector<Sum> result;
  explore::each_joint_move(values, [&](const std::vector<std::uint32_t>& chosen) {
    std::vector<Signal> all{list.game().terminal};
    double sum = 0;
    for (std::size_t i = 0; i < chosen.size(); ++i) {
      const std::size_t role = players(exploration)[i];
      all.push_back(list.game().goals[role][chosen[i]]);
      const TermId value = exploration.ground().goals()[role][chosen[i]].term;
      sum += static_cast<double>(exploration.ground().terms().term(value).number().value_or(0));
    }
    result.push_back({sum, list.watch(list.network().all(std::move(all)))});
  });
  return result;
}

}  // namespace

Conclusion ask_sum(Watchlist& list) {
  if (players(list.exploration()).size() < 2) return nullptr;
  std::optional<std::vector<Sum>> watched;
  if (!list.exploration().complete()) watched = watched_sums(list);
  return [watched](Findings& findings) {
    const Exploration& exploration = findings.exploration();
    std::set<double> sums;
    const auto add = [&](const std::vector<std::vector<Term>>& goals) {
      double sum = 0;
      for (const std::size_t role : players(exploration)) sum += number_of(goals[role]).value_or(0);
      sums.insert(sum);
    };
    for (const auto& outcome : exploration.space().outcomes()) add(goals_of(exploration, outcome));
    for (const Sum& sum : watched.value_or(std::vector<Sum>())) {
      if (findings.sighting(sum.watched).first) sums.insert(sum.of_goals);
    }
    const bool all = exploration.complete() || (watched && exploration.looked_at_all());
    if (!all) {
      if (const auto& random = findings.facts().random_play()) {
        for (const auto& [goals, games] : random->outcomes) add(goals);
      }
    }
    std::string text = "no end was met";
    if (sums.size() == 1) {
      text = fmt::format("goals add up to {} at every end{}", *sums.begin(),
                         all ? "" : " that was met");
    } else if (!sums.empty()) {
      text = fmt::format("the sum of the goals lies between {} and {}{}", *sums.begin(),
                         *sums.rbegin(), all ? "" : " at ends that were met");
    }
    return std::vector{Answer{"sum", Verdict::described, {text}}};
  };
}

namespace {

// One joint move of the only ply: the number of the move that each role makes, and the goals.
struct OneStep {
  std::vector<std::string> moves;
  std::string goals;
};

// Two roles choose: a row for each move of the first, a column for each of the second. Empty if it
// would be too wide to read.
std::string matrix_of(const std::vector<OneStep>& steps, const std::string& first_name,
                      const std::string& second_name, std::size_t first, std::size_t second) {
  constexpr std::size_t widest = 66;
  std::vector<std::string> rows;
  std::vector<std::string> columns;
  std::map<std::pair<std::string, std::string>, std::string> cells;
  const auto add_once = [](std::vector<std::string>& names, const std::string& name) {
    if (std::ranges::find(names, name) == names.end()) names.push_back(name);
  };
  std::size_t cell = 0;
  for (const OneStep& step : steps) {
    add_once(rows, step.moves[first]);
    add_once(columns, step.moves[second]);
    cells[{step.moves[first], step.moves[second]}] = step.goals;
    cell = std::max({cell, step.moves[second].size(), step.goals.size()});
  }
  const std::string corner = first_name + " \\ " + second_name;
  std::size_t head = corner.size();
  for (const std::string& row : rows) head = std::max(head, row.size());
  if (head + columns.size() * (cell + 2) > widest) return {};
  std::string text = fmt::format("\n  {:<{}}", corner, head);
  for (const std::string& column : columns) text += fmt::format("  {:>{}}", column, cell);
  for (const std::string& row : rows) {
    text += fmt::format("\n  {:<{}}", row, head);
    for (const std::string& column : columns) {
      text += fmt::format("  {:>{}}", cells[{row, column}], cell);
    }
  }
  return text;
}

}  // namespace

// Of games of one ply in which several choose at once: the table that the rules come to.
Conclusion ask_outcomes(Watchlist&) {
  return [](Findings& findings) -> std::vector<Answer> {
    const Exploration& exploration = findings.exploration();
    const StateSpace& space = exploration.space();
    constexpr std::size_t most_rows = 400;
    std::vector<std::size_t> choosers;
    for (std::size_t role = 0; role < space.roles(); ++role) {
      if (space.expanded() > 0 && space.choices(0, role) > 1) choosers.push_back(role);
    }
    const bool one_step = exploration.complete() && space.depths().size() == 2 &&
                          choosers.size() > 1 && space.steps(0).size() <= most_rows;
    const auto goes_on = [&](Number next) { return space.kind(next) == StateSpace::Kind::open; };
    if (!one_step || std::ranges::any_of(space.steps(0), goes_on)) return {};
    const Game& game = exploration.game();
    LaneEvaluator lanes(exploration.lanes());
    lanes.set_positions(space.row(0), 1);
    std::vector<std::vector<std::uint32_t>> legal(space.roles());
    for (std::size_t role = 0; role < legal.size(); ++role) lanes.legal(0, role, legal[role]);
    std::vector<OneStep> steps;
    for (std::size_t step = 0; step < space.steps(0).size(); ++step) {
      const JointMove joint = exploration.joint_move(exploration.joint_of(legal, step));
      OneStep one;
      for (const Role& role : game.roles()) one.moves.push_back(joint[role].to_string());
      const Number next = space.steps(0)[step];
      const auto goals = goals_of(exploration, space.outcomes()[space.outcome(next)]);
      for (const std::size_t role : players(exploration)) {
        one.goals += one.goals.empty() ? "" : " ";
        one.goals += goals[role].empty() ? "-" : goals[role][0].to_string();
      }
      steps.push_back(std::move(one));
    }
    std::string text = fmt::format("what each joint move comes to (goals of {}):",
                                   joined_roles(exploration, players(exploration)));
    std::string table;
    if (choosers.size() == 2) {
      table = matrix_of(steps, game.roles()[choosers[0]].name(), game.roles()[choosers[1]].name(),
                        choosers[0], choosers[1]);
    }
    for (std::size_t at = 0; at < steps.size() && table.empty(); ++at) {
      text += "\n  ";
      for (const Role& role : game.roles())
        text += fmt::format(" {} {}", role.name(), steps[at].moves[role.index()]);
      text += " → " + steps[at].goals;
    }
    return {Answer{"outcomes", Verdict::described, {text + table}}};
  };
}

}  // namespace orchard::review
