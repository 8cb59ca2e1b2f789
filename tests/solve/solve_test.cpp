// Best play, judged by plain recursion over the game's own moves, which shares nothing with it.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <stop_token>
#include <unordered_map>
#include <utility>

#include "orchard/playouts.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::solve_test {
namespace {

using ::testing::HasSubstr;

Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::game_path(name), options).value();
}

// Values of a game in which one role at a time chooses, chance included.
class Recursion {
 public:
  explicit Recursion(const Game& game) : game_(game) {}

  std::vector<double> values(const Position& position) {
    if (const auto known = known_.find(position); known != known_.end()) return known->second;
    std::vector<double> result;
    if (game_.terminal(position)) {
      for (const Role& role : game_.roles()) {
        result.push_back(game_.goal(position, role).value_or(50));
      }
    } else {
      for (const Role& role : game_.roles()) {
        const auto legal = game_.legal(position, role);
        if (legal.size() < 2) continue;
        for (const Move& move : legal) {
          const auto next =
              values(game_.next(position, game_.joint_move(position, role, move).value()).value());
          if (role.is_chance()) {
            result.resize(next.size());
            for (std::size_t r = 0; r < next.size(); ++r) {
              result[r] += next[r] / static_cast<double>(legal.size());
            }
          } else if (result.empty() || next[role.index()] > result[role.index()] + 1e-9) {
            result = next;
          }
        }
      }
      if (result.empty()) {
        JointMove only;
        for (const Role& role : game_.roles()) only.add(game_.legal(position, role).front());
        result = values(game_.next(position, only).value());
      }
    }
    known_.emplace(position, result);
    return result;
  }

 private:
  const Game& game_;
  std::unordered_map<Position, std::vector<double>> known_;
};

void expect_same_values(const Game& game, std::uint64_t games) {
  const Solution solution = solve(game).value();
  ASSERT_TRUE(solution.complete()) << solution.reason();
  Recursion judge(game);
  for (std::uint64_t g = 0; g < games; ++g) {
    WalkOptions options;
    options.game = g;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      const auto wanted = judge.values(step.position);
      for (const Role& role : game.roles()) {
        if (role.is_chance()) continue;
        EXPECT_NEAR(*solution.value(step.position, role), wanted[role.index()], 1e-4);
        for (const GoodMove& good : solution.best(step.position, role)) {
          const auto joint = game.joint_move(step.position, role, good.move);
          if (!joint || game.legal(step.position, role).size() < 2) continue;
          const auto after = judge.values(game.next(step.position, *joint).value());
          EXPECT_NEAR(after[role.index()], wanted[role.index()], 1e-4) << good.move;
        }
      }
      return true;
    });
  }
}

TEST(Solve, TakingTurns) {
  expect_same_values(load("espalier_3x3"), 30);
  expect_same_values(load("silo", {{"heights", 3}, {"bins", 3}}), 30);
  expect_same_values(load("snails"), 30);
}

TEST(Solve, WithChance) {
  expect_same_values(load("barrow_lane", {{"rounds", 1}}), 20);
}

TEST(Solve, PuzzlesByTheirShortestSolution) {
  for (std::int64_t pattern = 1; pattern <= 3; ++pattern) {
    const Game game = load("sprinklers", {{"pattern", pattern}});
    const Solution solution = solve(game).value();
    EXPECT_EQ(solution.value(game.initial(), game.roles()[0]), 100);
    EXPECT_TRUE(game.terminal(solution.line().last()));
    // No shorter line reaches the goal: tried out breadth first.
    std::vector<Position> reached{game.initial()};
    std::size_t depth = 0;
    for (bool found = false; !found; ++depth) {
      std::vector<Position> next;
      for (const Position& position : reached) {
        for (const Move& move : game.legal(position, game.roles()[0])) {
          next.push_back(game.next(position, JointMove({move})).value());
          found = found ||
                  (game.terminal(next.back()) && game.goal(next.back(), game.roles()[0]) == 100);
        }
      }
      reached = std::move(next);
    }
    EXPECT_EQ(solution.line().joints.size(), depth);
  }
}

TEST(Solve, MixesWhereTwoChooseAtOnce) {
  const Game game = load("market_day", {{"days", 2}});
  const Solution solution = solve(game).value();
  ASSERT_TRUE(solution.complete());
  EXPECT_TRUE(solution.mixes());
  const Position& start = game.initial();
  const Role& hill = game.roles()[0];
  const Role& vale = game.roles()[1];
  EXPECT_NEAR(*solution.value(start, hill), 50, 1e-6);
  // No single price earns more than the value against the other's mixture, for either side.
  for (const Move& own : game.legal(start, hill)) {
    double earned = 0;
    double share = 0;
    for (const GoodMove& other : solution.best(start, vale)) {
      const Position next = game.next(start, JointMove({own, other.move})).value();
      earned += other.share * *solution.value(next, hill);
      share += other.share;
    }
    EXPECT_NEAR(share, 1, 1e-6);
    EXPECT_LE(earned, 50 + 1e-4) << own;
  }
}

TEST(Solve, CountsThePliesToTheEnd) {
  const Game game = load("snails");
  const Solution solution = solve(game).value();
  const Line& line = solution.line();
  // Along a line of best play every ply brings the end one nearer.
  for (std::size_t ply = 0; ply < line.positions.size(); ++ply) {
    EXPECT_EQ(solution.plies(line.positions[ply]), line.joints.size() - ply);
  }
  EXPECT_TRUE(game.terminal(line.last()));
  EXPECT_TRUE(solution.best(line.last(), game.roles()[0]).empty());
  const Position elsewhere =
      game.position({Term::parse("(sits amber 14)").value(), Term::parse("(sits grey 14)").value()})
          .value();
  EXPECT_FALSE(solution.plies(elsewhere));
  EXPECT_FALSE(solution.value(elsewhere, game.roles()[0]));
}

TEST(Solve, SaysWhatItCannotAnswer) {
  SolveOptions few;
  few.budget.positions = 1000;
  for (const auto& [way, reason] :
       {std::pair{SolveOptions::Way::all, "the budget ended (positions)"},
        std::pair{SolveOptions::Way::automatic, "the search ended (positions)"}}) {
    few.way = way;
    const Solution cut = solve(load("silo"), few).value();
    EXPECT_FALSE(cut.complete());
    EXPECT_THAT(cut.reason(), HasSubstr(reason));
    EXPECT_FALSE(cut.value(load("silo").initial(), load("silo").roles()[0]));
  }

  const Game circle = Game::from_text(R"(
    (role r) (init (at a)) (step a b) (step b a)
    (<= (legal r go) (true (at ?x))) (<= (next (at ?y)) (true (at ?x)) (step ?x ?y))
    (<= terminal (true (at c))) (goal r 0))")
                          .value();
  EXPECT_THAT(solve(circle)->reason(), HasSubstr("best play goes on for ever"));
}

// Where three choose at once: the mixture keeps what is promised whatever the others do, and no
// move by itself would promise more.
TEST(Solve, TellsWhatEachRoleCanMakeSureOf) {
  const Game game = load("pickers", {{"rows", 2}, {"columns", 2}, {"turns", 1}});
  const Solution solution = solve(game).value();
  ASSERT_TRUE(solution.complete());
  EXPECT_TRUE(solution.secures());
  const Position& start = game.initial();
  std::vector<std::vector<Move>> legal;
  for (const Role& role : game.roles()) legal.push_back(game.legal(start, role));
  for (const Role& role : game.roles()) {
    const double promised = solution.value(start, role).value();
    std::map<std::string, double> mix;
    for (const GoodMove& good : solution.best(start, role)) mix[good.move.to_string()] = good.share;
    std::map<std::string, double> gets;         // by the others' moves, as mixed
    std::map<std::string, double> least_alone;  // by own move
    for (const Move& a : legal[0]) {
      for (const Move& b : legal[1]) {
        for (const Move& c : legal[2]) {
          const std::vector<Move> joint{a, b, c};
          const Position next = game.next(start, JointMove(joint)).value();
          const double goal = game.goal(next, role).value();
          std::string others;
          for (std::size_t r = 0; r < 3; ++r) {
            if (r != role.index()) others += joint[r].to_string() + " ";
          }
          const std::string own = joint[role.index()].to_string();
          gets[others] += mix[own] * goal;
          const auto [least, fresh] = least_alone.try_emplace(own, goal);
          least->second = std::min(least->second, goal);
        }
      }
    }
    for (const auto& [others, goal] : gets) EXPECT_GE(goal, promised - 1e-4) << others;
    for (const auto& [own, goal] : least_alone) EXPECT_LE(goal, promised + 1e-4) << own;
  }
}

// Without a circuit of any kind: everything is asked of the evaluator.
Game without_circuit(const std::string& rules) {
  LoadOptions options;
  options.circuit_bytes = 0;
  return Game::from_text(rules, "rules", options).value();
}

TEST(Solve, GivesTheSameValuesWithoutACircuit) {
  std::size_t complete = 0;
  std::vector<std::string> all;
  for (const std::string& path : testing::corpus_games()) all.push_back(testing::read_file(path));
  for (std::uint64_t seed = 1; seed <= 40; ++seed) all.push_back(testing::random_rules(seed));
  for (const std::string& rules : all) {
    SCOPED_TRACE(rules);
    const auto game = Game::from_text(rules);
    if (!game) continue;
    SolveOptions options;
    options.way = SolveOptions::Way::all;
    options.budget.positions = 1500;
    const auto by_circuit = solve(*game, options);
    if (!by_circuit || by_circuit->ending() != Ending::complete) continue;
    const Game slow = without_circuit(rules);
    const auto by_evaluator = solve(slow, options);
    ASSERT_TRUE(by_evaluator.ok());
    EXPECT_EQ(by_evaluator->complete(), by_circuit->complete());
    EXPECT_EQ(by_evaluator->positions(), by_circuit->positions());
    EXPECT_EQ(by_evaluator->reason(), by_circuit->reason());
    for (const Role& role : game->roles()) {
      EXPECT_EQ(by_evaluator->value(slow.initial(), slow.roles()[role.index()]),
                by_circuit->value(game->initial(), role));
    }
    complete += by_circuit->complete() ? 1 : 0;
  }
  EXPECT_GT(complete, 15u);
  LoadOptions options;
  options.circuit_bytes = 0;
  expect_same_values(Game::load(testing::game_path("espalier_3x3"), options).value(), 3);
}

// Beads are put on a string without end. Two of a colour on top after ivy's move are what she
// wants.
const std::string string_without_end = R"(
    (role ivy) (role oak) (rival ivy oak) (rival oak ivy) (colour red) (colour blue)
    (init (turn ivy)) (init (string end))
    (<= (legal ?who (thread ?colour)) (true (turn ?who)) (colour ?colour))
    (<= (legal ?who wait) (role ?who) (not (true (turn ?who))))
    (<= (next (turn ?other)) (true (turn ?who)) (rival ?who ?other))
    (<= (next (string (bead ?colour ?rest))) (does ?who (thread ?colour)) (true (string ?rest)))
    (<= pair (true (turn oak)) (true (string (bead ?c (bead ?c ?rest)))))
    (<= terminal pair) (<= (goal ivy 100) pair) (<= (goal oak 0) pair)
    (<= (goal ?who 50) (role ?who) (not pair)))";

TEST(Solve, FindsWhatCanBeForcedInPlayWithoutEnd) {
  const Game game = Game::from_text(string_without_end).value();
  SolveOptions options;
  options.budget.positions = 200;
  const Solution solution = solve(game, options).value();
  ASSERT_TRUE(solution.complete()) << solution.reason();
  EXPECT_EQ(solution.ending(), Ending::positions);
  EXPECT_EQ(solution.value(game.initial(), game.roles()[0]), 100);
  EXPECT_EQ(solution.line().joints.size(), 3u);
  EXPECT_THAT(solution.remark(), HasSubstr("there are more"));
  const auto unkept = solution.keep("/tmp/never-written");
  EXPECT_THAT(unkept.render(), HasSubstr("no circuit"));
  options.way = SolveOptions::Way::search;
  EXPECT_THAT(solve(game, options).diagnostics().render(), HasSubstr("needs a circuit"));
  options.way = SolveOptions::Way::automatic;
  options.budget.checkpoint = Checkpoint{"/tmp/never-made"};
  EXPECT_THAT(solve(game, options).diagnostics().render(), HasSubstr("cannot be saved"));
}

// Oak can always break the pair, and ivy need not let oak win either.
TEST(Solve, TellsOfOddGoalsWithoutACircuit) {
  const Game odd = without_circuit(
      "(role ivy) (init (at 1)) (legal ivy go) (<= (next (at 2)) (does ivy go))"
      "(<= terminal (true (at 2))) (goal ivy 200)");
  const Solution solution = solve(odd).value();
  EXPECT_EQ(solution.value(odd.initial(), odd.roles()[0]), 100);
  EXPECT_EQ(solution.remark(),
            "ivy has a goal of 200: goals beyond 0 to 100 count as the nearest of these");
}

TEST(Solve, ProvesNothingOfPlayThatOnlyGoesOn) {
  std::string rules = string_without_end;
  const std::string_view of_ivy = "(true (turn oak)) (true (string (bead ?c (bead ?c ?rest))))";
  rules.replace(rules.find(of_ivy), of_ivy.size(),
                "(true (string (bead ?c (bead ?c (bead ?c ?rest)))))");
  const Game game = Game::from_text(rules).value();
  SolveOptions options;
  options.budget.positions = 500;
  const Solution solution = solve(game, options).value();
  EXPECT_FALSE(solution.complete());
  EXPECT_THAT(solution.reason(), HasSubstr("the budget ended (positions)"));
}

// One who plays alone may find better where nobody has looked, unless it cannot be better.
TEST(Solve, TrustsAPuzzleThatWasCutShortOnlyWithTheMostThereIs) {
  const auto puzzle = [](int goal) {
    return Game::from_text(
               "(role ivy) (init (at 0)) (init (string end)) (legal ivy add) (legal ivy stop)"
               "(<= (next (string (bead ?rest))) (does ivy add) (true (string ?rest)))"
               "(<= (next stopped) (does ivy stop)) (<= terminal (true stopped))"
               "(goal ivy " +
               std::to_string(goal) + ")")
        .value();
  };
  SolveOptions options;
  options.budget.positions = 50;
  const Game best = puzzle(100);
  EXPECT_EQ(solve(best, options)->value(best.initial(), best.roles()[0]), 100);
  const Game good = puzzle(80);
  EXPECT_FALSE(solve(good, options)->complete());
}

TEST(Solve, TellsOfGoalsThatTheLanguageDoesNotKnow) {
  const auto remark = [](const std::string& goal) {
    const Game game = Game::from_text(
                          "(role r) (init start) (way a) (way b) (<= (legal r ?w) (way ?w))"
                          "(<= (next (went ?w)) (does r ?w)) (<= terminal (true (went ?w)))"
                          "(<= (goal r " +
                          goal + ") (true (went a))) (<= (goal r 0) (not (true (went a))))")
                          .value();
    return solve(game).value().remark();
  };
  EXPECT_EQ(remark("100"), "");
  EXPECT_THAT(remark("110"), ::testing::HasSubstr("r has a goal of 110"));
  EXPECT_THAT(remark("plenty"), ::testing::HasSubstr("r has a goal of plenty"));
}

// The list of all choices agrees with what is asked of single positions, and ends where it is told.
TEST(Solve, ListsEveryChoice) {
  const Game game = load("snails");
  const Solution solution = solve(game).value();
  std::size_t count = 0;
  const auto look = [&](const Solution::Choice& choice) {
    ++count;
    EXPECT_GE(game.legal(choice.position, choice.role).size(), 2u);
    EXPECT_EQ(choice.value, solution.value(choice.position, choice.role));
    ASSERT_FALSE(choice.best.empty());
    EXPECT_EQ(choice.best.size(), solution.best(choice.position, choice.role).size());
  };
  EXPECT_EQ(solution.each_choice(game, look), Ending::complete);
  EXPECT_GT(count, 100u);
  EXPECT_LT(count, solution.positions());
  const std::size_t all = std::exchange(count, 0);
  Budget budget;
  budget.seconds = 0;
  EXPECT_EQ(solution.each_choice(game, look, budget), Ending::time);
  EXPECT_LT(count, all);
  // A visitor's own work may be what is cut short.
  std::stop_source stop;
  budget = {};
  budget.stop = stop.get_token();
  const auto stops = [&](const Solution::Choice&) { stop.request_stop(); };
  EXPECT_EQ(solution.each_choice(game, stops, budget), Ending::stopped);
}

}  // namespace
}  // namespace orchard::solve_test
