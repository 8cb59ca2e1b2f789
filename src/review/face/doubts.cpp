// Fluents that exclude one another, and what is odd about a position: two contents of one square,
// nobody in turn.
#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <set>

#include "explore/sampling/sampled_games.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "orchard/random.hpp"
#include "orchard/review.hpp"
#include "prove/exclusive_groups.hpp"
#include "prove/induction.hpp"

namespace orchard {
namespace {

using circuit::Signal;

// A group of fluents of which the position has more or fewer than usual.
struct Odd {
  Signal signal;  // holds where that is so
  std::set<std::string> held;
  std::string name;
  std::string example;  // one of the group
};

// What no position that can be reached is suspected to show, group by group.
std::vector<Signal> suspects_of(const std::vector<prove::FluentGroup>& groups) {
  std::vector<Signal> suspects;
  for (const prove::FluentGroup& group : groups) {
    suspects.push_back(group.several);
    if (group.one_at_start) suspects.push_back(group.none);
  }
  return suspects;
}

// By signal, whether random games from the start show it.
std::vector<bool> usual_signals(const LaneGame& lanes, const circuit::Network& network,
                                const std::vector<Signal>& signals) {
  constexpr std::size_t most_plies = 100;
  explore::Watch watch(lanes, network, signals);
  std::vector<bool> usual(signals.size(), false);
  explore::SampledGames games(lanes);
  Random random(1);
  games.play(circuit::lanes, lanes.row(lanes.ground().initial()), random, most_plies,
             [&](std::span<const std::uint64_t> rows,
                 std::span<const explore::SampledGames::Place> places, const LaneEvaluator&) {
               watch.look(rows, places.size());
               for (std::size_t s = 0; s < signals.size(); ++s) {
                 usual[s] = usual[s] || watch.count(s) > 0;
               }
             });
  return usual;
}

// Leaves out what random games from the start show.
void forget_usual(const LaneGame& lanes, const circuit::Network& network, std::vector<Odd>& odd) {
  std::vector<Signal> signals;
  for (const Odd& one : odd) signals.push_back(one.signal);
  const std::vector<bool> usual = usual_signals(lanes, network, signals);
  std::vector<Odd> kept;
  for (std::size_t s = 0; s < odd.size(); ++s) {
    if (!usual[s]) kept.push_back(std::move(odd[s]));
  }
  odd = std::move(kept);
}

Diagnostic doubt(const Odd& odd) {
  std::string held;
  for (const std::string& fluent : odd.held) {
    held += (held.empty() ? "" : " and ") + fluent;
  }
  Diagnostic result = plain_error(
      "odd-position",
      odd.held.empty()
          ? fmt::format("nothing like {} holds, as it does in every position that can be reached",
                        odd.example)
          : fmt::format("{} hold at once, and never do in a position that can be reached", held),
      "compare it with a position that play leads to: `orchard show GAME --after 4`");
  result.severity = Severity::suspicious;
  return result;
}

}  // namespace

Diagnostics doubts_about(const Game& game, const Position& position) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  const auto bits =
      lanes == nullptr ? std::nullopt : lanes->bits(GameAccess::state(position).fluents());
  if (!bits || position == game.initial()) return {};
  const ground::GroundProgram& ground = lanes->ground();
  circuit::Network network = lanes->network().network;
  std::vector<Odd> odd;
  const auto groups = prove::suggested_groups(ground, lanes->network(), network);
  for (const prove::FluentGroup& group : groups) {
    std::set<std::string> held;
    for (const std::uint32_t f : group.fluents) {
      if ((*bits)[f]) held.insert(ground.terms().text(ground.fluents()[f].term));
    }
    if (held.size() > 1) odd.push_back({group.several, held, group.name, {}});
    if (held.empty() && group.one_at_start) {
      const ground::TermId first = ground.fluents()[group.fluents.front()].term;
      odd.push_back({group.none, {}, group.name, ground.terms().text(first)});
    }
  }
  if (!odd.empty()) forget_usual(*lanes, network, odd);
  if (odd.empty()) return {};
  // The fewer fluents tell it, the better.
  std::ranges::stable_sort(odd, {}, [](const Odd& one) { return one.held.size(); });
  Budget patience;
  patience.seconds = 1;
  const Interruption interruption(patience);
  prove::Induction induction(lanes->network(), network, ground.initial());
  induction.suspect(suspects_of(groups));
  Diagnostics result;
  std::vector<std::set<std::string>> told;
  std::set<std::string> missing;
  for (const Odd& one : odd) {
    const bool known = one.held.empty() ? missing.contains(one.name)
                                        : std::ranges::any_of(told, [&](const auto& other) {
                                            return std::ranges::includes(one.held, other);
                                          });
    if (known || !induction.never(one.signal)) continue;
    if (one.held.empty()) {
      missing.insert(one.name);
    } else {
      told.push_back(one.held);
    }
    result.add(doubt(one));
  }
  return result;
}

std::vector<std::vector<Term>> exclusive_fluents(const Game& game, const Position& start) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  const auto bits =
      lanes == nullptr ? std::nullopt : lanes->bits(GameAccess::state(start).fluents());
  if (!bits) return {};
  const ground::GroundProgram& ground = lanes->ground();
  circuit::Network network = lanes->network().network;
  const auto groups = prove::suggested_groups(ground, lanes->network(), network);
  const std::vector<Signal> signals = suspects_of(groups);
  const std::vector<bool> usual = usual_signals(*lanes, network, signals);
  std::vector<Signal> suspects;
  for (std::size_t s = 0; s < signals.size(); ++s) {
    if (!usual[s]) suspects.push_back(signals[s]);
  }
  Budget patience;
  patience.seconds = 1;
  const Interruption interruption(patience);
  prove::Induction induction(lanes->network(), network, ground.initial());
  induction.suspect(suspects);
  std::erase_if(suspects, [&](Signal signal) { return !induction.never(signal); });
  // The proof is about what follows the start of the game; it serves for any other position in
  // which nothing of what was proved is broken.
  explore::Watch watch(*lanes, network, suspects);
  watch.look(lanes->row(*bits), 1);
  std::vector<std::vector<Term>> result;
  for (std::size_t s = 0; s < suspects.size(); ++s) {
    if (watch.count(s) > 0) return {};
  }
  for (const prove::FluentGroup& group : groups) {
    if (std::ranges::find(suspects, group.several) == suspects.end()) continue;
    std::vector<Term>& fluents = result.emplace_back();
    for (const std::uint32_t f : group.fluents) {
      fluents.push_back(ground.terms().term(ground.fluents()[f].term));
    }
  }
  return result;
}

}  // namespace orchard
