// Opponents in the seats of `play`, and drawings that are read by the command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/results_store.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::opponents_test {
namespace {

using testing::game_path;
using Json = nlohmann::json;
using ::testing::HasSubstr;
using ::testing::Not;
using testing::ProcessResult;
using testing::read_file;
using testing::run_orchard;
using testing::run_process;
using testing::TemporaryFolder;

TEST(PlayOpponents, SitInAnySeatOfAnyKindOfGame) {
  const struct {
    const char* game;
    std::vector<std::string> seats;
  } sittings[] = {{"espalier_3x3", {"east=careful", "west=playouts:100"}},
                  {"market_day", {"hill=lookahead:1", "vale=playouts:100"}},
                  {"snails", {"amber=perfect", "grey=greedy"}},
                  {"sprinklers", {"gardener=perfect"}},
                  {"pickers", {"ann=careful", "bob=greedy", "cas=playouts:50"}},
                  {"cellar", {"mouse=playouts:64"}},
                  {"barrow_lane", {"upper=lookahead:1", "lower=greedy"}}};
  for (const auto& [game, seats] : sittings) {
    SCOPED_TRACE(game);
    std::vector<std::string> call{"play", game_path(game)};
    for (const std::string& seat : seats) {
      call.emplace_back("--seat");
      call.push_back(seat);
    }
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_THAT(result.out, HasSubstr("result: "));
  }
}

TEST(PlayOpponents, PerfectSolvesThePuzzle) {
  const auto result = run_orchard({"play", game_path("sprinklers"), "--seat", "gardener=perfect"});
  EXPECT_THAT(result.out, HasSubstr("gardener wins (gardener 100)"));
}

TEST(PlayOpponents, SayWhatTheyCannotDo) {
  const std::vector<std::string> call{"play", game_path("cellar"), "--seat", "mouse=perfect"};
  EXPECT_THAT(run_orchard(call).err, HasSubstr("note: perfect plays as playouts here"));
  std::vector<std::string> quiet = call;
  quiet.emplace_back("--quiet");
  EXPECT_EQ(run_orchard(quiet).err, "");
}

TEST(KeptSolutions, ServeSeatsCasesAndQuestions) {
  const TemporaryFolder folder;
  const std::string game = game_path("espalier_3x3");
  const std::string kept = folder.path("espalier.solved");
  const auto solved = run_orchard({"solve", game, "--keep", kept});
  EXPECT_EQ(solved.status, 0) << solved.err;
  const auto series = run_orchard({"series", game, "--seat", "east=solved:" + kept, "--seat",
                                   "west=careful", "--games", "20", "--json"});
  ASSERT_EQ(series.status, 0) << series.err;
  EXPECT_EQ(Json::parse(series.out)["players"][0]["losses"], 0);
  const auto check = run_orchard(
      {"check", game, "--positions", "50", "--solution", kept, "--allow", "effect", "--json"});
  EXPECT_THAT(check.out, HasSubstr("under best play east 50, west 50"));
  const std::string cases = folder.write("some.cases", R"(
    (case "value" (start) (expect (value east 50)) (expect (best east (tie 1 1) (tie 1 2) (tie 1 3))))
    (case "soon" (start)
      (moves (tie 1 1) (tie 1 2) (tie 2 1)) (expect (value east 50))
      (moves (tie 3 1) (tie 2 2)) (expect (value east 50))))");
  const auto with = run_orchard({"cases", game, "--file", cases, "--solution", kept});
  EXPECT_THAT(with.out, HasSubstr("passed")) << with.err;
  const auto without = run_orchard({"cases", game, "--file", cases});
  EXPECT_EQ(with.out, without.out);
  for (const std::string command : {"check", "cases"}) {
    const auto missing = run_orchard({command, game, "--solution", folder.path("none")});
    EXPECT_EQ(missing.status, 2);
    EXPECT_THAT(missing.err, HasSubstr("solve GAME --keep FILE"));
  }
  const auto other =
      run_orchard({"play", game_path("snails"), "--seat", "amber=solved:" + kept}, "quit\n");
  EXPECT_EQ(other.status, 2);
  EXPECT_THAT(other.err, HasSubstr("other rules"));
  const auto nothing = run_orchard({"solve", game_path("scarecrow"), "--search", "--keep", kept});
  EXPECT_EQ(nothing.status, 3);
  EXPECT_THAT(nothing.err, HasSubstr("nothing-to-keep"));
  EXPECT_THAT(nothing.out, HasSubstr("value under best play, proved"));  // kept or not
}

TEST(PlayOpponents, AreNamedInTheRecord) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.path("m.match");
  run_orchard({"play", game_path("espalier_3x3"), "--seat", "west=careful"},
              "1\nsave " + file + "\nquit\n");
  EXPECT_THAT(testing::read_file(file), HasSubstr("careful"));
  const auto resumed = run_orchard({"play", game_path("espalier_3x3"), "--resume", file}, "quit\n");
  EXPECT_THAT(resumed.out, HasSubstr("west is played by careful"));
}

TEST(PlayOpponents, WrongOnesAreRefused) {
  const auto result =
      run_orchard({"play", game_path("espalier_3x3"), "--seat", "west=playouts:lots"});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("west cannot be played by playouts:lots"));
  EXPECT_THAT(result.err, HasSubstr("the seats are: person, random, greedy"));
  const auto chance = run_orchard({"play", game_path("moles"), "--seat", "random=careful"});
  EXPECT_THAT(chance.err, HasSubstr("chance is random, or played by a person"));
}

// Whatever is changed in a drawing is either read as something else, or refused with its place.
// Killed on the way, a series goes on with every match that had ended.
TEST(SeriesCommand, AKilledSeriesLosesNoFinishedMatch) {
  const TemporaryFolder folder;
  const std::string store = folder.path("results.sqlite");
  const std::vector<std::string> series{"series",  game_path("espalier_3x3"),
                                        "--seat",  "east=playouts:300",
                                        "--games", "100000",
                                        "--store", store,
                                        "--quiet"};
  std::vector<std::string> killed{"/usr/bin/timeout", "-s", "KILL", "1.5", ORCHARD_COMMAND};
  killed.insert(killed.end(), series.begin(), series.end());
  EXPECT_EQ(run_process(killed).status, 128 + 9);
  const std::uint64_t matches = ResultsStore::open(store).value().entries().value()[0].matches;
  EXPECT_GE(matches, 2u);
  std::vector<std::string> call = series;
  call[5] = std::to_string(matches);
  call.emplace_back("--json");
  const ProcessResult ran = run_orchard(call);
  EXPECT_EQ(ran.status, 0) << ran.err;
  EXPECT_EQ(Json::parse(ran.out)["stored"], matches);
}

// Rules of an opponent in a seat; what a store has of a file is what the file held then.
TEST(SeriesCommand, PlayersFromFilesAreKnownByWhatTheFilesHold) {
  const TemporaryFolder folder;
  const std::string file =
      folder.write("corner.rules",
                   "(<= (prefer ?who (tie 2 2) 9) (role ?who))\n"
                   "(<= (worth ?who 90) (role ?who) (true (square 2 2 ?who)))\n");
  const auto games = [&](const std::string& who) {
    const ProcessResult ran = run_orchard({"series", game_path("espalier_3x3"), "--seat",
                                           "east=" + who, "--seat", "west=random", "--games", "40",
                                           "--store", folder.path("results.sqlite"), "--json"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    return Json::parse(ran.out);
  };
  for (const std::string& who : {"rules:" + file, "lookahead:1@" + file, "playouts:50@" + file}) {
    EXPECT_EQ(games(who)["stored"], 0) << who;
    EXPECT_EQ(games(who)["stored"], 40) << who;
  }
  folder.write("corner.rules", "(<= (prefer ?who (tie 1 1) 9) (role ?who))\n");
  EXPECT_EQ(games("rules:" + file)["stored"], 0);
  const ProcessResult none =
      run_orchard({"series", game_path("espalier_3x3"), "--seat", "east=lookahead:1@" + file});
  EXPECT_EQ(none.status, 2);
  EXPECT_THAT(none.err, HasSubstr("add rules for (worth ROLE VALUE)"));
  EXPECT_EQ(run_orchard({"play", game_path("espalier_3x3"), "--seat", "east=rules:" + file,
                         "--seat", "west=random"})
                .status,
            0);
}

TEST(SeriesCommand, PlayersAreRatedEachAgainstEach) {
  const TemporaryFolder folder;
  const std::string svg = folder.path("chart.svg");
  const std::string csv = folder.path("table.csv");
  std::vector<std::string> call{"series",   game_path("espalier_3x3"),
                                "--player", "random",
                                "--player", "Ada=careful",
                                "--player", "greedy",
                                "--games",  "40",
                                "--svg",    svg,
                                "--csv",    csv};
  const ProcessResult text = run_orchard(call);
  EXPECT_EQ(text.status, 0);
  EXPECT_THAT(text.out, HasSubstr("120 matches of espalier_3x3.gdl, each against each"));
  EXPECT_LT(text.out.find("   Ada "), text.out.find("   random "));
  EXPECT_THAT(read_file(svg), HasSubstr("each against each"));
  EXPECT_THAT(read_file(csv), HasSubstr("\nAda,careful,80,"));
  call.emplace_back("--json");
  const Json document = Json::parse(run_orchard(call).out);
  EXPECT_EQ(document["players"][0]["name"], "Ada");
  EXPECT_GT(document["players"][0]["rating"], document["players"][1]["rating"]);
  EXPECT_EQ(document["players"][0]["better_than"].size(), 2u);
  EXPECT_EQ(run_orchard({"series", game_path("espalier_3x3"), "--player", "random"}).status, 2);
  EXPECT_EQ(run_orchard({"series", game_path("espalier_3x3"), "--player", "random", "--seat",
                         "east=random"})
                .status,
            2);
  EXPECT_EQ(run_orchard({"series", game_path("espalier_3x3"), "--store", "/nonexistent/x"}).status,
            2);
}

// A table of values is learnt, gone on with, shown, and plays in series and matches.
TEST(SeriesCommand, ALearntTableOfValuesPlays) {
  const TemporaryFolder folder;
  const std::string table = folder.path("amber.values");
  const std::vector<std::string> learn{"learn", game_path("snails"), "--values", "--games",
                                       "2000",  "--table",           table,      "--step",
                                       "30"};
  EXPECT_EQ(run_orchard(learn).status, 0);
  const Json kept = Json::parse(read_file(table));
  EXPECT_EQ(kept["kind"], "values");
  EXPECT_EQ(kept["games"], 2000);
  EXPECT_EQ(kept["step"], 0.3);
  EXPECT_THAT(run_orchard(learn).out, HasSubstr("learnt from 4000 games"));
  const ProcessResult shown = run_orchard(
      {"learn", game_path("snails"), "--values", "--games", "1", "--show", "--table", table});
  EXPECT_THAT(shown.out, HasSubstr(" %  (climb 3)"));
  const ProcessResult series =
      run_orchard({"series", game_path("snails"), "--seat", "amber=learned:" + table, "--seat",
                   "grey=random", "--fixed-seats", "--games", "100", "--json"});
  EXPECT_EQ(series.status, 0) << series.err;
  EXPECT_GE(Json::parse(series.out)["players"][0]["wins"], 90);
  // A table of the other kind, of another game, or none.
  EXPECT_EQ(run_orchard({"learn", game_path("snails"), "--table", table}).status, 2);
  EXPECT_EQ(run_orchard({"series", game_path("silo"), "--seat", "miller=learned:" + table}).status,
            2);
  EXPECT_EQ(run_orchard({"series", game_path("silo"), "--seat", "miller=learned:none"}).status, 2);
}

TEST(SeriesCommand, LearningIsDrawnAsACurve) {
  const TemporaryFolder folder;
  const std::string svg = folder.path("curve.svg");
  EXPECT_EQ(run_orchard({"learn", game_path("snails"), "--games", "300", "--svg", svg}).status, 0);
  EXPECT_THAT(read_file(svg), HasSubstr("amber learns snails.gdl"));
}

TEST(DrawnBoards, BadDrawingsAreRefusedWithAPlace) {
  const testing::TemporaryFolder folder;
  const std::string good =
      run_orchard({"show", game_path("silo"), "--after", "5", "--seed", "2", "--drawn"}).out;
  const auto read = [&](const std::string& text) {
    return run_orchard(
        {"show", game_path("silo"), "--position", folder.write("p.position", text), "--quiet"});
  };
  ASSERT_EQ(read(good).status, 0) << good;
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string text = good;
    const std::size_t at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
  };
  const struct {
    std::string text;
    const char* message;
  } faults[] = {
      {changed("■", "Z"), "`Z` cannot stand at"},
      {changed("│  ■  │", "│  ■■  │"), "cannot stand at"},
      {changed(" 3 │     │", " 3 │"), "this row has 4 squares; the board has 5 there"},
      {changed(" 3 │     │     │     │     │     │\n", ""), "the board has 5 rows, the drawing 4"},
      {changed("(turn ", "(trun "), "no rule makes a fluent like (trun"},
      {"(position (drawn \"\"))", "the board has 5 rows, the drawing 0"},
      {"(position (drawn \"a\") (drawn \"b\"))", "a position has one drawing"},
  };
  for (const auto& [text, message] : faults) {
    const auto refused = read(text);
    EXPECT_EQ(refused.status, 2) << message;
    EXPECT_THAT(refused.err, HasSubstr(message));
    EXPECT_THAT(refused.err, HasSubstr("p.position:"));
  }
  // A crate turned into one of the other carter is another position, and a right one.
  const auto other = read(changed("■", "□"));
  EXPECT_EQ(other.status, 0) << other.err;
  EXPECT_NE(other.out, read(good).out);
}

// Cells may be wider or narrower than they are drawn, as when typed by hand.
TEST(DrawnBoards, WidthsDoNotMatter) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.write("h.position",
                                        "(position \"by hand\" (drawn \"\n"
                                        "   +---+---+---+\n"
                                        " 3 |   |   |   |\n"
                                        " 2 | ♠ |   |   |\n"
                                        " 1 | ♠ |♤| ♤   |\n"
                                        "\") (turn east))");
  const auto shown =
      run_orchard({"show", game_path("espalier_3x3"), "--position", file + ":by hand"});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.out, HasSubstr(" 1 │  ♠  │  ♤  │  ♤  │"));
  EXPECT_THAT(shown.out, Not(HasSubstr("?")));
}

}  // namespace
}  // namespace orchard::opponents_test
