// Requirements that a look at every position decides.
#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

using circuit::never;

std::string plies_text(std::size_t count) {
  return counted(count, "ply", "plies");
}

Answer failure(const Inquiry& inquiry, std::string id, const Exploration::Sighting& sighting,
               std::string evidence) {
  Answer answer{std::move(id), Verdict::fails, std::move(evidence)};
  answer.line = inquiry.exploration().line_to(*sighting.first);
  const bool shortest = Exploration::is_shortest(*sighting.first);
  const std::size_t plies = answer.line->joints.size();
  answer.line_title = plies == 0 ? "at the start"
                                 : fmt::format("after {}{}", plies_text(plies),
                                               shortest ? ", the shortest line" : "");
  return answer;
}

Answer nowhere(Inquiry& inquiry, std::string id, std::string what,
               const std::vector<Watched>& watched) {
  const Exploration& exploration = inquiry.exploration();
  if (!what.empty()) what += ", ";
  // Without a watch it was looked for in joint moves.
  if (watched.empty() ? exploration.complete() : exploration.looked_at_all()) {
    return {std::move(id), Verdict::holds, what + exploration.extent()};
  }
  if (!watched.empty() &&
      std::ranges::all_of(watched, [&](const Watched& one) { return inquiry.never(one.number); })) {
    return {std::move(id), Verdict::holds,
            what + "in every reachable position: proved by induction"};
  }
  return {std::move(id), Verdict::unknown,
          what + (watched.empty() ? exploration.extent_of_steps() : exploration.extent())};
}

const Watched* soonest(const Inquiry& inquiry, const std::vector<Watched>& watched) {
  // Positions explored are numbered breadth first and come before those beyond them.
  const auto order = [&exploration = inquiry.exploration()](const Exploration::Spot& spot) {
    if (const auto* position = std::get_if<StateSpace::Number>(&spot)) {
      return std::pair<std::uint64_t, std::uint64_t>(0, *position);
    }
    return std::pair<std::uint64_t, std::uint64_t>(1, exploration.depth_of(spot));
  };
  const Watched* result = nullptr;
  for (const Watched& one : watched) {
    const auto& first = inquiry.sighting(one.number).first;
    if (!first) continue;
    if (result == nullptr || order(*first) < order(*inquiry.sighting(result->number).first)) {
      result = &one;
    }
  }
  return result;
}

Conclusion ask_opens(Inquiry& inquiry) {
  return [&inquiry] {
    const Game& game = inquiry.exploration().game();
    Answer answer{"opens", Verdict::holds, "the start is not an end"};
    if (game.terminal(game.initial())) {
      answer = {"opens", Verdict::fails, "the start is an end already"};
      answer.line = Line{{game.initial()}, {}};
      answer.line_title = "at the start";
    }
    return std::vector{answer};
  };
}

Conclusion ask_moves(Inquiry& inquiry) {
  const circuit::GameNetwork& game = inquiry.game();
  std::vector<Watched> watched;
  for (std::size_t role = 0; role < game.legal.size(); ++role) {
    const Signal can_move = inquiry.network().any(game.legal[role]);
    watched.push_back({fmt::format("{} has no legal move, and the game is not over",
                                   inquiry.exploration().game().roles()[role].name()),
                       inquiry.watch_fault(inquiry.network().both(!game.terminal, !can_move))});
  }
  return [&inquiry, watched] {
    if (const Watched* first = soonest(inquiry, watched)) {
      const auto& sighting = inquiry.sighting(first->number);
      std::string evidence = first->what;
      if (sighting.count > 1) evidence += fmt::format(", in {} positions", sighting.count);
      return std::vector{failure(inquiry, "moves", sighting, evidence)};
    }
    return std::vector{
        nowhere(inquiry, "moves", "every role has a legal move before the end", watched)};
  };
}

namespace {

std::optional<std::int64_t> number_of(const Exploration& exploration, TermId term) {
  return exploration.ground().terms().term(term).number();
}

}  // namespace

Conclusion ask_winnable(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
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
        best ? inquiry.network().both(inquiry.game().terminal, inquiry.game().goals[role][*best])
             : never;
    asked.push_back(
        {role, best ? *number_of(exploration, goals[*best].term) : 0, inquiry.watch_hope(signal)});
  }
  return [&inquiry, &exploration, asked] {
    std::vector<Answer> answers;
    for (const Asked& one : asked) {
      const std::string& name = exploration.game().roles()[one.role].name();
      const auto& sighting = inquiry.sighting(one.watched);
      const std::string id = "winnable:" + name;
      if (exploration.ground().goals()[one.role].empty()) {
        answers.push_back({id, Verdict::fails, fmt::format("no rule gives {} a goal", name)});
      } else if (sighting.first) {
        const Line line = exploration.line_to(*sighting.first);
        answers.push_back(
            {id, Verdict::holds,
             fmt::format("{} gets {} after {}{}", name, one.most, plies_text(line.joints.size()),
                         sighting.count > 0 ? " at the soonest" : "")});
      } else if (exploration.looked_at_all() || inquiry.never(one.watched)) {
        answers.push_back(
            {id, Verdict::fails,
             fmt::format("{} never gets {}, the most that its goal rules give, {}", name, one.most,
                         exploration.looked_at_all()
                             ? exploration.extent()
                             : "in any reachable position: proved by induction")});
      } else {
        answers.push_back(
            {id, Verdict::unknown,
             fmt::format("{} gets {} nowhere, {}", name, one.most, exploration.extent())});
      }
    }
    return answers;
  };
}

Conclusion ask_scored(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
  std::vector<Watched> asked;
  circuit::Network& network = inquiry.network();
  const Signal over = inquiry.game().terminal;
  for (std::size_t role = 0; role < exploration.game().roles().size(); ++role) {
    if (exploration.is_chance(role)) continue;
    const std::string& name = exploration.game().roles()[role].name();
    const std::vector<Signal>& goals = inquiry.game().goals[role];
    std::vector<Signal> odd;
    for (std::size_t g = 0; g < goals.size(); ++g) {
      const auto value = number_of(exploration, exploration.ground().goals()[role][g].term);
      if (!value || *value < 0 || *value > 100) odd.push_back(goals[g]);
    }
    const auto watch_at_ends = [&](std::string what, Signal signal) {
      asked.push_back({std::move(what), inquiry.watch_fault(network.both(over, signal))});
    };
    watch_at_ends(fmt::format("an end gives {} no goal", name), !network.any(goals));
    watch_at_ends(fmt::format("an end gives {} more than one goal", name), network.several(goals));
    watch_at_ends(fmt::format("an end gives {} a goal that is no whole number from 0 to 100", name),
                  network.any(odd));
  }
  const std::size_t ends = inquiry.watch(over);
  return [&inquiry, &exploration, asked, ends] {
    if (const Watched* first = soonest(inquiry, asked)) {
      const auto& sighting = inquiry.sighting(first->number);
      std::string evidence = first->what;
      if (sighting.count > 1) {
        evidence += fmt::format(" ({} of {} ends)", sighting.count, inquiry.sighting(ends).count);
      }
      return std::vector{failure(inquiry, "scored", sighting, evidence)};
    }
    if (!exploration.looked_at_all()) {
      return std::vector{nowhere(inquiry, "scored", "every end gives every role one goal", asked)};
    }
    return std::vector{Answer{"scored", Verdict::holds,
                              fmt::format("each of the {} ends gives every role one goal",
                                          inquiry.sighting(ends).count)}};
  };
}

}  // namespace orchard::review
