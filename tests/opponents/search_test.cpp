// Look-ahead against plain recursion, and tree search where the right move is known.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <numeric>

#include "opponents/features.hpp"
#include "opponents/look_ahead.hpp"
#include "opponents/tree_search.hpp"
#include "orchard/line.hpp"
#include "orchard/playouts.hpp"
#include "orchard/solve.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::opponents::search_test {
namespace {

using ::testing::IsEmpty;

Game load(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(orchard::testing::game_path(name), options).value();
}

// The same by the words of the header, on the game's own moves: for each own move, averaged over
// chance, the worst of what the others can do; leaves are worth a half.
class Words {
 public:
  Words(const Game& game, const Role& role) : game_(game), role_(role) {}

  double of_move(const Position& position, const Move& own, int plies) const {
    double sum = 0;
    double chances = 0;
    const auto chance = game_.role("random");
    const std::vector<Move> chance_moves =
        chance && *chance != role_ ? game_.legal(position, *chance) : std::vector<Move>{own};
    for (const Move& drawn : chance_moves) {
      double worst = 2;
      each_joint(position, own, chance && *chance != role_ ? std::optional(drawn) : std::nullopt,
                 [&](const JointMove& joint) {
                   worst = std::min(worst, value(game_.next(position, joint).value(), plies));
                 });
      sum += worst;
      chances += 1;
    }
    return sum / chances;
  }

 private:
  double value(const Position& position, int plies) const {
    if (game_.terminal(position)) {
      const double share = game_.goal(position, role_).value_or(50) / 100.0;
      return share + (share > 0.5 ? 1e-4 : -1e-4) * plies;
    }
    if (plies == 1) return 0.5;
    double best = -1;
    for (const Move& own : game_.legal(position, role_)) {
      best = std::max(best, of_move(position, own, plies - 1));
    }
    return best;
  }

  template <class Visit>
  void each_joint(const Position& position, const Move& own, const std::optional<Move>& drawn,
                  Visit&& visit) const {
    std::vector<std::vector<Move>> legal;
    for (const Role& role : game_.roles()) {
      if (role == role_) {
        legal.push_back({own});
      } else if (role.is_chance() && drawn) {
        legal.push_back({*drawn});
      } else {
        legal.push_back(game_.legal(position, role));
      }
    }
    std::vector<std::size_t> choice(legal.size(), 0);
    for (std::size_t role = 0; role < legal.size();) {
      JointMove joint;
      for (std::size_t r = 0; r < legal.size(); ++r) joint.add(legal[r][choice[r]]);
      visit(joint);
      for (role = 0; role < legal.size() && ++choice[role] == legal[role].size(); ++role) {
        choice[role] = 0;
      }
    }
  }

  const Game& game_;
  const Role role_;
};

TEST(LookAhead, DoesWhatTheWordsSay) {
  const struct {
    const char* game;
    int plies;
  } games[] = {{"espalier_3x3", 3}, {"silo", 2},   {"snails", 3},      {"scarecrow", 3},
               {"market_day", 2},   {"graft", 1},  {"barrow_lane", 2}, {"pickers", 1},
               {"sprinklers", 2},   {"beeline", 3}};
  for (const auto& [name, plies] : games) {
    SCOPED_TRACE(name);
    const Game game = load(name);
    const auto tree = GameTree::make(game);
    WalkOptions options;
    options.seed = 8;
    options.plies = 14;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      if (step.ply % 5 != 4 || game.terminal(step.position)) return true;
      for (const Role& role : game.roles()) {
        const std::vector<Move> legal = game.legal(step.position, role);
        if (role.is_chance() || legal.size() < 2) continue;
        LookAhead look(*tree, role.index(), [](std::span<const Row> rows, std::span<const Node>) {
          return std::vector<float>(rows.size(), 0.5F);
        });
        const Row row = tree->row_of(step.position).value();
        const Node node = tree->node(row);
        const auto values = look.values(row, plies, 1'000'000);
        const Words words(game, role);
        double best = -1;
        double best_of_values = -1;
        for (const Move& move : legal) {
          const auto number = tree->move_number(role.index(), move).value();
          const auto at = std::ranges::find(node.legal[role.index()], number) -
                          node.legal[role.index()].begin();
          const double wanted = words.of_move(step.position, move, plies);
          const double got = values[static_cast<std::size_t>(at)];
          best = std::max(best, wanted);
          best_of_values = std::max(best_of_values, got);
          // A cut gives a bound for moves that are not the best: never more than is true of the
          // best.
          EXPECT_GE(got, wanted - 1e-5) << move;
        }
        EXPECT_NEAR(best_of_values, best, 1e-5);
      }
      return true;
    });
  }
}

TEST(LookAhead, GivesUpWhereThereIsTooMuch) {
  const Game game = load("graft");
  const auto tree = GameTree::make(game);
  LookAhead look(*tree, 0, [](std::span<const Row> rows, std::span<const Node>) {
    return std::vector<float>(rows.size(), 0.5F);
  });
  EXPECT_THAT(look.values(*tree->row_of(game.initial()), 3, 100), IsEmpty());
}

TEST(TreeSearch, FindsTheMoveThatHoldsOrWins) {
  const Game game = load("espalier_3x3");
  const auto tree = GameTree::make(game);
  const Position position =
      play_line(game, game.initial(), "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1)")
          .value()
          .last();
  TreeSearch search(tree->lanes());
  Random random(4);
  SearchLimit limit;
  limit.playouts = 3000;
  const auto judged = search.run(*tree->row_of(position), 1, limit, random);
  const Node node = tree->node(*tree->row_of(position));
  const auto most = std::ranges::max_element(judged, {}, &TreeSearch::Judged::visits);
  const auto number = node.legal[1][static_cast<std::size_t>(most - judged.begin())];
  EXPECT_EQ(number, tree->move_number(1, game.move(Term::parse("(tie 2 2)").value())));
  std::uint64_t visits = 0;
  for (const auto& arm : judged) {
    visits += arm.visits;
    EXPECT_GE(arm.mean, 0);
    EXPECT_LE(arm.mean, 1);
  }
  EXPECT_LE(visits, 3000u);  // fewer once all is proven
}

// What a search calls proven is what solving says.
TEST(TreeSearch, ProvenValuesAreTheSolvedOnes) {
  std::size_t proven = 0;
  for (const char* name : {"espalier_3x3", "snails", "sprinklers"}) {
    const Game game = load(name);
    const Solution solution = solve(game).value();
    const auto tree = GameTree::make(game);
    for (std::uint64_t number = 0; number < 25; ++number) {
      const auto positions = orchard::testing::positions_of(game, number, 1);
      const Position& position = positions[number % positions.size()];
      if (game.terminal(position)) continue;
      const Role role = game.to_move(position).front();
      TreeSearch search(tree->lanes());
      Random random(number + 1);
      SearchLimit limit;
      limit.playouts = 3000;
      const auto judged = search.run(*tree->row_of(position), role.index(), limit, random);
      const auto legal = game.legal(position, role);
      ASSERT_EQ(judged.size(), legal.size());
      for (std::size_t i = 0; i < legal.size(); ++i) {
        if (!judged[i].proven) continue;
        ++proven;
        const auto joint = game.joint_move(position, role, legal[i]).value();
        const auto value = solution.value(game.next(position, joint).value(), role);
        EXPECT_NEAR(100 * judged[i].mean, *value, 1e-3) << name << " " << number;
      }
    }
  }
  EXPECT_GE(proven, 60u);
}

TEST(TreeSearch, GoesOnWithTheTreeOfTheLastMove) {
  const Game game = load("silo");
  const auto tree = GameTree::make(game);
  TreeSearch search(tree->lanes());
  Random random(3);
  SearchLimit limit;
  limit.playouts = 2000;
  (void)search.run(*tree->row_of(game.initial()), 0, limit, random);
  const Position later = play_line(game, game.initial(), "(load 3) (load 3)").value().last();
  limit.playouts = 100;
  const auto visits = [&](const Position& from) {
    std::uint64_t sum = 0;
    for (const auto& arm : search.run(*tree->row_of(from), 0, limit, random)) sum += arm.visits;
    return sum;
  };
  EXPECT_GT(visits(later), 120u);
  // A position that is not in the tree begins anew.
  EXPECT_EQ(visits(game.initial()), 100u);
}

TEST(TreeSearch, SolvesAPuzzle) {
  const Game game = load("sprinklers");
  const auto tree = GameTree::make(game);
  TreeSearch search(tree->lanes());
  Random random(2);
  SearchLimit limit;
  limit.playouts = 20'000;
  const auto judged = search.run(*tree->row_of(game.initial()), 0, limit, random);
  const auto best = std::ranges::max_element(judged, {}, &TreeSearch::Judged::mean);
  EXPECT_TRUE(best->proven);
  EXPECT_EQ(best->mean, 1);
}

// What the best answer to a mixture gains over the value of the game, in shares: 0 at best play.
double exploitability(const Game& game, const Solution& solution, const Position& position,
                      const Role& role, const std::vector<double>& mix) {
  const Role& other = game.roles()[1 - role.index()];
  const std::vector<Move> own = game.legal(position, role);
  double most = 0;
  for (const Move& answer : game.legal(position, other)) {
    double gets = 0;
    for (std::size_t i = 0; i < own.size(); ++i) {
      std::vector<Move> moves(2, answer);
      moves[role.index()] = own[i];
      gets += mix[i] * *solution.value(game.next(position, JointMove(moves)).value(), other) / 100;
    }
    most = std::max(most, gets);
  }
  return most - *solution.value(position, other) / 100;
}

TEST(TreeSearch, MixesAsBestPlayDoesWhereTwoChooseAtOnce) {
  for (const int days : {1, 2}) {
    const Game game = load("market_day", {{"days", days}});
    const Solution solution = solve(game).value();
    const auto tree = GameTree::make(game);
    for (const Role& role : game.roles()) {
      TreeSearch search(tree->lanes());
      Random random(6 + role.index());
      SearchLimit limit;
      limit.playouts = 60'000;
      const auto row = *tree->row_of(game.initial());
      const auto judged = search.run(row, role.index(), limit, random);
      ASSERT_TRUE(search.mixes());
      const std::vector<Move> legal = game.legal(game.initial(), role);
      std::vector<double> mix(legal.size());
      double all = 0;
      const Node node = tree->node(row);
      for (std::size_t i = 0; i < legal.size(); ++i) {
        const auto number = tree->move_number(role.index(), legal[i]).value();
        const auto at = std::ranges::find(node.legal[role.index()], number);
        mix[i] = judged[static_cast<std::size_t>(at - node.legal[role.index()].begin())].mix;
        all += mix[i];
      }
      EXPECT_NEAR(all, 1, 1e-9);
      EXPECT_LT(exploitability(game, solution, game.initial(), role, mix), 0.03) << days;
    }
  }
}

TEST(TreeSearch, SeveralThreadsProveTheSameValues) {
  const Game game = load("espalier_3x3");
  const auto tree = GameTree::make(game);
  const auto row = *tree->row_of(game.initial());
  TreeSearch search(tree->lanes());
  Random random(1);
  SearchLimit limit;
  limit.playouts = 1'000'000;
  limit.threads = 3;
  const auto judged = search.run(row, 0, limit, random);
  EXPECT_LT(search.playouts(), 1'000'000u);  // all is proven before
  for (const auto& move : judged) {
    if (move.proven) {
      EXPECT_LE(move.mean, 0.5);
    }
  }
  const auto best = std::ranges::max_element(judged, {}, &TreeSearch::Judged::mean);
  EXPECT_TRUE(best->proven);
  EXPECT_EQ(best->mean, 0.5);
}

// Once there is no room the tree stays as it is, and games go on telling about its leaves.
TEST(TreeSearch, GoesOnWhereThereIsNoMoreRoom) {
  const Game game = load("silo");
  const auto tree = GameTree::make(game);
  constexpr std::size_t few_bytes = 20'000;
  TreeSearch search(tree->lanes(), nullptr, few_bytes);
  Random random(9);
  SearchLimit limit;
  limit.playouts = 20'000;
  const auto judged = search.run(*tree->row_of(game.initial()), 0, limit, random);
  std::uint64_t visits = 0;
  for (const auto& move : judged) {
    visits += move.visits;
    EXPECT_GT(move.mean, 0.2);
    EXPECT_LT(move.mean, 0.8);
  }
  EXPECT_EQ(visits, 20'000u);
  EXPECT_EQ(search.playouts(), 20'000u);
}

TEST(TreeSearch, AveragesOverChanceWhereAllIsKnown) {
  const Game game = Game::from_text(R"(
    (role dicer) (role random)
    (init (at start)) (roll 1) (roll 2) (roll 3) (roll 4)
    (<= (legal random (roll ?n)) (true (at start)) (roll ?n))
    (<= (legal random wait) (not (true (at start))))
    (<= (legal dicer wait) (true (at start)))
    (<= (legal dicer ?m) (not (true (at start))) (choice ?m)) (choice keep) (choice leave)
    (<= (next (at ?n)) (does random (roll ?n)))
    (<= (next (kept ?n)) (true (at ?n)) (roll ?n) (does dicer keep))
    (<= (next left) (does dicer leave))
    (<= terminal (true (kept ?n))) (<= terminal (true left))
    (<= (goal dicer 100) (true (kept 4))) (<= (goal dicer 20) (true left))
    (<= (goal dicer 0) (true (kept ?n)) (distinct ?n 4)))")
                        .value();
  const auto tree = GameTree::make(game);
  TreeSearch search(tree->lanes());
  Random random(1);
  SearchLimit limit;
  limit.playouts = 5000;
  const auto before = search.run(*tree->row_of(game.initial()), 0, limit, random);
  EXPECT_LT(search.playouts(), 200u);  // three rolls are worth 20, one 100: then nothing is open
  ASSERT_EQ(before.size(), 1u);
}

TEST(TreeSearch, EndsWithItsTime) {
  const Game game = load("silo");
  const auto tree = GameTree::make(game);
  TreeSearch search(tree->lanes());
  Random random(6);
  SearchLimit limit;
  limit.seconds = 0.02;
  std::uint64_t visits = 0;
  for (const auto& arm : search.run(*tree->row_of(game.initial()), 0, limit, random)) {
    visits += arm.visits;
  }
  EXPECT_GT(visits, 0u);
}

TEST(Features, PreferOwnThings) {
  const Game game = load("graft");
  const auto tree = GameTree::make(game);
  const Features& features = Features::of(tree->lanes());
  const Position position =
      play_line(game, game.initial(), "(graft 3 3) (graft 3 4) (graft 4 4)").value().last();
  const Row row = *tree->row_of(position);
  const Node node = tree->node(row);
  EXPECT_GT(features.judge(row, node, 0), features.judge(row, node, 1));
}

}  // namespace
}  // namespace orchard::opponents::search_test
