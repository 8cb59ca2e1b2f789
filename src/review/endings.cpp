// Whether every line of play ends, and whether play goes on though its result is settled.
#include <fmt/core.h>

#include <algorithm>
#include <bit>

#include "review/endings.hpp"
#include "review/inquiry.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

// Positions are taken off whose followers are all off; what is left can go on for ever. What was
// not looked at counts as off.
EndOrder end_order(const StateSpace& space) {
  EndOrder result;
  const Number count = space.expanded();
  std::vector<std::uint32_t> open(count, 0);  // followers that are not off, as often as they follow
  std::vector<std::uint64_t> first(std::size_t{count} + 1, 0);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.steps(p)) {
      if (next >= count) continue;
      ++open[p];
      ++first[next + 1];
    }
  }
  for (std::size_t p = 0; p < count; ++p) first[p + 1] += first[p];
  std::vector<Number> before(first[count]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.steps(p)) {
      if (next < count) before[at[next]++] = p;
    }
  }
  result.order.reserve(count);
  for (Number p = 0; p < count; ++p) {
    if (open[p] == 0) result.order.push_back(p);
  }
  for (std::size_t i = 0; i < result.order.size(); ++i) {
    const Number p = result.order[i];
    for (std::uint64_t k = first[p]; k < first[p + 1]; ++k) {
      if (--open[before[k]] == 0) result.order.push_back(before[k]);
    }
  }
  if (result.order.size() == count) return result;
  // Followers of what is left that are left too, until one comes again.
  Number p = 0;
  while (open[p] == 0) ++p;
  result.cycle = space.line_to(p);
  std::vector<Number> walked{p};
  while (true) {
    const auto next =
        std::ranges::find_if(space.steps(p), [&](Number n) { return n < count && open[n] != 0; });
    p = *next;
    const auto again = std::ranges::find(walked, p);
    if (again != walked.end()) {
      result.repeats_from =
          result.cycle.size() - 1 + static_cast<std::size_t>(again - walked.begin());
      result.cycle.insert(result.cycle.end(), walked.begin() + 1, walked.end());
      result.cycle.push_back(p);
      return result;
    }
    walked.push_back(p);
  }
}

Conclusion ask_ends(Inquiry& inquiry) {
  return [&inquiry] {
    const Exploration& exploration = inquiry.exploration();
    const StateSpace& space = exploration.space();
    const EndOrder order = end_order(space);
    if (!order.cycle.empty()) {
      Answer answer{
          "ends", Verdict::fails,
          fmt::format("play can go round for ever: {} positions come again after {} plies",
                      order.cycle.size() - 1 - order.repeats_from, order.cycle.size() - 1)};
      answer.line = exploration.line_through(order.cycle);
      answer.line_title = "the last position is that of ply " + std::to_string(order.repeats_from);
      answer.repeats_from = order.repeats_from;
      return std::vector{answer};
    }
    if (!exploration.complete()) {
      return std::vector{Answer{
          "ends", Verdict::unknown,
          fmt::format("no position comes again among {} positions; unknown beyond", space.size())}};
    }
    std::vector<std::uint32_t> longest(space.size(), 0);
    for (const Number p : order.order) {
      for (const Number next : space.steps(p)) longest[p] = std::max(longest[p], longest[next] + 1);
    }
    std::uint32_t soonest = longest[0];
    for (Number p = space.size(); p-- > 0;) {
      if (space.kind(p) != StateSpace::Kind::open) soonest = std::min(soonest, space.depth(p));
    }
    return std::vector{Answer{
        "ends", Verdict::holds,
        soonest == longest[0]
            ? fmt::format("every line of play ends after {} plies", soonest)
            : fmt::format("every line of play ends, after {} to {} plies", soonest, longest[0])}};
  };
}

namespace {

// For every position the outcomes that can still come of it, a bit for each; empty if there are
// too many.
std::vector<std::uint64_t> outcomes_ahead(const StateSpace& space, const EndOrder& order) {
  if (space.outcomes().size() > 64 || !order.cycle.empty()) return {};
  std::vector<std::uint64_t> ahead(space.size(), 0);
  for (const Number p : order.order) {
    if (space.kind(p) != StateSpace::Kind::open) {
      ahead[p] = std::uint64_t{1} << space.outcome(p);
      continue;
    }
    for (const Number next : space.steps(p)) ahead[p] |= ahead[next];
  }
  return ahead;
}

}  // namespace

// A position is settled if only one outcome can come of it, and somebody still has a choice there.
// Some of that is natural (the last squares of a draw are filled); when most random games go
// through several settled choices, play goes on too long.
Conclusion ask_settled(Inquiry& inquiry) {
  return [&inquiry] {
    Exploration& exploration = inquiry.exploration();
    const StateSpace& space = exploration.space();
    if (!exploration.complete()) {
      return std::vector{Answer{"settled", Verdict::unknown, "not every position is explored"}};
    }
    const std::vector<std::uint64_t> ahead = outcomes_ahead(space, end_order(space));
    if (ahead.empty()) {
      return std::vector{Answer{"settled", Verdict::unknown,
                                "there are too many outcomes, or lines of play without an end"}};
    }
    const auto settled = [&](Number p) {
      return space.kind(p) == StateSpace::Kind::open && std::has_single_bit(ahead[p]) &&
             space.steps(p).size() > 1;
    };
    std::uint64_t count = 0;
    std::optional<Number> first;
    // How many choices can still follow once the result stands.
    std::vector<std::uint32_t> tail(space.size(), 0);
    Number longest = 0;
    for (Number p = 0; p < space.size(); ++p) {
      if (!settled(p)) continue;
      ++count;
      if (!first) first = p;
    }
    for (const Number p : end_order(space).order) {
      if (!std::has_single_bit(ahead[p])) continue;
      for (const Number next : space.steps(p)) tail[p] = std::max(tail[p], tail[next]);
      tail[p] += settled(p) ? 1 : 0;
      if (tail[p] > tail[longest]) longest = p;
    }
    if (!first) {
      return std::vector{Answer{"settled", Verdict::holds,
                                "wherever somebody has a choice, the result is still open"}};
    }
    std::uint64_t games = 0;
    std::uint64_t with_tail = 0;
    std::uint64_t choices = 0;
    std::vector<std::uint32_t> in_game;
    exploration.sample([&](std::span<const std::uint64_t> rows,
                           std::span<const SampledGames::Place> places, const LaneEvaluator&) {
      for (std::size_t at = 0; at < places.size(); ++at) {
        in_game.resize(std::max(in_game.size(), places[at].game + 1), 0);
        const auto row = rows.subspan(at * space.words(), space.words());
        if (settled(*space.find(row))) ++in_game[places[at].game];
      }
    });
    games = in_game.size();
    for (const std::uint32_t choices_here : in_game) {
      with_tail += choices_here > 0 ? 1 : 0;
      choices += choices_here;
    }
    const double share = static_cast<double>(with_tail) / static_cast<double>(games);
    const double mean =
        with_tail == 0 ? 0 : static_cast<double>(choices) / static_cast<double>(with_tail);
    constexpr double too_often = 0.9;
    constexpr double too_long = 2;
    const bool odd = share >= too_often && mean >= too_long;
    Answer answer{"settled", odd ? Verdict::suspicious : Verdict::holds,
                  fmt::format("in {} positions the result stands and somebody still has a choice; "
                              "{:.0f} % of random games go through some, {:.1f} of them on average",
                              count, 100 * share, mean)};
    if (odd) {
      answer.line = exploration.line_to(Exploration::Spot(*first));
      answer.line_title = "the first position in which the result stands";
    }
    return std::vector{answer};
  };
}

}  // namespace orchard::review
