// Pictures by the command: files, strips, drawn boards, views.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::pictures_test {
namespace {

using testing::game_path;
using ::testing::HasSubstr;
using ::testing::Not;
using testing::read_file;
using testing::run_orchard;
using ::testing::StartsWith;

TEST(Pictures, AreWrittenToFiles) {
  const testing::TemporaryFolder folder;
  const auto result = run_orchard({"show", game_path("silo"), "--after", "(load 1) (load 2)",
                                   "--svg", folder.path("a.svg"), "--png", folder.path("a.png")});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(read_file(folder.path("a.svg")), HasSubstr("ply 2   miller to move"));
  EXPECT_THAT(read_file(folder.path("a.png")), StartsWith("\x89PNG"));
  const auto strip = run_orchard({"show", game_path("silo"), "--after", "3", "--strip", "--svg",
                                  folder.path("s.svg"), "--light", "dark"});
  EXPECT_EQ(strip.status, 0);
  const std::string svg = read_file(folder.path("s.svg"));
  for (const char* title : {"ply 0 ", "ply 1 ", "ply 2 ", "ply 3 "}) {
    EXPECT_THAT(svg, HasSubstr(title));
  }
  run_orchard(
      {"show", game_path("silo"), "--after", "3", "--animate", "--svg", folder.path("m.svg")});
  EXPECT_THAT(read_file(folder.path("m.svg")), HasSubstr("<animate "));
}

TEST(Pictures, FramesOfALine) {
  const testing::TemporaryFolder folder;
  const auto result =
      run_orchard({"show", game_path("espalier_3x3"), "--after", "(tie 1 1)", "--frames",
                   folder.path("film/of"), "--svg", folder.path("last.svg")});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(read_file(folder.path("film/of/000.png")), StartsWith("\x89PNG"));
  EXPECT_THAT(read_file(folder.path("film/of/001.png")), StartsWith("\x89PNG"));
  EXPECT_THAT(read_file(folder.path("last.svg")), Not(HasSubstr("ply 0 ")));
  const auto refused = run_orchard(
      {"show", game_path("espalier_3x3"), "--frames", folder.write("file", "") + "/below"});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err, HasSubstr("Not a directory"));
}

// Two opponents, a game, and its film in one call.
TEST(Pictures, OfAGameBetweenOpponents) {
  const testing::TemporaryFolder folder;
  const auto result =
      run_orchard({"play", game_path("espalier_3x3"), "--seat", "east=random", "--seat",
                   "west=random", "--animate", "--pace", "0.25", "--svg", folder.path("g.svg")});
  EXPECT_EQ(result.status, 0) << result.err;
  const std::string svg = read_file(folder.path("g.svg"));
  EXPECT_THAT(svg, ::testing::AllOf(HasSubstr("ply 0   east to move"), HasSubstr("over: "),
                                    HasSubstr("<animate ")));
  EXPECT_THAT(run_orchard({"play", game_path("espalier_3x3"), "--strip"}).err,
              HasSubstr("--strip needs --svg or --png"));
}

TEST(Pictures, LongListsOfMovesAreTold) {
  const testing::TemporaryFolder folder;
  const std::string game =
      folder.write("many.gdl",
                   "(role ann) (#for ?n 1 9 (n ?n)) (init (day 1))"
                   "(<= (legal ann (hop ?a ?b)) (n ?a) (n ?b)) (legal ann rest) (goal ann 100)"
                   "(<= (next (day ?n)) (true (day ?n))) (<= terminal (true (day 2)))");
  const std::string shown = run_orchard({"show", game}).out;
  EXPECT_THAT(shown, HasSubstr("legal for ann, 82 moves:\n"));
  EXPECT_THAT(shown, HasSubstr("81 moves, from (hop 1 1) to (hop 9 9)\n"));
  EXPECT_THAT(shown, HasSubstr("rest\n"));
  EXPECT_THAT(run_orchard({"show", game, "--every-move"}).out, HasSubstr("(hop 5 5)"));
  const std::string sitting = run_orchard({"play", game}, "moves\nquit\n").out;
  EXPECT_THAT(sitting.substr(sitting.find("> moves")), HasSubstr("(hop 5 5)"));
}

// A picture of a view says whose it is and what it leaves open.
TEST(Pictures, OfAViewSayWhoseItIs) {
  const testing::TemporaryFolder folder;
  run_orchard({"show", game_path("cellar"), "--after", "12", "--view", "mouse", "--drawing", "none",
               "--svg", folder.path("v.svg")});
  EXPECT_THAT(read_file(folder.path("v.svg")),
              ::testing::AllOf(HasSubstr("seen by mouse: what the rules have told it"),
                               HasSubstr("not known: ")));
}

// No time at all is no fault in the picture; a drawing with a mistake takes no finding away, and
// where the text alone is looked at nothing is played to infer one.
TEST(Pictures, LittleTimeAndMistakes) {
  const testing::TemporaryFolder folder;
  run_orchard({"show", game_path("silo"), "--after", "3", "--animate", "--pace", "0", "--svg",
               folder.path("m.svg")});
  EXPECT_THAT(read_file(folder.path("m.svg")),
              ::testing::AllOf(HasSubstr("<animate "), Not(HasSubstr("nan"))));
  const std::string game =
      folder.write("slip.gdl", "(role ann) (init day) (<= terminal (true dya))");
  folder.write("slip.draw", "(draw (sqare 1 1))");
  for (const char* how : {"--text-only", "--verbose"}) {
    const auto checked = run_orchard({"check", game, how});
    EXPECT_EQ(checked.status, 2);
    EXPECT_THAT(checked.out, ::testing::AllOf(HasSubstr("[no-legal]"), HasSubstr("`sqare`")));
  }
}

TEST(Pictures, WrongCallsAreTold) {
  EXPECT_THAT(run_orchard({"show", game_path("silo"), "--strip"}).err,
              HasSubstr("--strip needs --svg or --png"));
  EXPECT_THAT(run_orchard({"show", game_path("silo"), "--animate", "--png", "x.png"}).err,
              HasSubstr("--animate needs --svg"));
  EXPECT_EQ(run_orchard({"show", game_path("silo"), "--svg", "/nowhere/x.svg"}).status, 2);
  EXPECT_EQ(run_orchard({"show", game_path("silo"), "--drawing", "/nowhere.draw"}).status, 2);
  EXPECT_THAT(run_orchard({"show", game_path("espalier_3x3"), "--drawing", "none"}).out,
              HasSubstr("also: (turn east)"));
}

TEST(Pictures, BoardsCanBeTurned) {
  const auto result = run_orchard({"show", game_path("espalier_3x3"), "--turn"});
  EXPECT_THAT(result.out, HasSubstr("      3     2     1\n"));
}

TEST(Pictures, EffectsAreListed) {
  const auto result = run_orchard({"show", game_path("espalier_3x3"), "--effects"});
  EXPECT_THAT(result.out,
              HasSubstr("effects:\n   1 east (tie 1 1): -(square 1 1 bare) -(turn east) "
                        "+(square 1 1 east) +(turn west)\n"));
  const auto joint = run_orchard({"show", game_path("market_day"), "--effects"});
  EXPECT_THAT(joint.out, HasSubstr("depends on what the others do"));
}

TEST(Pictures, DrawnBoardsStandInFilesAndCases) {
  const testing::TemporaryFolder folder;
  const std::string drawn =
      run_orchard({"show", game_path("espalier_3x3"), "--after", "(tie 1 1) (tie 1 2)", "--drawn"})
          .out;
  const std::string file = folder.write("a.position", drawn);
  const auto shown = run_orchard({"show", game_path("espalier_3x3"), "--position", file});
  EXPECT_THAT(shown.out, HasSubstr("│  ♠  │  ♤  │ ‹1› │"));
  EXPECT_EQ(
      run_orchard({"census", game_path("espalier_3x3"), "--position", file, "--depth", "1"}).status,
      0);
  const std::string cases =
      "(case \"drawn\" " + drawn + " (expect (legal east (tie 1 3)) (not (legal east (tie 1 2)))))";
  const auto passed =
      run_orchard({"cases", game_path("espalier_3x3"), "--file", folder.write("a.cases", cases)});
  EXPECT_EQ(passed.status, 0) << passed.out << passed.err;
  std::string wrong = cases;
  wrong.replace(wrong.find("♤"), std::string("♤").size(), "X");
  const auto failed =
      run_orchard({"cases", game_path("espalier_3x3"), "--file", folder.write("b.cases", wrong)});
  EXPECT_EQ(failed.status, 1);
  EXPECT_THAT(failed.out, HasSubstr("`X` cannot stand at (at 1 2)"));
}

TEST(Pictures, AViewShowsWhatTheRoleKnows) {
  const auto all = run_orchard({"show", game_path("moles"), "--after", "7", "--seed", "2"});
  const auto view =
      run_orchard({"show", game_path("moles"), "--after", "7", "--seed", "2", "--view", "digger"});
  EXPECT_THAT(all.out, Not(HasSubstr("▒")));
  EXPECT_THAT(view.out, HasSubstr("▒"));
  const auto hand =
      run_orchard({"show", game_path("hedgerow"), "--after", "9", "--seed", "2", "--view", "ash"});
  EXPECT_THAT(hand.out, HasSubstr("ash holds"));
  EXPECT_THAT(hand.out, Not(HasSubstr("birch holds")));
}

TEST(Pictures, WhereTooMuchFitsTheRulesSayWhatMayBeShown) {
  const auto view = run_orchard({"show", game_path("hedgerow"), "--set", "months=15", "--set",
                                 "each=8", "--after", "20", "--view", "ash"});
  EXPECT_EQ(view.status, 0);
  EXPECT_THAT(view.out, HasSubstr("what the rules have told it"));
  EXPECT_THAT(view.out, HasSubstr("ash holds  ["));
  EXPECT_THAT(view.out, Not(HasSubstr("birch holds")));
}

}  // namespace
}  // namespace orchard::pictures_test
