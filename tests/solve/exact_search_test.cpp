// Searching to the ends against working out every position: same values, same best moves.
#include "solve/exact_search.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "game/core.hpp"
#include "orchard/playouts.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::exact_search_test {
namespace {

using solve_inner::ExactSearch;
using ::testing::HasSubstr;

Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::game_path(name), options).value();
}

Solution searched(const Game& game, const Position& from, std::uint64_t positions = 5'000'000) {
  SolveOptions options;
  options.way = SolveOptions::Way::search;
  options.from = from;
  options.budget.positions = positions;
  return solve(game, options).value();
}

std::vector<std::string> texts(const std::vector<GoodMove>& moves) {
  std::vector<std::string> result;
  for (const GoodMove& good : moves) result.push_back(good.move.to_string());
  return result;
}

TEST(ExactSearch, SaysWhatEveryPositionSays) {
  const struct {
    const char* name;
    std::map<std::string, std::int64_t> sizes;
    std::uint64_t games;
  } games[] = {{"espalier_3x3", {}, 30},
               {"snails", {}, 30},
               {"silo", {{"heights", 3}, {"bins", 4}}, 10},
               {"graft", {{"rows", 3}, {"columns", 3}}, 10},
               {"sprinklers", {}, 10},
               {"beeline", {}, 10},
               {"channel", {{"rows", 3}, {"columns", 3}}, 5}};
  for (const auto& [name, sizes, count] : games) {
    SCOPED_TRACE(name);
    const Game game = load(name, sizes);
    SolveOptions all;
    all.way = SolveOptions::Way::all;
    const Solution known = solve(game, all).value();
    ASSERT_TRUE(known.complete()) << known.reason();
    for (std::uint64_t number = 0; number < count; ++number) {
      const std::vector<Position> positions = testing::positions_of(game, number, 5);
      const Position& position = positions[number * 7 % positions.size()];
      const Solution found = searched(game, position);
      ASSERT_TRUE(found.complete()) << found.reason();
      for (const Role& role : game.roles()) {
        EXPECT_NEAR(*found.value(position, role), *known.value(position, role), 1e-3);
        EXPECT_EQ(texts(found.best(position, role)), texts(known.best(position, role)));
      }
      // Along the line nothing is given away, to an end.
      const Line& line = found.line();
      EXPECT_TRUE(game.terminal(line.last()));
      for (const Position& on_line : line.positions) {
        EXPECT_NEAR(*known.value(on_line, game.roles()[0]), *known.value(position, game.roles()[0]),
                    1e-3);
      }
    }
  }
}

TEST(ExactSearch, AnswersWhereThereAreTooManyPositions) {
  // The history of the game is in the position: more than a hundred million of them.
  const Game game = load("scarecrow");
  SolveOptions options;
  options.budget.positions = 20'000;
  const Solution solution = solve(game, options).value();
  EXPECT_TRUE(solution.complete());
  EXPECT_TRUE(solution.searched());
  EXPECT_LT(solution.positions(), 100'000u);
  EXPECT_EQ(solution.value(game.initial(), game.roles()[0]), 50);
}

TEST(ExactSearch, SaysWhichGamesItCannotSearch) {
  const auto reason = [](const std::string& name) {
    SolveOptions options;
    options.way = SolveOptions::Way::search;
    return solve(load(name), options).diagnostics().render();
  };
  EXPECT_THAT(reason("cellar"), HasSubstr("cannot be searched: chance decides"));
  EXPECT_THAT(reason("pickers"), HasSubstr("more than two roles choose"));
  EXPECT_THAT(reason("market_day"), HasSubstr("roles choose at once"));
  const Game friends = Game::from_text(R"(
    (role ann) (role ben) (init (turn ann)) (init (at 0))
    (step 0 1) (step 1 2) (step 2 3) (way left) (way right)
    (<= (legal ?r ?w) (true (turn ?r)) (way ?w))
    (<= (legal ann wait) (true (turn ben))) (<= (legal ben wait) (true (turn ann)))
    (<= (next (turn ben)) (true (turn ann))) (<= (next (turn ann)) (true (turn ben)))
    (<= (next (at ?m)) (true (at ?n)) (step ?n ?m)) (<= (next (last ?w)) (does ?r ?w) (way ?w))
    (<= terminal (true (at 3)))
    (<= (goal ann 100) (true (last left))) (<= (goal ann 10) (true (last right)))
    (<= (goal ben 90) (true (last left))) (<= (goal ben 0) (true (last right))))")
                           .value();
  SolveOptions options;
  options.way = SolveOptions::Way::search;
  EXPECT_THAT(solve(friends, options).diagnostics().render(), HasSubstr("not opposed"));
  // Working every position out takes both as they are.
  EXPECT_NEAR(*solve(friends)->value(friends.initial(), friends.roles()[1]), 90, 1e-4);
}

TEST(ExactSearch, GivesUpOnEndlessPlay) {
  const Game circle = Game::from_text(R"(
    (role r) (init (at a)) (step a b) (step b a) (way up) (way down)
    (<= (legal r ?w) (way ?w)) (<= (next (at ?y)) (true (at ?x)) (step ?x ?y))
    (<= terminal (true (at c))) (goal r 0))")
                          .value();
  const Solution solution = searched(circle, circle.initial(), 100'000);
  EXPECT_FALSE(solution.complete());
  EXPECT_THAT(solution.reason(), HasSubstr("the search ended"));
}

// Somebody who never has a choice gets what the rules say, or nothing is said of it.
TEST(ExactSearch, InventsNoValueForWhoNeverChooses) {
  const std::string walk = R"(
    (role walker) (role wall) (init (at 0)) (after 0 1) (after 1 2) (after 2 3)
    (<= (legal walker ?way) (way ?way)) (way left) (way right) (legal wall watch)
    (<= (next (at ?m)) (true (at ?n)) (after ?n ?m))
    (<= (next (went ?way)) (does walker ?way))
    (<= terminal (true (at 3)))
    (<= (goal walker 30) (true (went right))) (<= (goal walker 0) (not (true (went right))))
  )";
  const auto values = [&](const std::string& goals) {
    const Game game = Game::from_text(walk + goals).value();
    const Solution solution = searched(game, game.initial());
    EXPECT_TRUE(solution.complete()) << solution.reason();
    return std::pair(solution.value(game.initial(), game.roles()[0]),
                     solution.value(game.initial(), game.roles()[1]));
  };
  EXPECT_EQ(values("(goal wall 0)"), std::pair(std::optional(30.0), std::optional(0.0)));
  EXPECT_EQ(values("(goal wall 70)").second, 70);
  EXPECT_EQ(values("(<= (goal wall 10) (true (went right)))"
                   "(<= (goal wall 90) (true (went left)))")
                .second,
            10);
  // The walker gets 30 by the last move, whatever the first ones were; the wall does not.
  EXPECT_EQ(values("(<= (next (begun ?way)) (true (at 0)) (does walker ?way))"
                   "(<= (next (begun ?way)) (true (begun ?way)))"
                   "(<= (goal wall 10) (true (begun left)))"
                   "(<= (goal wall 90) (true (begun right)))")
                .second,
            std::nullopt);
}

}  // namespace
}  // namespace orchard::exact_search_test
