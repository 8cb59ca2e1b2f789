// Formulas in random games, against games played out position by position.
#include "orchard/formula_counts.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/circuit.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::formula_counts_test {
namespace {

using ::testing::HasSubstr;

FormulaCounts counted(const Game& game, const std::vector<std::string>& formulas,
                      const PlayoutOptions& options = {.games = 600}) {
  return count_formulas(game, formulas, options).value();
}

TEST(FormulaCounts, AreWhatTheGamesAre) {
  const Game game = testing::load("espalier_3x3");
  const FormulaCounts counts = counted(
      game, {"terminal", "(not terminal)", "(true (turn west))", "(and terminal (goal east 100))"});
  EXPECT_EQ(counts.games, 600u);
  const FormulaCount& ends = counts.formulas[0];
  EXPECT_EQ(ends.games, 600u);
  EXPECT_EQ(ends.positions, 600u);  // the last one of each
  const FormulaCount& open = counts.formulas[1];
  EXPECT_EQ(open.first, (std::map<std::uint64_t, std::uint64_t>{{0, 600}}));
  // Every ply but the last is open, and the first to move is east.
  double plies = 0;
  for (const auto& [ply, games] : ends.first) plies += static_cast<double>(ply * games);
  EXPECT_EQ(open.positions, static_cast<std::uint64_t>(plies));
  EXPECT_NEAR(ends.mean_first(), plies / 600, 1e-9);
  EXPECT_EQ(counts.formulas[2].first, (std::map<std::uint64_t, std::uint64_t>{{1, 600}}));
  // As often as random games are won, within what chance allows.
  PlayoutOptions many;
  many.games = 100'000;
  const auto random = run_playouts(game, many).value();
  double won = 0;
  for (const auto& [values, games] : random.outcomes) {
    if (values[0].front().to_string() == "100") won += static_cast<double>(games);
  }
  EXPECT_NEAR(static_cast<double>(counts.formulas[3].games) / 600, won / 100'000, 0.1);
}

TEST(FormulaCounts, AreTheSameForTheSameSeedWhateverElseIsCounted) {
  const Game game = testing::load("snails");
  const FormulaCounts alone = counted(game, {"terminal"});
  const FormulaCounts beside = counted(game, {"(or terminal (not terminal))", "terminal"});
  EXPECT_EQ(alone.formulas[0].first, beside.formulas[1].first);
  EXPECT_EQ(alone.formulas[0].positions, beside.formulas[1].positions);
}

TEST(FormulaCounts, OfEveryHandsRules) {
  for (const std::string& path : testing::corpus_games()) {
    SCOPED_TRACE(path);
    const Game game = with_reached_circuit(Game::load(path).value(), {}).value();
    const FormulaCounts counts = counted(game, {"terminal", "(true ?anything)"});
    EXPECT_EQ(counts.formulas[0].games, 600u);
    EXPECT_EQ(counts.formulas[1].first.at(0), 600u);
  }
}

TEST(FormulaCounts, SayWhatTheyCannotCount) {
  const Game game = testing::load("espalier_3x3");
  EXPECT_THAT(count_formulas(game, {"(does east ?move)"}).diagnostics().render(),
              HasSubstr("asks for the move that is made"));
  EXPECT_THAT(count_formulas(game, {"(terminal"}).diagnostics().render(),
              HasSubstr("never closed"));
  EXPECT_THAT(counted(game, {"(true (turn nobody))"}).formulas[0].unfit,
              ::testing::Not(::testing::IsEmpty()));
  PlayoutOptions spent;
  spent.budget.seconds = 0;
  const FormulaCounts nothing = counted(game, {"terminal"}, spent);
  EXPECT_EQ(nothing.ending, Ending::time);
  EXPECT_EQ(nothing.games, 0u);
}

}  // namespace
}  // namespace orchard::formula_counts_test
