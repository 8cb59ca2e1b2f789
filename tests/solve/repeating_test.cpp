// Values where positions come again, against bounds raised and lowered step by step on the same
// graph.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>

#include "orchard/random.hpp"
#include "orchard/solve.hpp"

namespace orchard::repeating_test {
namespace {

using ::testing::HasSubstr;

// Two take turns in carrying a basket from stile to stile; some stiles are gates, where the game
// ends.
struct Paths {
  struct Stile {
    std::vector<std::size_t> ways;
    std::optional<int> goal;  // of ann; ben gets the rest
  };
  std::vector<Stile> stiles;

  Game game() const {
    std::string text = R"(
      (role ann) (role ben) (init (at s0)) (init (turn ann))
      (other ann ben) (other ben ann)
      (<= (legal ?r (carry ?b)) (true (turn ?r)) (true (at ?a)) (way ?a ?b))
      (<= (legal ?r rest) (role ?r) (not (true (turn ?r))))
      (<= (next (at ?b)) (does ?r (carry ?b)))
      (<= (next (turn ?s)) (true (turn ?r)) (other ?r ?s))
      (<= terminal (true (at ?a)) (gate ?a ?n ?m))
      (<= (goal ann ?n) (true (at ?a)) (gate ?a ?n ?m))
      (<= (goal ben ?m) (true (at ?a)) (gate ?a ?n ?m))
      (gate nowhere 0 0)
    )";
    for (std::size_t s = 0; s < stiles.size(); ++s) {
      const std::string name = "s" + std::to_string(s);
      for (const std::size_t to : stiles[s].ways) {
        text += "(way " + name + " s" + std::to_string(to) + ")";
      }
      if (const auto goal = stiles[s].goal) {
        text += "(gate " + name + " " + std::to_string(*goal) + " " + std::to_string(100 - *goal) +
                ")\n";
      }
    }
    return Game::from_text(text).value();
  }
};

Paths random_paths(std::uint64_t seed) {
  Random random(seed);
  Paths paths;
  paths.stiles.resize(6 + random.below(10));
  for (auto& stile : paths.stiles) {
    if (&stile != &paths.stiles.front() && random.below(4) == 0) {
      stile.goal = static_cast<int>(random.below(3)) * 50;
    }
    const std::size_t ways = 1 + random.below(3);
    for (std::size_t i = 0; i < ways; ++i) {
      const std::size_t to = random.below(paths.stiles.size());
      if (std::ranges::find(stile.ways, to) == stile.ways.end()) stile.ways.push_back(to);
    }
  }
  return paths;
}

// What a role can force in finitely many moves: what it can have at once, then after one move, and
// so on; -1 where nothing yet.
std::map<std::pair<std::size_t, bool>, int> forced(const Paths& paths, bool ann_forces) {
  std::map<std::pair<std::size_t, bool>, int> value;  // by stile and whether it is ann's turn
  for (std::size_t s = 0; s < paths.stiles.size(); ++s) {
    for (const bool turn : {true, false}) {
      const auto goal = paths.stiles[s].goal;
      value[{s, turn}] = !goal ? -1 : ann_forces ? *goal : 100 - *goal;
    }
  }
  for (bool changed = true; changed;) {
    changed = false;
    for (auto& [at, worth] : value) {
      const Paths::Stile& stile = paths.stiles[at.first];
      if (stile.goal) continue;
      int best = at.second == ann_forces ? -1 : 1000;
      for (const std::size_t to : stile.ways) {
        const int there = value.at({to, !at.second});
        best = at.second == ann_forces ? std::max(best, there) : std::min(best, there);
      }
      if (best > worth) {
        worth = best;
        changed = true;
      }
    }
  }
  return value;
}

// The best goal that a role gets at any gate that can be come to.
int best_gate(const Paths& paths, bool of_ann) {
  std::set<std::pair<std::size_t, bool>> seen{{0, true}};
  std::vector<std::pair<std::size_t, bool>> open{{0, true}};
  int best = -1;
  while (!open.empty()) {
    const auto [stile, turn] = open.back();
    open.pop_back();
    if (const auto goal = paths.stiles[stile].goal) {
      best = std::max(best, of_ann ? *goal : 100 - *goal);
      continue;
    }
    for (const std::size_t to : paths.stiles[stile].ways) {
      if (seen.insert({to, !turn}).second) open.emplace_back(to, !turn);
    }
  }
  return best;
}

TEST(Repeating, ValuesAreWhatCanBeForced) {
  std::size_t known = 0;
  std::size_t alone = 0;  // one forces it, and the other one may be led round for ever
  std::size_t endless = 0;
  for (std::uint64_t seed = 1; seed <= 150; ++seed) {
    SCOPED_TRACE(seed);
    const Paths paths = random_paths(seed);
    const Game game = paths.game();
    SolveOptions options;
    options.way = SolveOptions::Way::all;
    const Solution solution = solve(game, options).value();
    const auto of_ann = forced(paths, true);
    const auto of_ben = forced(paths, false);
    const int least = of_ann.at({0, true});
    const int most = of_ben.at({0, true});
    const auto value = solution.value(game.initial(), game.roles()[0]);
    const auto is_best = [&](int worth, bool for_ann) {
      return worth >= 50 && worth == best_gate(paths, for_ann);
    };
    std::optional<int> wanted;
    if (least >= 0 && most >= 0 && least + most == 100) wanted = least;
    if (is_best(least, true)) wanted = least;
    if (is_best(most, false)) wanted = 100 - most;
    if (wanted) {
      ++known;
      alone += least < 0 || most < 0 ? 1 : 0;
      ASSERT_TRUE(solution.complete());
      EXPECT_EQ(*value, *wanted);
      EXPECT_EQ(*solution.value(game.initial(), game.roles()[1]), 100 - *wanted);
      // The line comes to an end that is worth that.
      const Position& last = solution.line().last();
      EXPECT_TRUE(game.terminal(last));
      EXPECT_EQ(game.goal(last, game.roles()[0]), *wanted);
      EXPECT_LE(solution.line().joints.size(), *solution.plies(game.initial()));
    } else {
      ++endless;
      EXPECT_FALSE(solution.complete());
      EXPECT_FALSE(value);
      EXPECT_THAT(solution.reason(), HasSubstr("goes on for ever"));
    }
  }
  EXPECT_GT(known, 40u);
  EXPECT_GT(alone, 5u);
  EXPECT_GT(endless, 20u);
}

// Following the best moves comes to the end, whatever the loser does.
TEST(Repeating, BestMovesComeNearer) {
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    SCOPED_TRACE(seed);
    const Game game = random_paths(seed).game();
    const Solution solution = solve(game).value();
    const auto value =
        solution.complete() ? solution.value(game.initial(), game.roles()[0]) : std::nullopt;
    if (!value || *value == 50) continue;
    const Role& winner = game.roles()[*value > 50 ? 0 : 1];
    Random random(seed);
    for (int game_number = 0; game_number < 5; ++game_number) {
      Position position = game.initial();
      int plies = 0;
      for (; plies < 200 && !game.terminal(position); ++plies) {
        const Role role = game.to_move(position).front();
        const auto best = solution.best(position, role);
        const auto legal = game.legal(position, role);
        const Move move = role == winner ? best[random.below(best.size())].move
                                         : legal[random.below(legal.size())];
        position = game.next(position, game.joint_move(position, role, move).value()).value();
      }
      EXPECT_LT(plies, 200);
      EXPECT_GE(game.goal(position, winner).value_or(0), std::max(*value, 100 - *value));
    }
  }
}

TEST(Repeating, SaysWhyNotWhereChanceDecides) {
  const Game game = Game::from_text(R"(
    (role r) (role random) (init (at a)) (way a b) (way a c) (way b a) (way c a) (way c d)
    (<= (legal random (go ?y)) (true (at ?x)) (way ?x ?y)) (legal r watch)
    (<= (next (at ?y)) (does random (go ?y))) (<= terminal (true (at d))) (goal r 100))")
                        .value();
  SolveOptions options;
  options.way = SolveOptions::Way::all;
  EXPECT_THAT(solve(game, options)->reason(), HasSubstr("chance decides in them"));
}

}  // namespace
}  // namespace orchard::repeating_test
