// Small games, what may be suspected of them, and what of that is proved.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "explore/sampling/sampled_games.hpp"
#include "explore/space/state_space.hpp"
#include "game/core.hpp"
#include "prove/counts.hpp"
#include "prove/ending.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::prove {

using explore::StateSpace;

// A game, what may be suspected of it, and what of that is proved.
struct Proved {
  explicit Proved(const Game& game)
      : lanes(*GameAccess::core(game)->lanes()),
        network(lanes.network().network),
        start(lanes.row(lanes.ground().initial())) {
    groups = suggested_groups(lanes.ground(), lanes.network(), network);
    suspects = suggested_pairs(lanes.ground(), lanes.network(), network);
    for (const FluentGroup& group : groups) {
      suspects.push_back(group.several);
      suspects.push_back(group.none);
    }
    CountCollector collector(lanes.ground());
    sample([&](std::span<const std::uint64_t> rows,
               std::span<const explore::SampledGames::Place> places,
               const LaneEvaluator&) { collector.look(rows, places.size()); });
    sums = collector.sums(lanes.network(), network);
    for (const SumSuspect& sum : sums) {
      counts.insert(counts.end(), sum.over.begin(), sum.over.end());
      counts.insert(counts.end(), sum.under.begin(), sum.under.end());
    }
    suspects.insert(suspects.end(), counts.begin(), counts.end());
    induction = std::make_unique<Induction>(lanes.network(), network, lanes.ground().initial());
    induction->suspect(suspects);
  }

  void sample(const explore::SampledGames::Visit& visit) const {
    explore::SampledGames samples(lanes);
    Random random(1);
    samples.play(circuit::lanes, start, random, 100, visit);
  }

  std::optional<EndingProof> ending() {
    std::vector<FluentGroup> exclusive;
    for (const FluentGroup& group : groups) {
      if (induction->never(group.several)) exclusive.push_back(group);
    }
    return prove_ending(*induction, lanes.ground(), lanes.network(), exclusive, steps());
  }

  std::vector<SampledStep> steps() const {
    StepCollector collector(lanes.ground().fluents().size());
    sample([&](std::span<const std::uint64_t> rows,
               std::span<const explore::SampledGames::Place> places,
               const LaneEvaluator&) { collector.look(rows, places); });
    return collector.steps();
  }

  const LaneGame& lanes;
  circuit::Network network;
  std::vector<std::uint64_t> start;
  std::vector<FluentGroup> groups;
  std::vector<Signal> suspects;
  std::vector<SumSuspect> sums;
  std::vector<Signal> counts;  // of the suspects, those that count
  std::unique_ptr<Induction> induction;
};

// The plies of the longest line; none if play can go round.
inline std::optional<std::size_t> longest_line(const StateSpace& space) {
  std::vector<std::size_t> length(space.size(), 0);
  for (std::size_t round = 0; round <= space.size(); ++round) {
    bool changed = false;
    for (StateSpace::Number p = space.size(); p-- > 0;) {
      for (const StateSpace::Number next : space.steps(p)) {
        if (length[p] > length[next]) continue;
        length[p] = length[next] + 1;
        changed = true;
      }
    }
    if (!changed) return length[0];
  }
  return std::nullopt;
}

inline std::vector<Game> small_games() {
  std::vector<Game> games;
  for (const char* name : {"espalier_3x3", "snails", "market_day", "beeline", "sprinklers"}) {
    games.push_back(Game::load(testing::game_path(name)).value());
  }
  LoadOptions load;
  load.sizes = {{"heights", 3}, {"bins", 3}};
  games.push_back(Game::load(testing::game_path("silo"), load).value());
  for (std::uint64_t seed = 1; seed <= 120; ++seed) {
    auto game = Game::from_text(testing::random_rules(seed));
    if (game && GameAccess::core(*game)->lanes() != nullptr) games.push_back(*game);
  }
  return games;
}

}  // namespace orchard::prove
