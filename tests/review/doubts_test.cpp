// What is odd about a position.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/random.hpp"
#include "orchard/review.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::doubts_test {
namespace {

using ::testing::HasSubstr;
using testing::run_orchard;

std::string doubts(const Game& game, const std::vector<const char*>& fluents) {
  std::vector<Term> terms;
  for (const char* const fluent : fluents) terms.push_back(Term::parse(fluent).value());
  return doubts_about(game, game.position(terms).value()).render();
}

TEST(Doubts, TellTwoContentsAndTwoTurns) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  EXPECT_THAT(doubts(game, {"(square 1 1 east)", "(square 1 1 west)", "(turn east)"}),
              HasSubstr("(square 1 1 east) and (square 1 1 west) hold at once"));
  const std::string turns = doubts(game, {"(square 1 1 east)", "(turn east)", "(turn west)"});
  EXPECT_THAT(turns, HasSubstr("(turn east) and (turn west) hold at once"));
  EXPECT_THAT(turns, HasSubstr("nothing like (square 1 2 "));  // what is missing, once
  EXPECT_THAT(doubts(game, {"(square 1 1 east)"}), HasSubstr("nothing like (turn "));
}

TEST(Doubts, AreNotToldOfWhatPlayLeadsTo) {
  std::vector<std::string> paths = testing::demo_games();
  for (const std::string& path : testing::corpus_games()) paths.push_back(path);
  for (const std::string& path : paths) {
    const Game game = Game::load(path).value();
    Random random(7);
    Position position = game.initial();
    for (int ply = 0; ply < 6 && !game.terminal(position); ++ply) {
      JointMove joint;
      for (const Role& role : game.roles()) {
        const std::vector<Move> legal = game.legal(position, role);
        joint.add(legal[random.below(legal.size())]);
      }
      position = game.next(position, joint).value();
    }
    EXPECT_EQ(doubts_about(game, position).render(), "") << path;
  }
}

TEST(Doubts, ArePrintedWhereAPositionIsGiven) {
  const testing::TemporaryFolder folder;
  const std::string file =
      folder.write("two.position", "(position (square 1 1 east) (square 1 1 west) (turn east))");
  const auto shown = run_orchard({"show", testing::game_path("espalier_3x3"), "--position", file});
  EXPECT_EQ(shown.status, 0);
  EXPECT_THAT(shown.err, HasSubstr("two.position"));
  EXPECT_THAT(shown.err, HasSubstr("hold at once, and never do"));
  EXPECT_EQ(
      run_orchard({"show", testing::game_path("espalier_3x3"), "--position", file, "--quiet"}).err,
      "");
}

}  // namespace
}  // namespace orchard::doubts_test
