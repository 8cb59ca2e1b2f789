// What must come about and what can be forced, against plain definitions on the same graph.
#include <gtest/gtest.h>

#include <functional>
#include <numeric>

#include "game/core.hpp"
#include "solve/forcing.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::solving::forcing_test {
namespace {

using Number = StateSpace::Number;

struct Explored {
  Game game;
  std::unique_ptr<StateSpace> space;
};

std::vector<Explored> explored_games() {
  std::vector<Game> games;
  for (const char* name : {"snails", "market_day", "espalier_3x3"}) {
    games.push_back(Game::load(testing::game_path(name)).value());
  }
  for (std::uint64_t seed = 1; seed <= 80; ++seed) {
    auto game = Game::from_text(testing::random_rules(seed));
    if (game) games.push_back(*game);
  }
  std::vector<Explored> result;
  for (const Game& game : games) {
    const LaneGame* const lanes = GameAccess::core(game)->lanes();
    if (lanes == nullptr) continue;
    auto space = std::make_unique<StateSpace>(*lanes);
    Budget budget;
    budget.positions = 2000;
    const auto bits = lanes->bits(GameAccess::state(game.initial()).fluents());
    EXPECT_TRUE(space->explore(lanes->row(*bits), budget).ok());
    result.push_back({game, std::move(space)});
  }
  return result;
}

// Some condition that tells positions apart: a fluent's bit, or a step's number.
Condition condition(const StateSpace& space, std::size_t fluent, bool of_steps) {
  Condition result;
  for (Number p = 0; p < space.size(); ++p) {
    result.in_position.push_back((space.row(p)[0] >> fluent & 1) != 0);
  }
  if (!of_steps) return result;
  for (std::uint64_t s = 0; s < space.step_count(); ++s) {
    result.with_step.push_back(s * 2654435761u % 7 == fluent % 7);
  }
  return result;
}

// The least set that a rule adds to, by going round until nothing changes.
std::vector<bool> least(const StateSpace& space,
                        const std::function<bool(Number, const std::vector<bool>&)>& joins) {
  std::vector<bool> in(space.size(), false);
  for (bool changed = true; changed;) {
    changed = false;
    for (Number p = 0; p < space.size(); ++p) {
      if (!in[p] && joins(p, in)) in[p] = changed = true;
    }
  }
  return in;
}

bool is_open(const StateSpace& space, Number p) {
  return p < space.expanded() && space.kind(p) == StateSpace::Kind::open;
}

void expect_same(const Found& found, const std::vector<bool>& in, const std::string& what) {
  for (std::size_t p = 0; p < in.size(); ++p) {
    ASSERT_EQ(found[p] != 0, in[p]) << what << " at position " << p;
  }
}

std::vector<Number> any_order(const StateSpace& space) {
  std::vector<Number> order(space.expanded());
  std::iota(order.begin(), order.end(), 0);
  return order;
}

TEST(Forcing, WhatMustComeAboutIsTheLeastFixpoint) {
  std::size_t some = 0;
  for (const Explored& one : explored_games()) {
    const StateSpace& space = *one.space;
    for (std::size_t fluent = 0; fluent < 4; ++fluent) {
      for (const bool beyond : {false, true}) {
        const Condition goal = condition(space, fluent, fluent == 3);
        const Condition path = condition(space, fluent + 1, false);
        const auto expected = least(space, [&](Number p, const std::vector<bool>& in) {
          if (p >= space.expanded()) return beyond || goal.holds(p);
          if (!is_open(space, p)) return goal.holds(p);
          for (std::size_t s = 0; s < space.steps(p).size(); ++s) {
            const bool on_the_way = path.holds(space, p, s) && in[space.steps(p)[s]];
            if (!goal.holds(space, p, s) && !on_the_way) return false;
          }
          return true;
        });
        const Found found = must_reach(space, goal, &path, any_order(space), beyond);
        expect_same(found, expected, one.game.name());
        some += expected[0] ? 1 : 0;
      }
    }
  }
  EXPECT_GT(some, 5u);
}

TEST(Forcing, ACoalitionChoosesThenTheOthersDo) {
  std::size_t forced = 0;
  std::size_t refused = 0;
  for (const Explored& one : explored_games()) {
    const StateSpace& space = *one.space;
    for (std::size_t mask = 0; mask < (std::size_t{1} << space.roles()); ++mask) {
      Forcing forcing{std::vector<bool>(space.roles()), std::vector<bool>(space.roles(), false)};
      for (std::size_t role = 0; role < space.roles(); ++role) {
        forcing.coalition[role] = (mask >> role & 1) != 0;
      }
      const Condition goal = condition(space, mask % 3, mask == 1);
      const auto expected = least(space, [&](Number p, const std::vector<bool>& in) {
        if (!is_open(space, p)) return goal.holds(p);
        // Some choice of the coalition's moves such that no joint move with it misses the goal.
        std::map<std::vector<std::size_t>, bool> good;
        for (std::size_t s = 0; s < space.steps(p).size(); ++s) {
          std::vector<std::size_t> chosen;
          std::size_t left = s;
          for (std::size_t role = 0; role < space.roles(); ++role) {
            if (forcing.coalition[role]) chosen.push_back(left % space.choices(p, role));
            left /= space.choices(p, role);
          }
          bool& all = good.try_emplace(chosen, true).first->second;
          all = all && (goal.holds(space, p, s) || in[space.steps(p)[s]]);
        }
        return std::ranges::any_of(good, [](const auto& entry) { return entry.second; });
      });
      const Found found = can_force(space, goal, forcing, any_order(space), false);
      expect_same(found, expected, one.game.name());
      (expected[0] ? forced : refused) += 1;
    }
  }
  EXPECT_GT(forced, 10u);
  EXPECT_GT(refused, 10u);
}

// With fair chance a gardener who may try for ever meets what chance gives now and then, but cannot
// force what chance may never give in one try.
TEST(Forcing, FairChanceGivesItSometime) {
  const Game game = Game::from_text(R"(
    (role random) (role gardener)
    (init (state wait))
    (<= (legal random rain) (true (state wait))) (<= (legal random sun) (true (state wait)))
    (<= (legal random idle) (not (true (state wait))))
    (<= (legal gardener look) (true (state wait))) (<= (legal gardener leave) (true (state wait)))
    (<= (legal gardener idle) (not (true (state wait))))
    (<= (next (state wait)) (true (state wait)) (does random sun) (does gardener look))
    (<= (next (state wet)) (does random rain) (does gardener look))
    (<= (next (state gone)) (does gardener leave))
    (<= (next (state wet)) (true (state wet))) (<= (next (state gone)) (true (state gone)))
    (<= terminal (not (true (state wait))))
    (<= (goal gardener 100) (true (state wet))) (<= (goal gardener 0) (true (state gone)))
  )")
                        .value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  StateSpace space(lanes);
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  ASSERT_TRUE(space.explore(start, {}).ok());
  Condition wet;
  for (Number p = 0; p < space.size(); ++p) {
    wet.in_position.push_back(space.kind(p) == StateSpace::Kind::terminal &&
                              space.outcomes()[space.outcome(p)][1] ==
                                  std::vector<std::uint32_t>{1});
  }
  Forcing forcing{{false, true}, {false, false}};
  EXPECT_EQ(can_force(space, wet, forcing, any_order(space), false)[0], 0u);
  forcing.fair = {true, false};
  EXPECT_NE(can_force(space, wet, forcing, any_order(space), false)[0], 0u);
}

}  // namespace
}  // namespace orchard::solving::forcing_test
