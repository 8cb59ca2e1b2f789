#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sstream>
#include <unordered_set>

#include "game/core.hpp"
#include "orchard/orchard.hpp"
#include "support/files.hpp"

namespace orchard::game_test {
namespace {

using ::testing::ElementsAre;
using testing::game_path;
using ::testing::HasSubstr;

Game load(std::string_view name) {
  return Game::load(game_path(name)).value();
}
Game of(const std::string& rules) {
  return Game::from_text(rules).value();
}

std::vector<std::string> texts(const std::vector<Move>& moves) {
  std::vector<std::string> result;
  for (const Move& move : moves) result.push_back(move.to_string());
  return result;
}

// The position after moves of whoever is to move, waiting moves filled in.
Position after(const Game& game, const std::vector<std::string>& moves) {
  Position position = game.initial();
  for (const std::string& text : moves) {
    const Role role = game.to_move(position).front();
    const auto joint = game.joint_move(position, role, game.move(Term::parse(text).value()));
    position = game.next(position, joint.value()).value();
  }
  return position;
}

TEST(Game, StartsInOneLine) {
  EXPECT_EQ(Game::load(game_path("espalier")).value().initial().size(), 21u);
}

// The first positions of a game are worked out by the reference evaluator and kept as lists; once
// there is a circuit they are rows of bits.
TEST(Position, IsTheSameAsListsAndAsBits) {
  const Game game = load("espalier");
  const Position listed = game.initial();
  EXPECT_FALSE(GameAccess::state(listed).is_packed());
  ASSERT_NE(GameAccess::core(game)->lanes(), nullptr);
  const Position packed = game.position(listed.fluents()).value();
  EXPECT_TRUE(GameAccess::state(packed).is_packed());
  EXPECT_EQ(listed, packed);
  EXPECT_EQ(packed, listed);
  EXPECT_EQ(listed.hash(), packed.hash());
  EXPECT_EQ(listed.fluents(), packed.fluents());
  EXPECT_EQ(listed.to_string(), packed.to_string());
  EXPECT_EQ(listed.size(), packed.size());
  const Role role = game.to_move(listed).front();
  EXPECT_EQ(game.to_move(packed).front(), role);
  EXPECT_EQ(texts(game.legal(listed, role)), texts(game.legal(packed, role)));
  const auto joint = game.joint_move(listed, role, game.legal(listed, role).front()).value();
  EXPECT_EQ(game.next(listed, joint).value(), game.next(packed, joint).value());
  EXPECT_NE(game.next(packed, joint).value(), packed);
  EXPECT_FALSE(GameAccess::state(game.next(packed, joint).value()).terminal());
  // A fluent that no play leads to, and no circuit foresees.
  std::vector<Term> fluents = listed.fluents();
  fluents.push_back(Term::parse("(square 77 77 east)").value());
  const Position elsewhere = game.position(fluents).value();
  EXPECT_FALSE(GameAccess::state(elsewhere).is_packed());
  EXPECT_NE(elsewhere, packed);
  EXPECT_TRUE(elsewhere.holds(fluents.back()));
  EXPECT_FALSE(packed.holds(fluents.back()));
}

TEST(Game, GivesRolesLegalMovesAndWhoIsToMove) {
  const Game game = load("espalier_3x3");
  ASSERT_EQ(game.roles().size(), 2u);
  EXPECT_EQ(game.roles()[0].name(), "east");
  EXPECT_EQ(game.role("west")->index(), 1u);
  EXPECT_FALSE(game.role("north"));
  EXPECT_THAT(texts(game.legal(game.initial(), *game.role("east"))),
              ElementsAre("(tie 1 1)", "(tie 1 2)", "(tie 1 3)"));
  EXPECT_THAT(texts(game.legal(game.initial(), *game.role("west"))), ElementsAre("wait"));
  EXPECT_THAT(game.to_move(game.initial()), ElementsAre(*game.role("east")));
}

TEST(Game, PlaysToAWinByTheCornersOfASquare) {
  const Game game = load("espalier_3x3");
  const Position end = after(game, {"(tie 1 1)", "(tie 1 3)", "(tie 2 1)", "(tie 2 3)", "(tie 1 2)",
                                    "(tie 3 3)", "(tie 2 2)"});
  EXPECT_TRUE(game.terminal(end));
  EXPECT_EQ(game.goal(end, game.roles()[0]), 100);
  EXPECT_EQ(game.goal(end, game.roles()[1]), 0);
  EXPECT_TRUE(game.to_move(end).empty());
}

TEST(Game, WinsByTheLastBranchBeforeItIsADraw) {
  const Game game = load("espalier_3x3");
  // East holds three corners of the large square and closes it with the ninth branch.
  const Position end = after(game, {"(tie 1 1)", "(tie 1 2)", "(tie 1 3)", "(tie 2 3)", "(tie 3 3)",
                                    "(tie 2 1)", "(tie 2 2)", "(tie 3 2)", "(tie 3 1)"});
  EXPECT_TRUE(game.terminal(end));
  EXPECT_EQ(game.goal(end, game.roles()[0]), 100);
  EXPECT_THAT(game.goals(end, game.roles()[1]), ElementsAre(Term::constant("0")));
}

TEST(Game, TopplesCratesIntoLowerBins) {
  const Game game = load("silo");
  const auto holds = [&](const Position& position, const char* fluent) {
    return position.holds(Term::parse(fluent).value());
  };
  const Position left = after(game, {"(load 3)", "(load 3)"});
  EXPECT_TRUE(holds(left, "(place 1 3 miller)"));
  EXPECT_TRUE(holds(left, "(place 1 2 baker)"));  // both neighbours are lower: left first
  const Position right = after(game, {"(load 2)", "(load 3)", "(load 3)", "(load 1)", "(load 3)"});
  EXPECT_TRUE(holds(right, "(place 1 4 miller)"));  // only the right one is two lower
  EXPECT_TRUE(holds(right, "(place 2 3 miller)"));  // one above both neighbours: it stands
}

TEST(Game, LetsWaterThroughForTheDigger) {
  const Game game = load("channel");
  const Position end = after(game, {"(dig 1 1)", "rest", "(dig 2 1)", "rest", "(dig 3 1)", "rest",
                                    "(dig 4 1)", "rest", "(dig 5 1)"});
  EXPECT_TRUE(game.terminal(end));
  EXPECT_EQ(game.goal(end, *game.role("digger")), 100);
  const Position upwards = after(game, {"(dig 1 1)", "rest", "(dig 2 2)", "rest", "(dig 1 2)"});
  EXPECT_FALSE(game.terminal(upwards));
}

TEST(Game, RefusesIllegalAndMissingMoves) {
  const Game game = load("espalier_3x3");
  const Move wait = game.move(Term::constant("wait"));
  JointMove joint;
  joint.add(game.move(Term::parse("(tie 3 1)").value()));
  const auto missing = game.next(game.initial(), joint);
  ASSERT_FALSE(missing.ok());
  EXPECT_EQ(missing.diagnostics().render(),
            "error: east cannot play (tie 3 1) here [illegal-move]\n"
            "   remedy: legal for east: (tie 1 1) (tie 1 2) (tie 1 3)\n"
            "error: west makes no move [missing-move]\n"
            "   remedy: legal for west: wait\n");
  joint.add(wait);
  joint.add(wait);
  EXPECT_THAT(game.next(game.initial(), joint).diagnostics().render(), HasSubstr("3 moves for 2"));
  EXPECT_THROW((void)missing.value(), std::logic_error);
}

TEST(Game, TakesNoMoveAfterTheEnd) {
  const Game game =
      of("(role r) (init a) (legal r go) (<= (next b) (true a)) (<= terminal (true b))");
  const JointMove go({game.move(Term::constant("go"))});
  const Position end = game.next(game.initial(), go).value();
  EXPECT_TRUE(game.terminal(end));
  EXPECT_EQ(game.legal(end, game.roles()[0]).size(), 1u);  // what the rules derive
  EXPECT_EQ(game.next(end, go).diagnostics().items().at(0).code, "game-over");
}

TEST(Game, AcceptsMovesOfAnotherInstanceOfTheGame) {
  const Game one = load("espalier_3x3");
  const Game two = load("espalier_3x3");
  JointMove joint;
  for (const Role& role : one.roles()) joint.add(one.legal(one.initial(), role).front());
  EXPECT_TRUE(two.next(two.initial(), joint).ok());
  EXPECT_FALSE(one.initial() == two.initial());  // positions belong to their game
}

TEST(Position, IsAValue) {
  const Game game = load("espalier_3x3");
  const Position a = after(game, {"(tie 1 1)", "(tie 1 2)", "(tie 1 3)"});
  const Position b = after(game, {"(tie 1 3)", "(tie 1 2)", "(tie 1 1)"});
  EXPECT_EQ(a, b);
  EXPECT_EQ(a.hash(), b.hash());
  EXPECT_FALSE(a == game.initial());
  EXPECT_EQ((std::unordered_set<Position>{a, b, game.initial()}.size()), 2u);
  EXPECT_TRUE(a.holds(Term::parse("(square 1 2 west)").value()));
  EXPECT_FALSE(a.holds(Term::parse("(square 1 2 nobody)").value()));
  std::ostringstream printed;
  printed << a;
  EXPECT_THAT(printed.str(),
              ::testing::StartsWith("(position (square 1 1 east) (square 1 2 west) "));
}

TEST(Position, OutlivesItsGame) {
  std::optional<Position> position;
  std::optional<Move> move;
  {
    const Game game = load("espalier_3x3");
    position = game.initial();
    move = game.legal(*position, game.roles()[0]).front();
  }
  EXPECT_EQ(move->to_string(), "(tie 1 1)");
  EXPECT_EQ(position->fluents().size(), 10u);
}

TEST(Position, IsMadeFromFluents) {
  const Game game = load("espalier_3x3");
  EXPECT_EQ(game.position(game.initial().fluents()).value(), game.initial());
  const auto slip = game.position({Term::parse("(squaer 1 1 bare)").value()});
  EXPECT_THAT(slip.diagnostics().render(), HasSubstr("did you mean `square`?"));
  const auto arity = game.position({Term::parse("(square 1 1)").value()});
  EXPECT_THAT(arity.diagnostics().render(), HasSubstr("`square` takes 3 arguments"));
  EXPECT_FALSE(game.position({Term::parse("(square ?x 1 bare)").value()}).ok());
  const Position empty = game.position({}).value();  // odd, but a position
  EXPECT_TRUE(game.terminal(empty));
}

TEST(Game, ReadsEveryKindOfDescription) {
  // One role, function terms, `or`; and an end that needs no move.
  const Game alone =
      of("(role bee) (init (at (hive 0))) (legal bee (fly left)) (legal bee (fly right))"
         "(<= (next (at (hive 1))) (or (does bee (fly left)) (does bee (fly right))))"
         "(<= terminal (true (at (hive 1)))) (<= (goal bee 70) (true (at (hive 1))))");
  const Position end =
      alone.next(alone.initial(), JointMove({alone.legal(alone.initial(), alone.roles()[0])[1]}))
          .value();
  EXPECT_EQ(alone.goal(end, alone.roles()[0]), 70);
  // Four roles at once.
  const Game four =
      of("(role a)(role b)(role c)(role d) (init (n 0)) (<= (legal ?r (m 1)) (role ?r))"
         "(<= (legal ?r (m 2)) (role ?r)) (<= (next (n 1)) (does a (m ?x)) (does d (m ?x)))");
  EXPECT_EQ(four.to_move(four.initial()).size(), 4u);
  JointMove joint;
  for (const Role& role : four.roles()) joint.add(four.legal(four.initial(), role)[0]);
  EXPECT_EQ(four.next(four.initial(), joint).value().to_string(), "(position (n 1))");
  // No goal, several goals, a goal that is no number.
  const Game odd = of("(role a)(role b)(role c) (goal a 1) (goal a 2) (goal b many)");
  EXPECT_FALSE(odd.goal(odd.initial(), odd.roles()[0]));
  EXPECT_EQ(odd.goals(odd.initial(), odd.roles()[0]).size(), 2u);
  EXPECT_FALSE(odd.goal(odd.initial(), odd.roles()[1]));
  EXPECT_EQ(odd.goals(odd.initial(), odd.roles()[1])[0].to_string(), "many");
  EXPECT_TRUE(odd.goals(odd.initial(), odd.roles()[2]).empty());
}

TEST(Game, GivesPercepts) {
  const Game game =
      of("(role a)(role b) (init s) (<= (legal ?r (say ?n)) (role ?r) (num ?n)) (num 1)(num 2)"
         "(next s) (<= (sees a (heard ?n)) (does b (say ?n)))");
  EXPECT_TRUE(game.has_hidden_information());
  JointMove joint;
  joint.add(game.legal(game.initial(), game.roles()[0])[0]);
  joint.add(game.legal(game.initial(), game.roles()[1])[1]);
  EXPECT_THAT(game.percepts(game.initial(), joint, game.roles()[0]).value(),
              ElementsAre(Term::parse("(heard 2)").value()));
  EXPECT_TRUE(game.percepts(game.initial(), joint, game.roles()[1]).value().empty());
}

TEST(Game, TellsWaitingFromForcedMoves) {
  const Game game = load("silo");
  const Move wait = game.move(Term::constant("wait"));
  EXPECT_TRUE(game.is_waiting(game.roles()[0], wait));
  EXPECT_FALSE(game.is_waiting(game.roles()[0], game.move(Term::parse("(load 1)").value())));
  // Everybody waits: then all are to move.
  const Game idle = of("(role a)(role b) (init s) (next s) (<= (legal ?r wait) (role ?r))");
  EXPECT_EQ(idle.to_move(idle.initial()).size(), 2u);
}

TEST(Game, SaysWhatGrowsTooLarge) {
  const Game game = of("(role r) (init (n z)) (legal r go) (<= (next (n (s ?x))) (true (n ?x)))");
  Position position = game.initial();
  const JointMove go({game.move(Term::constant("go"))});
  auto next = game.next(position, go);
  for (int ply = 0; next.ok() && ply < 1100; ++ply) next = game.next(*next, go);
  ASSERT_FALSE(next.ok());
  EXPECT_EQ(next.diagnostics().items()[0].code, "too-large");
  EXPECT_EQ(next.diagnostics().items()[0].place.column, 40);
}

TEST(Game, KeepsItsDigestThroughLayoutOnly) {
  const Game a = of("(role r) (init a)");
  EXPECT_EQ(a.digest(), of("; said again\n(ROLE  r)\n\n(init a )").digest());
  EXPECT_NE(a.digest(), of("(role r) (init b)").digest());
  EXPECT_EQ(a.digest().size(), 32u);
}

TEST(Game, ReportsFindingsWithoutFailing) {
  const Game game = of("(role r) (init a) (<= (legal r go) (tru a))");
  EXPECT_FALSE(game.findings().has_errors());
  EXPECT_EQ(game.findings().items().size(),
            4u);  // undefined-relation, no-next, no-terminal, no-goal
}

// A list of moves has no end by the rules; the game has.
TEST(ReachedCircuit, IsMadeOfAllThatCanBeReached) {
  const std::string rules =
      "(role wren) (tone low) (tone high) (init (song none)) (init calm)"
      "(<= (next calm) (true calm))"
      "(<= (legal wren (sing ?t)) (tone ?t))"
      "(<= (next (song (then ?t ?s))) (does wren (sing ?t)) (true (song ?s)))"
      "(<= terminal (true calm) (true (song (then ?a (then ?b ?c)))))"
      "(<= (goal wren 100) (true (song (then ?a (then ?a ?c)))))"
      "(<= (goal wren 0) (not (true (song (then low (then low none))))))";
  const Game game = Game::from_text(rules).value();
  EXPECT_FALSE(has_circuit(game));
  const Game bounded = with_reached_circuit(game, {}).value();
  EXPECT_TRUE(has_circuit(bounded));
  EXPECT_EQ(bounded.digest(), game.digest());
  const Role wren = bounded.roles()[0];
  Position position = bounded.initial();
  EXPECT_EQ(bounded.legal(position, wren).size(), 2u);
  for (const char* tone : {"(sing high)", "(sing high)"}) {
    position = bounded.next(position, JointMove({bounded.move(Term::parse(tone).value())})).value();
  }
  EXPECT_TRUE(bounded.terminal(position));
  // One that cannot be looked at to its end is told with how far it came.
  Budget few;
  few.positions = 3;
  const auto cut = with_reached_circuit(game, few);
  ASSERT_FALSE(cut.ok());
  EXPECT_TRUE(cut.diagnostics().only_limits());
  EXPECT_THAT(cut.diagnostics().render(), HasSubstr("and there are more"));
  // What has a circuit is given back.
  const Game espalier = Game::load(testing::game_path("espalier_3x3")).value();
  EXPECT_EQ(with_reached_circuit(espalier, few).value().initial(), espalier.initial());
}

}  // namespace
}  // namespace orchard::game_test
