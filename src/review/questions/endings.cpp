// Whether every line of play ends, and whether play goes on though its result is settled.
#include <fmt/core.h>

#include <algorithm>
#include <bit>
#include <map>

#include "base/counted.hpp"
#include "base/interruption.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

namespace {

std::string cycle_text(const EndOrder& order) {
  const std::size_t length = order.cycle.size() - 1 - order.repeats_from;
  return fmt::format("play can go on for ever: {}, the first time after {}",
                     length == 1 ? "a position repeats at once"
                                 : fmt::format("the same {} positions repeat", length),
                     plies_text(order.cycle.size() - 1));
}

// "every line of play ends, after at most 20 plies: …; proved by induction"
std::string proof_text(const prove::EndingProof& proof) {
  std::string text = "every line of play ends";
  if (proof.by_sums) {
    for (std::size_t level = 0; level < proof.levels.size(); ++level) {
      text += level == 0 ? ": each move lowers a weighted count of " : ", or else one of ";
      text += joined(proof.levels[level]);
    }
    return text + "; proved by induction";
  }
  if (proof.most_plies) text += fmt::format(", after at most {}", plies_text(*proof.most_plies));
  for (std::size_t level = 0; level < proof.levels.size(); ++level) {
    text += level == 0 ? ": each move takes " : ", or else ";
    for (std::size_t i = 0; i < proof.levels[level].size(); ++i) {
      text += (i == 0 ? "" : " or ") + proof.levels[level][i];
    }
    if (level == 0) text += " further, never back";
  }
  return text + "; proved by induction";
}

// Whether the players can keep a game from ending whatever chance does: whether a set of explored
// positions, none of them an end, is not empty in each of which some choice of the players leads
// back into the set for everything that chance may do. Without such a set play ends with
// probability one (there is no end component but the ends; de Alfaro, 1997). Found as the largest
// one, from what lies last to what lies first; positions that were not explored count as left.
bool players_can_go_on(const Exploration& exploration) {
  const StateSpace& space = exploration.space();
  std::optional<std::size_t> chance;
  for (const Role& role : exploration.game().roles()) {
    if (role.is_chance()) chance = role.index();
  }
  if (!chance) return true;
  std::vector<bool> in_set(space.classes(), false);
  for (Number c = 0; c < space.expanded_classes(); ++c) {
    in_set[c] = space.kind(space.first_of(c)) == StateSpace::Kind::open;
  }
  std::vector<bool> stays;  // by choice of the players
  bool any = true;
  for (bool changed = true; changed && any;) {
    changed = any = false;
    end_if_interrupted();
    for (Number c = space.expanded_classes(); c-- > 0;) {
      if (!in_set[c]) continue;
      const Number position = space.first_of(c);
      std::size_t stride = 1;  // between two choices of chance
      for (std::size_t role = 0; role < *chance; ++role) stride *= space.choices(position, role);
      const std::size_t throws = space.choices(position, *chance);
      const auto steps = space.class_steps(c);
      stays.assign(steps.size() / throws, true);
      for (std::size_t step = 0; step < steps.size(); ++step) {
        const std::size_t by_players = step % stride + step / (stride * throws) * stride;
        if (!in_set[steps[step]]) stays[by_players] = false;
      }
      in_set[c] = std::ranges::find(stays, true) != stays.end();
      any = any || in_set[c];
      changed = changed || !in_set[c];
    }
  }
  return any;
}

}  // namespace

Conclusion ask_ends(Watchlist&) {
  return [](Findings& findings) {
    const Exploration& exploration = findings.exploration();
    const StateSpace& space = exploration.space();
    const EndOrder& order = findings.facts().ends();
    if (!order.cycle.empty() && !players_can_go_on(exploration)) {
      return std::vector{
          exploration.complete()
              ? Answer{"ends",
                       Verdict::holds,
                       {"play ends with probability one, whatever the players do; only chance can "
                        "draw it out"}}
              : Answer{"ends",
                       Verdict::unknown,
                       {fmt::format("positions repeat where chance brings them about; whether play "
                                    "ends with probability one is not known beyond the {} explored",
                                    space.positions())}}};
    }
    if (!order.cycle.empty()) {
      Answer answer{"ends", Verdict::fails, {cycle_text(order)}};
      answer.line = exploration.line_through(order.cycle);
      answer.line_title = fmt::format(
          "{}the last position is {} again",
          order.is_shortest ? "a shortest line to a position that repeats; " : "",
          order.repeats_from == 0 ? "the start" : "that after " + plies_text(order.repeats_from));
      answer.repeats_from = order.repeats_from;
      return std::vector{answer};
    }
    if (!exploration.complete()) {
      if (const auto& proof = findings.ending_proof()) {
        return std::vector{Answer{"ends", Verdict::holds, {proof_text(*proof)}}};
      }
      return std::vector{
          Answer{"ends",
                 Verdict::unknown,
                 {fmt::format("no position repeats among the {} explored; unknown beyond",
                              space.positions())}}};
    }
    std::vector<std::uint32_t> longest(space.classes(), 0);
    for (const Number c : order.order) {
      for (const Number next : space.class_steps(c)) {
        longest[c] = std::max(longest[c], longest[next] + 1);
      }
    }
    std::uint32_t soonest = longest[0];
    for (Number c = space.classes(); c-- > 0;) {
      const Number p = space.first_of(c);
      if (space.kind(p) != StateSpace::Kind::open) soonest = std::min(soonest, space.depth(p));
    }
    return std::vector{Answer{
        "ends",
        Verdict::holds,
        {soonest == longest[0]
             ? fmt::format("every line of play ends after {}", plies_text(soonest))
             : fmt::format("every line of play ends, after {} to {} plies", soonest, longest[0])}}};
  };
}

namespace {

// For every class of positions the outcomes that can still come of it, a bit for each; empty if
// there are too many.
std::vector<std::uint64_t> outcomes_ahead(const StateSpace& space, const EndOrder& order) {
  if (space.outcomes().size() > 64 || !order.cycle.empty()) return {};
  std::vector<std::uint64_t> ahead(space.classes(), 0);
  for (const Number c : order.order) {
    if (space.kind(space.first_of(c)) != StateSpace::Kind::open) {
      ahead[c] = std::uint64_t{1} << space.outcome(space.first_of(c));
      continue;
    }
    for (const Number next : space.class_steps(c)) ahead[c] |= ahead[next];
  }
  return ahead;
}

std::vector<bool> goals_at(const LaneEvaluator& lanes, std::size_t at) {
  std::vector<bool> result;
  const auto& goals = lanes.game().ground().goals();
  for (std::size_t role = 0; role < goals.size(); ++role) {
    for (std::size_t value = 0; value < goals[role].size(); ++value) {
      result.push_back(lanes.goal(at, role, value));
    }
  }
  return result;
}

// Whether a random game came to its end with the result open to the last ply: another one from the
// position before it ended otherwise, then or later.
bool a_game_is_open_to_the_last(Exploration& exploration) {
  constexpr std::size_t most_tried = 64;
  constexpr std::size_t games = 128;
  constexpr std::size_t most_plies = 400;
  Random random = Random::stream(1, 2);
  std::map<std::size_t, std::vector<std::uint64_t>> last;  // row, by game
  std::size_t tried = 0;
  bool found = false;
  exploration.sample([&](std::span<const std::uint64_t> rows,
                         std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
    for (std::size_t at = 0; at < places.size() && !found; ++at) {
      std::vector<std::uint64_t>& before = last[places[at].game];
      if (lanes.terminal(at) && !before.empty() && tried++ < most_tried) {
        const std::vector<bool> goals = goals_at(lanes, at);
        SampledGames others(exploration.lanes());
        others.play(games, before, random, most_plies,
                    [&](std::span<const std::uint64_t>, std::span<const SampledGames::Place> those,
                        const LaneEvaluator& there) {
                      for (std::size_t i = 0; i < those.size() && !found; ++i) {
                        found = there.terminal(i) && goals_at(there, i) != goals;
                      }
                    });
      }
      const auto row = rows.subspan(at * lanes.words(), lanes.words());
      before.assign(row.begin(), row.end());
    }
  });
  return found;
}

// What the positions say of results that are settled before the end.
struct Settling {
  std::uint64_t standing = 0;            // positions with a choice and a settled result
  Number first = 0;                      // the least of them; 0 if there is none
  std::optional<std::uint32_t> soonest;  // fewest choices from an open result to an end
};

Settling settling_of(const Exploration& exploration, const EndOrder& order,
                     std::span<const std::uint64_t> ahead) {
  const StateSpace& space = exploration.space();
  Settling result;
  std::vector<std::uint32_t> to_end(space.classes(), 0);  // fewest choices on a line to an end
  for (const Number c : order.order) {
    const Number p = space.first_of(c);
    if (space.kind(p) != StateSpace::Kind::open) continue;
    to_end[c] = ~std::uint32_t{0};
    for (const Number next : space.class_steps(c)) {
      to_end[c] = std::min(to_end[c], to_end[next]);
    }
    bool chosen = false;
    for (std::size_t role = 0; role < space.roles(); ++role) {
      chosen = chosen || (space.choices(p, role) > 1 && !exploration.is_chance(role));
    }
    to_end[c] += chosen ? 1 : 0;
    if (std::has_single_bit(ahead[c])) {
      result.standing += chosen ? space.class_size(c) : 0;
      if (chosen && (result.first == 0 || p < result.first)) result.first = p;
    } else if (!result.soonest || to_end[c] < *result.soonest) {
      result.soonest = to_end[c];
    }
  }
  return result;
}

Answer settled(const Exploration& exploration, const Settling& found) {
  const StateSpace& space = exploration.space();
  constexpr std::uint32_t too_long = 3;  // choices, the one that settles it included
  if (found.soonest && *found.soonest >= too_long && found.first != 0) {
    Answer answer{
        "settled",
        Verdict::suspicious,
        {fmt::format(
            "after the result is settled somebody always has {} more choices to make, or more",
            *found.soonest - 1)}};
    answer.line = exploration.line_to(Exploration::Spot(found.first));
    answer.line_title = fmt::format("after {} the result is settled, and play goes on",
                                    plies_text(space.depth(found.first)));
    return answer;
  }
  if (found.standing == 0) {
    return {"settled", Verdict::holds, {"wherever somebody can choose, the result is still open"}};
  }
  const double share = static_cast<double>(found.standing) / static_cast<double>(space.positions());
  Answer answer{"settled", Verdict::holds, {"the result can stay open until the last plies"}};
  answer.evidence.remarks.push_back(fmt::format(
      "in {:.0f} % of positions it is settled while somebody still has a choice", 100 * share));
  return answer;
}

}  // namespace

// The result stands in a position if only one outcome can come of it. Some of that is natural: the
// last squares of a draw are filled. Where every line of play goes on for plies after its result
// stands, the rules notice the end too late.
Conclusion ask_settled(Watchlist&) {
  return [](Findings& findings) {
    Exploration& exploration = findings.exploration();
    if (!exploration.complete()) {
      if (a_game_is_open_to_the_last(exploration)) {
        return std::vector{Answer{"settled",
                                  Verdict::holds,
                                  {"the result can stay open until the last ply, as random games "
                                   "show"}}};
      }
      return std::vector{Answer{"settled", Verdict::unknown, {"not every position was explored"}}};
    }
    const EndOrder& order = findings.facts().ends();
    const std::vector<std::uint64_t> ahead = outcomes_ahead(exploration.space(), order);
    if (ahead.empty()) {
      return std::vector{Answer{"settled",
                                Verdict::unknown,
                                {"there are too many outcomes, or lines of play that never end"}}};
    }
    return std::vector{settled(exploration, settling_of(exploration, order, ahead))};
  };
}

}  // namespace orchard::review
