// check and cases through the built command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "support/discs.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::review_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using Json = nlohmann::json;

TEST(Check, TellsErrorsSuspicionsAndNothing) {
  const TemporaryFolder folder;
  const auto fine = run_orchard({"check", game_path("silo"), "--text-only"});
  EXPECT_EQ(fine.status, 0);
  EXPECT_THAT(fine.out, HasSubstr("no suspicious rules found"));
  EXPECT_THAT(fine.out, Not(HasSubstr("positions")));
  std::string rules = read_file(game_path("espalier"));
  rules.replace(rules.find("(not (tied_now"), 14, "(not (tied_nwo");
  const auto slip = run_orchard({"check", folder.write("slip.gdl", rules), "--positions", "1000"});
  EXPECT_EQ(slip.status, 1);
  EXPECT_THAT(slip.out, HasSubstr("did you mean `tied_now`?"));
  const auto wrong =
      run_orchard({"check", folder.write("wrong.gdl", "(role east) (legal east)"), "--json"});
  EXPECT_EQ(wrong.status, 2);
  EXPECT_EQ(Json::parse(wrong.out)["diagnostics"][0]["code"], "keyword-arity");
  EXPECT_EQ(
      Json::parse(
          run_orchard({"check", game_path("silo"), "--json", "--text-only"}).out)["diagnostics"],
      Json::array());
}

TEST(Check, AsksEveryPositionAndTheClaims) {
  const auto good = run_orchard({"check", game_path("espalier_3x3")});
  EXPECT_EQ(good.status, 0) << good.out;
  EXPECT_THAT(good.out, HasSubstr("all 2545 reachable positions (depth 9)"));
  EXPECT_THAT(good.out, HasSubstr("   ends           holds       every line of play ends"));
  EXPECT_THAT(good.out, HasSubstr("east can force it"));
  EXPECT_THAT(good.out, Not(HasSubstr("for example")));
  EXPECT_THAT(run_orchard({"check", game_path("espalier_3x3"), "--verbose"}).out,
              HasSubstr("for example, after 9 plies"));
  EXPECT_THAT(run_orchard({"check", game_path("espalier_3x3"), "--claims", "none"}).out,
              Not(HasSubstr("claims:")));

  const auto unknown = run_orchard({"check", game_path("moles"), "--positions", "5000"});
  EXPECT_EQ(unknown.status, 3);
  EXPECT_THAT(unknown.out, HasSubstr("(ended by --positions), and 2048 random games"));
  const std::vector<std::string> bounded{"check", game_path("silo"), "--json", "--threads",
                                         "2",     "--positions"};
  for (const std::uint64_t positions : {2000u, 30'000u}) {
    std::vector<std::string> call = bounded;
    call.push_back(std::to_string(positions));
    const Json document = Json::parse(run_orchard(call).out);
    EXPECT_GE(document["positions"], positions);
    EXPECT_LT(document["positions"], positions + 20'000);
    EXPECT_EQ(document["complete"], false);
  }
  EXPECT_THAT(run_orchard({"check", game_path("silo"), "--memory", "2M"}).out,
              HasSubstr("(ended by --memory)"));
}

// Nothing tells the depths of this one apart, and all pickers move at once.
TEST(Check, LooksAtEveryPositionWithoutAMeasure) {
  const std::string game = game_path("pickers");
  const auto text = run_orchard({"check", game, "--memory", "20M"}).out;
  EXPECT_THAT(text, HasSubstr("all 851967 reachable positions (depth 8) looked at, "));
  EXPECT_THAT(text, HasSubstr("each of the 254567 ends gives every role one goal"));
  EXPECT_THAT(text, HasSubstr("draws are possible, the first after 8 plies"));
  EXPECT_THAT(text, HasSubstr("the sum of the goals lies between 190 and 300\n"));
  const auto nowhere = run_orchard(
      {"find", game, "(and terminal (goal ann 0) (goal bob 0) (goal cas 0))", "--memory", "20M"});
  EXPECT_EQ(nowhere.status, 1);
  EXPECT_THAT(nowhere.out, HasSubstr("holds in none of the 851967 reachable positions"));
}

// Too little memory to explore 1 185 864 positions; enough to look at each by itself.
TEST(Check, LooksAtEveryPositionWhereMemoryIsShort) {
  const std::vector<std::string> about{game_path("silo"), "--set", "heights=4", "--memory", "20M"};
  const auto with = [&](std::vector<std::string> words, const std::vector<std::string>& more) {
    words.insert(words.end(), about.begin(), about.end());
    words.insert(words.end(), more.begin(), more.end());
    return run_orchard(words);
  };
  const TemporaryFolder folder;
  const std::string page = folder.path("silo.html");
  const auto text = with({"check"}, {"--report", page});
  EXPECT_THAT(text.out, HasSubstr("all 1185864 reachable positions (depth 20) looked at, "));
  EXPECT_THAT(text.out, HasSubstr("each of the 125264 ends gives every role one goal"));
  EXPECT_THAT(text.out, HasSubstr("draws are possible, the first after 20 plies"));
  EXPECT_THAT(read_file(page),
              HasSubstr("All 1185864 reachable positions up to depth 20 looked at, "));
  const Json document = Json::parse(with({"check"}, {"--json"}).out);
  EXPECT_EQ(document["looked_at"], 1185864);
  EXPECT_EQ(document["complete"], false);
  EXPECT_LT(document["positions"], 1185864);
  ASSERT_EQ(document["depths"].size(), 21u);
  EXPECT_EQ(document["depths"][20]["positions"], 94627);
  EXPECT_EQ(document["depths"][20]["terminal"], 94627);
  const auto found = with({"find"}, {"(and terminal (not room_left))"});
  EXPECT_EQ(found.status, 0);
  EXPECT_THAT(found.out, HasSubstr("ply 20   over: draw"));
  const auto nowhere = with({"find"}, {"(and (wins miller) (wins baker))"});
  EXPECT_THAT(nowhere.out, HasSubstr("holds in none of the 1185864 reachable positions"));
  const auto proved = with({"find"}, {"(and (wins miller) (wins baker))", "--positions", "1000"});
  EXPECT_EQ(proved.status, 1);
  EXPECT_EQ(proved.out, "holds in no reachable position: proved by induction over the plies\n");
  // A number of positions holds for this, too.
  EXPECT_THAT(with({"check"}, {"--positions", "500000"}).out, HasSubstr("and 2048 random games"));
}

TEST(Check, ShowsAFaultWithTheShortestLineEverywhere) {
  const TemporaryFolder folder;
  const std::string log = folder.path("log.sarif");
  const std::string page = folder.path("page.html");
  const std::vector<std::string> call{
      "check", game_path("faulty/two_winners"), "--sarif", log, "--report", page};
  const auto text = run_orchard(call);
  EXPECT_EQ(text.status, 1);
  EXPECT_THAT(text.out, HasSubstr("fails: scored — an end gives hill more than one goal"));
  EXPECT_THAT(text.out, HasSubstr("after 3 plies, the shortest line:\n     1   hill (ask "));
  EXPECT_THAT(read_file(page), HasSubstr("an end gives hill more than one goal"));
  const Json results = Json::parse(read_file(log))["runs"][0]["results"];
  EXPECT_EQ(results[0]["ruleId"], "scored");
  EXPECT_EQ(results[0]["level"], "error");

  const auto json = run_orchard({"check", game_path("faulty/two_winners"), "--json"});
  EXPECT_EQ(json.status, 1);
  const Json document = Json::parse(json.out);
  EXPECT_EQ(document["complete"], true);
  EXPECT_EQ(document["depths"].size(), 4u);
  for (const Json& question : document["questions"]) {
    EXPECT_EQ(question["verdict"] == "fails", question["id"] == "scored") << question;
    if (question["id"] == "scored") {
      EXPECT_EQ(question["line"].size(), 3u);
    }
  }
  EXPECT_EQ(run_orchard({"check", game_path("snails"), "--report", "/nonexistent/p.html"}).status,
            2);
  const auto bad_claims = run_orchard({"check", game_path("snails"), "--claims",
                                       folder.write("x.claims", "(claim \"x\" (always up))")});
  EXPECT_EQ(bad_claims.status, 2);
  EXPECT_THAT(bad_claims.err, HasSubstr("no rule is about up"));
}

// What is printed depends on the game, the seed and the bounds alone.
TEST(Check, SaysTheSameAgain) {
  const std::vector<std::string> call{"check", game_path("moles"), "--positions", "20000"};
  const auto first = run_orchard(call);
  EXPECT_EQ(run_orchard(call).out, first.out);
  EXPECT_THAT(first.out, HasSubstr("unknown"));
}

TEST(Check, WorksOnUnfinishedAndInfixDescriptions) {
  const TemporaryFolder folder;
  const auto begun =
      run_orchard({"check", folder.write("begun.gdl", "(role bee) (init (at hive))")});
  EXPECT_EQ(begun.status, 1);
  EXPECT_THAT(begun.out, HasSubstr("bee has no legal move"));
  const std::string infix = folder.write(
      "pick.gdli",
      "role(bee).\ninit(at(hive)).\nlegal(bee, go).\nnext(at(field)) :- does(bee, go).\n"
      "terminal :- true(at(field)).\ngoal(bee, 100) :- true(at(field)).\n"
      "goal(bee, 0) :- true(at(hive)).\n");
  const auto checked = run_orchard({"check", infix});
  EXPECT_EQ(checked.status, 0) << checked.out << checked.err;
  EXPECT_THAT(checked.out, HasSubstr("all 2 reachable positions (depth 1)"));
}

TEST(Find, AsksForMovesToo) {
  const auto found = run_orchard({"find", game_path("espalier_3x3"), "(does west (tie 2 2))"});
  EXPECT_EQ(found.status, 0);
  EXPECT_THAT(found.out, HasSubstr("west (tie 2 2)\nply 2 "));
}

TEST(Find, ShowsAPositionOrSaysThatThereIsNone) {
  const auto found = run_orchard({"find", game_path("snails"), "(wins grey)"});
  EXPECT_EQ(found.status, 0);
  EXPECT_THAT(found.out, HasSubstr("after 12 plies, the shortest line:\n     1   amber (climb "));
  EXPECT_THAT(found.out, HasSubstr("over: grey wins"));
  const auto none = run_orchard({"find", game_path("snails"), "(and (wins grey) (wins amber))"});
  EXPECT_EQ(none.status, 1);
  EXPECT_EQ(none.out, "holds in none of the 662 reachable positions\n");
  // That no crate hangs in the air does not prove itself for this one, and is worked out backwards.
  const auto impossible = run_orchard({"find", game_path("silo"),
                                       "(and (true (place 1 1 bare)) (true (place 2 1 miller)) "
                                       "(does miller (load 1)))",
                                       "--positions", "500"});
  EXPECT_EQ(impossible.status, 1);
  EXPECT_THAT(impossible.out, HasSubstr("holds in no reachable position: proved"));
  const TemporaryFolder folder;
  const std::string wheel = folder.write("discs.gdl", discs(5));
  const auto unknown = run_orchard({"find", wheel, "(and back (true odd))", "--positions", "500"});
  EXPECT_EQ(unknown.status, 3) << unknown.out;
  EXPECT_THAT(unknown.out, HasSubstr("not met in "));
  EXPECT_THAT(run_orchard({"find", game_path("snails"), "(wins gray)"}).out,
              HasSubstr("nothing that the rules derive matches (wins gray)"));
  EXPECT_EQ(run_orchard({"find", game_path("snails"), "(wons grey)"}).status, 2);
}

// What it writes is read back: the case passes, the position is the one found.
TEST(Find, WritesACaseAndAPosition) {
  const TemporaryFolder folder;
  const std::string formula = "(and terminal (goal west 100))";
  const auto written = run_orchard({"find", game_path("espalier_3x3"), formula, "--case"});
  EXPECT_EQ(written.status, 0);
  const auto passed = run_orchard(
      {"cases", game_path("espalier_3x3"), "--file", folder.write("found.cases", written.out)});
  EXPECT_EQ(passed.status, 0) << written.out << passed.out;
  const auto drawn = run_orchard({"find", game_path("espalier_3x3"), formula, "--drawn"});
  const auto shown = run_orchard({"show", game_path("espalier_3x3"), "--position",
                                  folder.write("found.positions", drawn.out), "--json"});
  const Json document =
      Json::parse(run_orchard({"find", game_path("espalier_3x3"), formula, "--json"}).out);
  EXPECT_EQ(Json::parse(shown.out)["position"], document["position"]);
  EXPECT_EQ(document["line"].size(), 8u);
  EXPECT_EQ(document["shortest"], true);
}

TEST(Check, LeavesOutAllowedFindingsAndWritesSarif) {
  const TemporaryFolder folder;
  const std::string file = folder.write("begun.gdl", "(role bee) (init (a 1)) (legal bee go)");
  const std::string log = folder.path("log.sarif");
  const auto all = run_orchard({"check", file, "--sarif", log, "--text-only"});
  EXPECT_EQ(all.status, 1);
  EXPECT_EQ(Json::parse(read_file(log))["runs"][0]["results"].size(), 3u);
  const auto none = run_orchard({"check", file, "--allow", "no-goal", "--allow", "no-next",
                                 "--allow", "no-terminal", "--text-only"});
  EXPECT_EQ(none.status, 0) << none.out;
  EXPECT_EQ(run_orchard({"check", file, "--sarif", "/nonexistent/log"}).status, 2);
}

TEST(Check, ListsDomainsAndHints) {
  const auto text = run_orchard({"check", game_path("espalier"), "--domains", "--text-only"});
  EXPECT_EQ(text.status, 0);
  EXPECT_THAT(text.out, HasSubstr("hints of style (--verbose shows them)\n"));
  EXPECT_THAT(text.out,
              HasSubstr("fluent square/3\n  1  1 … 4\n  2  1 … 5\n  3  bare east west\n"));
  const Json document = Json::parse(run_orchard({"check", game_path("espalier"), "--domains",
                                                 "--verbose", "--json", "--text-only"})
                                        .out);
  EXPECT_EQ(document["diagnostics"], Json::array());
  EXPECT_EQ(document["hints"][0]["severity"], "hint");
  const Json tie = {{"kind", "move"},
                    {"name", "tie"},
                    {"arity", 2},
                    {"argument", 1},
                    {"values", {"1", "2", "3", "4"}}};
  EXPECT_TRUE(std::ranges::find(document["domains"], tie) != document["domains"].end());
}

TEST(Check, TakesSizes) {
  EXPECT_EQ(run_orchard({"check", game_path("espalier"), "--set", "rows=6", "--set", "COLUMNS=6",
                         "--text-only"})
                .status,
            0);
  const auto unknown = run_orchard({"check", game_path("espalier"), "--set", "row=6"});
  EXPECT_EQ(unknown.status, 2);
  EXPECT_THAT(unknown.err + unknown.out, HasSubstr("did you mean rows?"));
  EXPECT_EQ(run_orchard({"check", game_path("espalier"), "--set", "rows=six"}).status, 2);
  EXPECT_EQ(run_orchard({"check", game_path("espalier"), "--set", "rows"}).status, 2);
}

TEST(CasesCommand, PassesOnTheDemoGames) {
  for (const char* name : {"espalier", "silo", "channel", "barrow_lane", "hedgerow", "graft"}) {
    const auto result = run_orchard({"cases", game_path(name)});
    EXPECT_EQ(result.status, 0) << result.out;
    EXPECT_THAT(result.out, HasSubstr(" 0 failed"));
  }
}

TEST(CasesCommand, DrawsTheBoardWhereACaseFailed) {
  const TemporaryFolder folder;
  const std::string file =
      folder.write("w.cases",
                   "(case \"wrong\" (start) (moves (tie 1 2)) (expect terminal))\n(case \"right\" "
                   "(start) (expect (room_left)))");
  const auto result =
      run_orchard({"cases", game_path("espalier_3x3"), "--file", file, "--verbose"});
  EXPECT_EQ(result.status, 1);
  EXPECT_EQ(result.out, "failed: wrong   " + file +
                            ":1:1\n"
                            "   " +
                            file +
                            ":1:49: expected terminal\n"
                            "      found: it does not hold\n"
                            "   ply 1   west to move\n"
                            "\n"
                            "      1     2     3\n"
                            "   ┌─────┬─────┬─────┐\n"
                            " 3 │     │     │     │\n"
                            "   ├─────┼─────┼─────┤\n"
                            " 2 │     │     │     │\n"
                            "   ├─────┼─────┼─────┤\n"
                            " 1 │     │  ♠  │     │\n"
                            "   └─────┴─────┴─────┘\n"
                            "   ♠ east   ♤ west\n"
                            "\n"
                            "passed: right\n" +
                            file + ": 1 passed, 1 failed\n");
  const Json document =
      Json::parse(run_orchard({"cases", game_path("espalier_3x3"), "--file", file, "--json"}).out);
  EXPECT_EQ(document["failed"], 1);
  EXPECT_EQ(document["cases"][0]["failures"][0]["found"], "it does not hold");
  EXPECT_EQ(document["cases"][0]["position"].size(), 10u);
  EXPECT_EQ(document["cases"][1]["passed"], true);
  EXPECT_EQ(
      run_orchard({"cases", game_path("espalier_3x3"), "--file", file, "--filter", "right"}).status,
      0);
}

TEST(CasesCommand, LooksAtExpectationsWhereTheyStand) {
  const TemporaryFolder folder;
  const std::string file =
      folder.write("w.cases",
                   "(case \"in turn\" (start) (expect (true (turn east))) (moves (tie 1 2))\n"
                   "  (expect (true (turn west))) (moves (tie 1 1)) (expect (true (turn west))) "
                   "(moves (tie 1 3)))");
  const auto result = run_orchard({"cases", game_path("espalier_3x3"), "--file", file});
  EXPECT_EQ(result.status, 1);
  EXPECT_THAT(result.out, HasSubstr(":2:57: expected (true (turn west))"));
  EXPECT_THAT(result.out, HasSubstr("ply 2   east to move"));
}

TEST(CasesCommand, WritesJunit) {
  const TemporaryFolder folder;
  const std::string file = folder.write(
      "w.cases",
      "(case \"a < b & \\\"c\\\"\" (start) (expect terminal))\n(case \"fine\" (expect room_left))");
  const std::string log = folder.path("junit.xml");
  EXPECT_EQ(
      run_orchard({"cases", game_path("espalier_3x3"), "--file", file, "--junit", log}).status, 1);
  const std::string text = read_file(log);
  EXPECT_THAT(text, HasSubstr("<testsuite name=\"espalier_3x3.gdl\" tests=\"2\" failures=\"1\""));
  EXPECT_THAT(text, HasSubstr("<testcase name=\"a &lt; b &amp; &quot;c&quot;\""));
  EXPECT_THAT(text, HasSubstr("<failure message=\"expected terminal, found: it does not hold\""));
  EXPECT_EQ(run_orchard({"cases", game_path("silo"), "--junit", "/nonexistent/x"}).status, 2);
}

TEST(CasesCommand, TellsAFileThatIsNoCases) {
  const auto missing =
      run_orchard({"cases", game_path("espalier_3x3")});  // it has no file of its own
  EXPECT_EQ(missing.status, 2);
  EXPECT_THAT(missing.err, HasSubstr("espalier_3x3.cases: error: there is no such file"));
  EXPECT_EQ(run_orchard({"cases", game_path("silo"), "--file", game_path("silo")}).status, 2);
}

// Faults that nothing says without playing, but that break a case of the good description.
TEST(CasesCommand, NoticeFaultsOfGames) {
  const std::pair<const char*, const char*> table[] = {
      {"overwritten_square", "espalier"}, {"repetition_one_early", "scarecrow"},
      {"wrong_outcome", "market_day"},    {"first_dig_not_safe", "moles"},
      {"fewer_moles", "moles"},           {"top_not_noticed", "snails"},
  };
  for (const auto& [faulty, game] : table) {
    const auto result =
        run_orchard({"cases", source_path("games/faulty/" + std::string(faulty) + ".gdl"), "--file",
                     source_path("games/" + std::string(game) + ".cases")});
    EXPECT_EQ(result.status, 1) << faulty << "\n" << result.out;
    EXPECT_THAT(result.out, ::testing::HasSubstr("failed:")) << faulty;
  }
}

}  // namespace
}  // namespace orchard::testing::review_test
