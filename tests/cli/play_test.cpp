// Whole sittings through a pipe.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::play_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

const std::string small = game_path("espalier_3x3");

std::string sitting(std::vector<std::string> arguments, const std::string& input) {
  arguments.insert(arguments.begin(), {"play", small});
  const auto result = run_orchard(arguments, input);
  EXPECT_EQ(result.status, 0) << result.err;
  return result.out;
}

const char* const east_wins = "tie 1 1\ntie 1 3\ntie 2 1\ntie 2 3\ntie 1 2\ntie 3 3\ntie 2 2\n";
const char* const drawn =
    "tie 1 1\ntie 1 2\ntie 1 3\ntie 2 1\ntie 2 2\ntie 2 3\ntie 3 2\ntie 3 1\ntie 3 3\n";

std::size_t count(const std::string& text, const std::string& part) {
  std::size_t found = 0;
  for (std::size_t at = text.find(part); at != std::string::npos; at = text.find(part, at + 1))
    ++found;
  return found;
}

TEST(Play, DetectsAWin) {
  const std::string text = sitting({}, east_wins);
  EXPECT_THAT(text, HasSubstr("ply 7   over: east wins (east 100, west 0)"));
  EXPECT_THAT(text,
              HasSubstr("result: east wins (east 100, west 0)\n   east: 1 won, 0 drawn, 0 lost\n"
                        "   west: 0 won, 0 drawn, 1 lost\n"));
}

// A person teaches: the table is made, learns from every game, and is written.
TEST(Play, ATableLearnsFromAPerson) {
  const TemporaryFolder folder;
  const std::string table = folder.path("west.table");
  const std::string text = sitting({"--seat", "west=learning:" + table}, "1\n1\n1\n1\n1\n1\n1\n");
  EXPECT_THAT(text, HasSubstr("west is played by learning:" + table));
  EXPECT_THAT(read_file(table), HasSubstr("\"games\": 1"));
  // It goes on from there, and belongs to one role.
  sitting({"--seat", "west=learning:" + table}, "1\n1\n1\n1\n1\n1\n1\n");
  EXPECT_THAT(read_file(table), HasSubstr("\"games\": 2"));
  const auto refused = run_orchard({"play", small, "--seat", "east=learning:" + table});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err, HasSubstr("the table is that of west, not of east"));
}

TEST(Play, NamesAreGivenAtAnyTime) {
  const std::string text = sitting({}, "name east Ada Byron\nname north X\n" +
                                           std::string(east_wins) + "name east\nquit\n");
  EXPECT_THAT(text, HasSubstr("   Ada Byron (east) plays east\n"));
  EXPECT_THAT(text, HasSubstr("write name ROLE NAME; the roles are east, west"));
  EXPECT_THAT(text, HasSubstr("result: Ada Byron (east) wins"));
  EXPECT_THAT(text, HasSubstr("   east plays east\n"));
}

TEST(Play, DetectsADraw) {
  EXPECT_THAT(sitting({}, drawn), HasSubstr("result: draw (east 50, west 50)"));
}

TEST(Play, KeepsTheScoreOverGames) {
  const std::string text =
      sitting({"--name", "east=Ada"}, std::string(east_wins) + "again\n" + drawn);
  EXPECT_THAT(text, HasSubstr("result: Ada (east) wins"));
  EXPECT_THAT(
      text, HasSubstr("   Ada (east): 1 won, 1 drawn, 0 lost\n   west: 0 won, 1 drawn, 1 lost\n"));
}

TEST(Play, ANewMatchClearsNamesAndScore) {
  const std::string text =
      sitting({"--name", "east=Ada"}, std::string(east_wins) + "new\n" + drawn);
  EXPECT_THAT(text, HasSubstr("result: Ada (east) wins"));
  EXPECT_THAT(text,
              HasSubstr("   east: 0 won, 1 drawn, 0 lost\n   west: 0 won, 1 drawn, 0 lost\n"));
}

TEST(Play, TakesBackTheEndAndItsScore) {
  const std::string text =
      sitting({}, std::string(east_wins) + "undo\ntie 3 1\ntie 2 2\ntie 3 2\n");
  EXPECT_EQ(count(text, "result:"), 2u);
  EXPECT_THAT(text, Not(HasSubstr("2 won")));
}

TEST(Play, TakesMovesByNumberTermAndBeginning) {
  const std::string text = sitting({}, "2\n(TIE  1 1)\n tie 2\nquit\n");
  EXPECT_THAT(text, HasSubstr("east plays (tie 1 2)"));
  EXPECT_THAT(text, HasSubstr("west plays (tie 1 1)"));
  EXPECT_THAT(text, HasSubstr("tie 2 is the beginning of several: (tie 2 1) (tie 2 2)"));
  EXPECT_THAT(sitting({}, "tie 1 2\ntie 1 1\ntie 1\n"), HasSubstr("east plays (tie 1 3)"));
}

TEST(Play, RefusesAnIllegalMoveAndChangesNothing) {
  const std::string text = sitting({}, "tie 3 3\n0\n4\nmoves\nquit\n");
  EXPECT_EQ(count(text, "is not legal for east here, and nothing has changed.\n"), 3u);
  EXPECT_EQ(count(text, "   it would need (within_reach 3 3) (espalier.gdl:72)\n"), 1u);
  EXPECT_EQ(count(text, "   legal: (tie 1 1) (tie 1 2) (tie 1 3)\n"), 3u);
  EXPECT_EQ(count(text, "ply 0   east to move"), 2u);
  EXPECT_THAT(text, Not(HasSubstr("ply 1")));
}

TEST(Play, TakesMovesByTheirPlaceAndStepByStep) {
  const std::string text = sitting({}, "1 2\nat 2 2\n3 3\ntie 1\n3\nquit\n");
  EXPECT_EQ(count(text, "plays (tie 1 2)"), 1u);
  EXPECT_EQ(count(text, "plays (tie 2 2)"), 1u);
  EXPECT_EQ(count(text, "3 3 is not legal for east here"), 1u);
  EXPECT_EQ(count(text, "   it would need (within_reach 3 3) (espalier.gdl:72)\n"), 1u);
  EXPECT_THAT(text, HasSubstr("tie 1 is the beginning of several: (tie 1 1) (tie 1 3)"));
  EXPECT_THAT(text, HasSubstr("east> tie 1 3\n   east plays (tie 1 3)"));
}

// Nineteen seats in a row, of which the first is taken.
const char* const bench = R"(
  (role guest) (role host)
  (#for ?seat 1 19 (seat ?seat)) (init (seated 1)) (init (turn guest)) (init (turn_of 1))
  (<= (legal guest (sit ?seat)) (seat ?seat) (not (true (seated ?seat))))
  (legal host wait)
  (<= (next (seated ?seat)) (true (seated ?seat)))
  (<= (next (seated ?seat)) (does guest (sit ?seat)))
  (<= terminal (true (seated 19)))
  (<= (goal ?who 50) (role ?who)))";

TEST(Play, AnIllegalMoveNeverPlaysAnotherOne) {
  const TemporaryFolder folder;
  const std::string game = folder.write("bench.gdl", bench);
  const auto said = [&](const std::string& input) {
    return run_orchard({"play", game, "--seat", "host=random"}, input).out;
  };
  for (const char* const typed : {"sit 1", "(sit 1)", "si", "(sit 1", "sit 20"}) {
    const std::string text = said(std::string(typed) + "\nmoves\nquit\n");
    EXPECT_THAT(text, HasSubstr(std::string(typed) + " is not legal for guest here")) << text;
    EXPECT_THAT(text, Not(HasSubstr("guest plays"))) << text;
    EXPECT_THAT(text, Not(HasSubstr("ply 1"))) << text;
  }
  EXPECT_THAT(said("sit 1\nquit\n"), HasSubstr("it would need (not (true (seated 1)))"));
  EXPECT_THAT(said("sit 19\nquit\n"), HasSubstr("guest plays (sit 19)"));
  EXPECT_THAT(said("(sit\n4\nquit\n"), HasSubstr("guest plays (sit 4)"));
}

TEST(Play, ANumberThatMeansTwoThingsIsAskedFor) {
  const TemporaryFolder folder;
  const std::string game = folder.write("bench.gdl", bench);
  (void)folder.write("bench.draw", R"(
    (<= (draw (square 1 ?seat)) (seat ?seat))
    (<= (draw (piece (at 1 ?seat) leaf guest)) (true (seated ?seat)))
    (<= (draw (choice guest (sit ?seat) (at 1 ?seat))) (legal guest (sit ?seat))))");
  const auto said = [&](const std::string& input) {
    return run_orchard({"play", game, "--seat", "host=random"}, input).out;
  };
  EXPECT_THAT(said("#5\nquit\n"), HasSubstr("guest plays (sit 6)"));
  const std::string text = said("5\nat 5\nquit\n");
  EXPECT_THAT(text, HasSubstr("5 is the number of (sit 6) in the list, and the place of (sit 5)"));
  EXPECT_EQ(count(text, "guest plays (sit 5)"), 1u) << text;
  EXPECT_EQ(count(text, "guest plays"), 1u) << text;
}

TEST(Play, RedoMakesWhatWasTakenBack) {
  const std::string text = sitting({}, "1\n1\nundo\nredo\nundo\nundo\n2\nredo\nquit\n");
  EXPECT_THAT(text, HasSubstr("back at ply 1"));
  EXPECT_THAT(text, HasSubstr("redone up to ply 2"));
  EXPECT_THAT(text, HasSubstr("back at ply 0"));
  EXPECT_THAT(text, HasSubstr("there is nothing to redo"));
}

TEST(Play, ExplainsAndForetells) {
  const std::string text = sitting(
      {},
      "1\nwhy true (square 1 1 east)\nwhy winz\neffects tie 1 2\neffects 9\nview west\nview up\n");
  EXPECT_THAT(text, HasSubstr("since ply 1, by ((tie 1 1) wait)"));
  EXPECT_THAT(text, HasSubstr("did you mean `wins`?"));
  EXPECT_THAT(text, HasSubstr("   1 (tie 1 2): -(square 1 2 bare) -(turn west) +(square 1 2 west) "
                              "+(turn east)"));
  EXPECT_THAT(text, HasSubstr("9 is not a legal move here"));
  EXPECT_THAT(text, HasSubstr("seen by west: everything"));
  EXPECT_THAT(text, HasSubstr("up is not a role"));
}

TEST(Play, ResumesWithinASitting) {
  const TemporaryFolder folder;
  const std::string file = folder.path("kept.match");
  const std::string text =
      sitting({}, "1\n1\nsave " + file + "\n1\nresume " + file + "\nresume /nowhere\nquit\n");
  EXPECT_THAT(text, HasSubstr("going on at ply 2"));
  EXPECT_THAT(text, HasSubstr("there is no such file"));
  EXPECT_EQ(count(text, "ply 2   east to move"), 2u);
}

TEST(Play, TellsNoSecretsWhileHandsAreHidden) {
  const std::string text = run_orchard({"play", testing::game_path("cellar"), "--seed", "2"},
                                       "why true (shelf 1 1)\neffects\nview random\nquit\n")
                               .out;
  EXPECT_THAT(text, HasSubstr("reasons could give away"));
  EXPECT_THAT(text, HasSubstr("effects could give away"));
  EXPECT_THAT(text, HasSubstr("that is for random to see"));
}

TEST(Play, TakesNoMoveAfterTheEnd) {
  EXPECT_THAT(sitting({}, std::string(east_wins) + "tie 3 1\nhelp\n"),
              HasSubstr("the game is over; no more moves are taken"));
}

TEST(Play, OpponentsAnswerAndRepeatThemselvesForASeed) {
  const std::vector<std::string> seats{"--seat", "west=random", "--seed", "3"};
  const std::string text = sitting(seats, "1\n1\n1\n");
  EXPECT_EQ(count(text, "west plays"), 3u);
  EXPECT_EQ(text, sitting(seats, "1\n1\n1\n"));
  const std::string alone = sitting({"--seat", "west=random", "--seat", "east=random"}, "");
  EXPECT_EQ(count(alone, "result:"), 1u);
}

TEST(Play, UndoGoesBackToThePersonsOwnChoice) {
  const std::string text = sitting({"--seat", "west=random"}, "1\nundo\nundo\nquit\n");
  EXPECT_THAT(text, HasSubstr("back at ply 0"));
  EXPECT_THAT(text, HasSubstr("this is the start; there is nothing to take back"));
}

TEST(Play, SavesAndResumes) {
  const TemporaryFolder folder;
  const std::string file = folder.path("My Match.jsonl");
  const std::string text = sitting({"--seat", "west=random", "--name", "east=Ada"},
                                   std::string("1\nsave ") + file + "\nsave\nquit\n");
  EXPECT_THAT(text, HasSubstr("saved to " + file));
  EXPECT_THAT(text, HasSubstr("save where?"));
  const std::string resumed = sitting({"--resume", file}, "moves\n");
  EXPECT_THAT(resumed, HasSubstr("Ada (east) is played by person"));
  EXPECT_THAT(resumed, HasSubstr("west is played by random"));
  EXPECT_THAT(resumed, HasSubstr("ply 2   east to move"));
  EXPECT_THAT(sitting({}, "save /nonexistent/m\nquit\n"), HasSubstr("cannot write the file"));
}

TEST(Play, ScoreGoesThroughSaving) {
  const TemporaryFolder folder;
  const std::string file = folder.path("m.jsonl");
  sitting({}, std::string(east_wins) + "save " + file + "\n");
  EXPECT_THAT(sitting({"--resume", file}, ""), HasSubstr("east: 1 won, 0 drawn, 0 lost"));
  sitting({}, std::string(east_wins) + "again\n1\nsave " + file + "\n");
  EXPECT_THAT(sitting({"--resume", file}, "undo\n" + std::string(drawn)),
              HasSubstr("east: 1 won, 1 drawn, 0 lost"));
}

TEST(Play, TellsWrongSeats) {
  const auto status = [&](const std::string& seat) {
    return run_orchard({"play", small, "--seat", seat});
  };
  EXPECT_EQ(status("est=random").status, 2);
  EXPECT_THAT(status("est=random").err, HasSubstr("did you mean east?"));
  EXPECT_THAT(status("east=gardener").err, HasSubstr("the seats are: person, random"));
  EXPECT_THAT(status("random").err, HasSubstr("the roles are east, west"));
  EXPECT_EQ(run_orchard({"play", small, "--resume", "/nonexistent"}).status, 2);
}

TEST(Play, AsksEveryPersonInSimultaneousGames) {
  const TemporaryFolder folder;
  const std::string file = folder.write(
      "both.gdl",
      "(role a)(role b)(init s)(low 1)(<= (legal ?r (bid 1)) (role ?r))(<= (legal ?r (bid 2)) "
      "(role ?r))"
      "(<= (next (won ?r)) (does ?r (bid 2)))(<= terminal (not (true s)))"
      "(<= (goal ?r 100) (true (won ?r)))(<= (goal ?r 0) (role ?r) (not (true (won ?r))))");
  const auto result = run_orchard({"play", file}, "bid 2\nbid 1\n");
  EXPECT_THAT(result.out,
              HasSubstr("a> bid 2\nb> bid 1\n   a plays (bid 2)\n   b plays (bid 1)\n"));
  EXPECT_THAT(result.out, HasSubstr("result: a wins (a 100, b 0)"));
}

TEST(Play, PlaysChanceByItself) {
  const TemporaryFolder folder;
  const std::string file = folder.write("dice.gdl",
                                        "(role random)(role a)(init s)(n 1)(n 2)(n 3)(<= (legal "
                                        "random (roll ?n)) (n ?n))(legal a wait)"
                                        "(<= (next (got ?n)) (does random (roll ?n)))(<= terminal "
                                        "(true (got ?n)))(<= (goal a ?n) (true (got ?n)))");
  const auto result = run_orchard({"play", file});
  EXPECT_THAT(result.out, HasSubstr("random plays (roll "));
  EXPECT_THAT(result.out, HasSubstr("result: a scores "));
  // Real dice: what was thrown is typed, or Enter throws.
  const auto typed = run_orchard({"play", file, "--seat", "random=person"}, "roll 2\nquit\n");
  EXPECT_EQ(typed.status, 0) << typed.err;
  EXPECT_THAT(typed.out, HasSubstr("result: a scores 2"));
  const auto thrown = run_orchard({"play", file, "--seat", "random=person"}, "\nquit\n");
  EXPECT_THAT(thrown.out, HasSubstr("random (Enter draws)> \n   random plays (roll "));
  EXPECT_THAT(run_orchard({"play", file, "--seat", "random=greedy"}).err,
              HasSubstr("chance is random, or played by a person"));
}

TEST(Play, ADealtHandIsTypedWhereHandsAreHidden) {
  const auto dealt = run_orchard(
      {"play", game_path("hedgerow"), "--seat", "random=person", "--seat", "birch=random"},
      "2\n\nquit\n");
  EXPECT_EQ(dealt.status, 0) << dealt.err;
  EXPECT_THAT(dealt.out, HasSubstr("random:   1 ("));
  EXPECT_THAT(dealt.out, HasSubstr("random (Enter draws)> "));
}

TEST(Play, BreaksOffByPlies) {
  EXPECT_THAT(sitting({"--plies", "2"}, "1\n1\n1\n"), HasSubstr("broken off by --plies"));
}

TEST(Play, AgainstAClaim) {
  const TemporaryFolder folder;
  const std::string claims =
      folder.write("some.claims", "(claim \"east wins\" (can-force east (wins east)))");
  const auto played = run_orchard(
      {"play", game_path("espalier_3x3"), "--claims", claims, "--against-claim", "east wins"},
      "1\n1\n1\n1\n1\nquit\n");
  EXPECT_EQ(played.status, 0) << played.err;
  EXPECT_THAT(played.out, HasSubstr("\"east wins\" fails: west will see to it"));
  EXPECT_THAT(played.out, HasSubstr("west is played by against-claim"));
  EXPECT_THAT(played.out, Not(HasSubstr("east 100")));
  // Saved, and gone on with by the same call; by another one the seat is nobody's.
  const std::string file = folder.path("kept.match");
  const std::vector<std::string> about{"play",   game_path("espalier_3x3"), "--claims",
                                       claims,   "--against-claim",         "east wins",
                                       "--quiet"};
  (void)run_orchard(about, "1\n1\nsave " + file + "\nquit\n");
  std::vector<std::string> resumed = about;
  resumed.insert(resumed.end(), {"--resume", file});
  const auto again = run_orchard(resumed, "quit\n");
  EXPECT_EQ(again.status, 0) << again.err;
  EXPECT_THAT(again.out, HasSubstr("west is played by against-claim"));
  const auto alone = run_orchard({"play", game_path("espalier_3x3"), "--resume", file}, "quit\n");
  EXPECT_EQ(alone.status, 2);
  EXPECT_THAT(alone.err, HasSubstr("west cannot be played by against-claim"));
  const auto unknown = run_orchard(
      {"play", game_path("espalier_3x3"), "--claims", claims, "--against-claim", "west wins"});
  EXPECT_EQ(unknown.status, 2);
  EXPECT_THAT(unknown.err, HasSubstr("did you mean \"east wins\"?"));
}

// The state grows until a limit is met: that is no end of the game, in play or in a series.
TEST(Play, ALimitMetInTheMiddleIsTold) {
  const testing::TemporaryFolder folder;
  const std::string game = folder.write("vine.gdl", R"(
    (role vine) (role snail) (init (length zero)) (way up) (way down)
    (<= (legal ?r ?way) (role ?r) (way ?way))
    (<= (next (length (one_more ?n))) (true (length ?n)))
    (<= terminal (true (length never))) (<= (goal ?r 50) (role ?r)))");
  const auto played = run_orchard({"play", game, "--seat", "vine=random", "--seat", "snail=random",
                                   "--pause", "0", "--term-depth", "12"});
  EXPECT_EQ(played.status, 3);
  EXPECT_THAT(played.out + played.err, HasSubstr("nested more than 12 deep"));
  const auto series = run_orchard({"series", game, "--games", "3", "--term-depth", "12"});
  EXPECT_NE(series.status, 0);
  EXPECT_THAT(series.out + series.err, HasSubstr("nested more than 12 deep"));
}

}  // namespace
}  // namespace orchard::testing::play_test
