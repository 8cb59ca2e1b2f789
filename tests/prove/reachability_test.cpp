// Whether a signal ever shows, worked out backwards, against every position explored.
#include "prove/reachability.hpp"

#include <gtest/gtest.h>

#include "explore/space/state_space.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "game/lane_game.hpp"
#include "orchard/random.hpp"
#include "prove/exclusive_groups.hpp"
#include "support/discs.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::prove::reachability_test {
namespace {

using explore::StateSpace;

// All positions of a small game, and which of some signals show in one of them.
struct Explored {
  Explored(const LaneGame& lanes, const circuit::Network& network,
           const std::vector<Signal>& signals)
      : shows(signals.size(), false), space(lanes) {
    Budget budget;
    budget.positions = 3000;
    complete =
        space.explore(lanes.row(lanes.ground().initial()), budget).value() == Ending::complete;
    explore::Watch watch(lanes, network, signals);
    space.each_block([&](StateSpace::Row rows, std::span<const StateSpace::Number> positions) {
      watch.look(rows, positions.size());
      for (std::size_t s = 0; s < signals.size(); ++s) {
        if (watch.count(s) > 0) shows[s] = true;
      }
    });
  }
  std::vector<bool> shows;
  StateSpace space;
  bool complete = false;
};

// Whether the line of play can be made, by the reference evaluator, and the signal shows at its
// end.
bool leads_there(const Game& game, const LaneGame& lanes, const circuit::Network& network,
                 const std::vector<Reachability::Joint>& line, Signal signal) {
  Position position = game.initial();
  for (const Reachability::Joint& numbers : line) {
    if (game.terminal(position)) return false;
    JointMove joint;
    for (std::size_t role = 0; role < numbers.size(); ++role) {
      const auto& moves = lanes.ground().moves()[role];
      const Move move = game.move(lanes.ground().terms().term(moves[numbers[role]].term));
      const auto legal = game.legal(position, game.roles()[role]);
      if (std::ranges::find(legal, move) == legal.end()) return false;
      joint.add(move);
    }
    const auto next = game.next(position, joint);
    if (!next) return false;
    position = *next;
  }
  explore::Watch watch(lanes, network, {signal});
  const auto row = lanes.row(lanes.bits(GameAccess::state(position).fluents()).value());
  watch.look(row, 1);
  return watch.count(0) == 1;
}

TEST(Reachability, SaysWhatEveryPositionSays) {
  std::size_t never = 0;
  std::size_t reached = 0;
  std::size_t unknown = 0;
  std::vector<Game> games;
  for (const char* name : {"espalier_3x3", "snails", "market_day", "beeline", "sprinklers"}) {
    games.push_back(Game::load(testing::game_path(name)).value());
  }
  for (std::uint64_t seed = 5000; seed < 5250; ++seed) {
    auto game = Game::from_text(testing::random_rules(seed));
    if (game && GameAccess::core(*game)->lanes() != nullptr) games.push_back(*game);
  }
  for (const Game& game : games) {
    SCOPED_TRACE(game.name());
    const LaneGame& lanes = *GameAccess::core(game)->lanes();
    circuit::Network network = lanes.network().network;
    std::vector<Signal> signals = suggested_pairs(lanes.ground(), lanes.network(), network);
    for (const FluentGroup& group : suggested_groups(lanes.ground(), lanes.network(), network)) {
      signals.push_back(group.several);
      signals.push_back(group.none);
    }
    for (const auto& legal : lanes.network().legal) {
      signals.insert(signals.end(), legal.begin(), legal.end());
    }
    signals.push_back(lanes.network().terminal);
    Random random(7);
    constexpr std::size_t most = 40;
    while (signals.size() > most) {
      std::swap(signals[random.below(signals.size())], signals.back());
      signals.pop_back();
    }
    const Explored explored(lanes, network, signals);
    if (!explored.complete) continue;
    Reachability reachability(lanes.network(), network, lanes.ground().initial());
    for (std::size_t s = 0; s < signals.size(); ++s) {
      switch (reachability.ask(signals[s])) {
        case Reachability::Answer::never:
          ++never;
          ASSERT_FALSE(explored.shows[s]) << s;
          break;
        case Reachability::Answer::reached:
          ++reached;
          ASSERT_TRUE(explored.shows[s]) << s;
          ASSERT_TRUE(leads_there(game, lanes, network, reachability.line(), signals[s])) << s;
          break;
        case Reachability::Answer::unknown:
          ++unknown;
          break;
      }
    }
  }
  EXPECT_GE(never, 1000u);
  EXPECT_GE(reached, 1000u);
  EXPECT_LE(unknown, (never + reached) / 100);
  std::printf("%zu never, %zu reached, %zu unknown\n", never, reached, unknown);
}

TEST(Reachability, FindsALineThatNoExplorationWouldReach) {
  const Game game = Game::from_text(testing::discs(6)).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const circuit::Network network = lanes.network().network;
  Reachability reachability(lanes.network(), network, lanes.ground().initial());
  ASSERT_EQ(reachability.ask(lanes.network().terminal), Reachability::Answer::reached);
  EXPECT_GE(reachability.line().size(), 54u);
  EXPECT_TRUE(leads_there(game, lanes, network, reachability.line(), lanes.network().terminal));
}

TEST(Reachability, WithoutWorkNothingIsKnown) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const circuit::Network network = lanes.network().network;
  ReachabilityLimits limits;
  limits.work = 0;
  Reachability reachability(lanes.network(), network, lanes.ground().initial(), limits);
  EXPECT_EQ(reachability.ask(lanes.network().terminal), Reachability::Answer::unknown);
}

}  // namespace
}  // namespace orchard::prove::reachability_test
