// show, walk, census, playouts through the built command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "base/option_table.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::commands_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;
using Json = nlohmann::json;

const std::string small = game_path("espalier_3x3");

ProcessResult expect_done(const std::vector<std::string>& arguments,
                          const std::string& input = {}) {
  ProcessResult result = run_orchard(arguments, input);
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_EQ(result.err, "");
  return result;
}

std::vector<Json> json_lines(const std::string& text) {
  std::vector<Json> lines;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) lines.push_back(Json::parse(line));
  return lines;
}

TEST(Show, DrawsTheStartWithItsLegalMoves) {
  const auto result = expect_done({"show", small});
  EXPECT_EQ(result.out,
            "espalier_3x3.gdl   ply 0   east to move\n"
            "\n"
            "      1     2     3\n"
            "   ┌─────┬─────┬─────┐\n"
            " 3 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 1 │ ‹1› │ ‹2› │ ‹3› │\n"
            "   └─────┴─────┴─────┘\n"
            "   ♠ east   ♤ west\n"
            "\n"
            "legal for east:\n"
            "   1 (tie 1 1)   2 (tie 1 2)   3 (tie 1 3)\n"
            "legal for west: wait\n");
}

TEST(Show, TellsTheResultAtAnEnd) {
  const auto result = expect_done({"show", small, "--after", "100", "--ascii"});
  EXPECT_THAT(result.out, HasSubstr("   over: "));
  EXPECT_THAT(result.out, Not(HasSubstr("legal for")));
  EXPECT_THAT(result.out, HasSubstr("+-----+"));
}

TEST(Show, GivesJson) {
  const Json shown = Json::parse(expect_done({"show", small, "--json"}).out);
  EXPECT_EQ(shown["roles"], (Json{"east", "west"}));
  EXPECT_EQ(shown["ply"], 0);
  EXPECT_EQ(shown["position"].size(), 10u);
  EXPECT_EQ(shown["position"][0], "(square 1 1 bare)");
  EXPECT_EQ(shown["to_move"], Json{"east"});
  EXPECT_EQ(shown["legal"]["west"], Json{"wait"});
  EXPECT_EQ(shown["terminal"], false);
  EXPECT_EQ(shown["goals"], Json::object());
}

TEST(Show, TakesPositionsFromFiles) {
  const TemporaryFolder folder;
  const std::string file = folder.write(
      "set.gdl",
      "(position \"corner\" (square 1 1 east) (turn west))\n(position \"none\" (turn east))");
  const Json corner = Json::parse(
      expect_done({"show", small, "--quiet", "--position", file + ":corner", "--json"}).out);
  EXPECT_EQ(corner["position"].size(), 2u);
  EXPECT_EQ(corner["terminal"], true);  // no bare square: nothing is left to tie
  const auto which = run_orchard({"show", small, "--position", file, "--quiet"});
  EXPECT_EQ(which.status, 2);
  EXPECT_THAT(which.err, HasSubstr("which-position"));
}

TEST(Show, WorksOnAnUnfinishedDescription) {
  const TemporaryFolder folder;
  const std::string file = folder.write(
      "begun.gdl", "(role bee)\n(n 1) (n 2)\n(<= (init (bed ?x ?y soil)) (n ?x) (n ?y))");
  const auto result = run_orchard({"show", file});
  EXPECT_EQ(result.status, 0);
  EXPECT_THAT(result.out, HasSubstr(" 1 │     │     │"));
  EXPECT_THAT(result.out, HasSubstr("not over, but bee has no legal move"));
  EXPECT_EQ(result.err, file +
                            ": 4 suspicious findings: no-goal, no-legal, no-next, no-terminal "
                            "(--verbose shows them)\n");
  EXPECT_EQ(run_orchard({"show", file, "--quiet"}).err, "");
  EXPECT_THAT(run_orchard({"show", file, "--verbose"}).err,
              HasSubstr("remedy: add rules for terminal"));
}

TEST(Walk, RepeatsItselfForASeed) {
  const std::vector<std::string> call{
      "walk", game_path("espalier"), "--games", "20", "--seed", "1", "--json"};
  const auto once = expect_done(call);
  EXPECT_EQ(once.out, expect_done(call).out);
  const auto lines = json_lines(once.out);
  EXPECT_EQ(lines.front()["game"], 0);
  EXPECT_EQ(lines.back()["game"], 19);
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const Json& line = lines[i];
    EXPECT_EQ(line["terminal"], !line.contains("joint"));
    if (!line.contains("joint")) {
      EXPECT_EQ(line["goals"].size(), 2u);
      continue;
    }
    for (const auto& [role, move] : line["joint"].items()) {
      EXPECT_THAT(line["legal"][role], ::testing::Contains(move));
    }
    EXPECT_EQ(lines[i + 1]["ply"], line["ply"].get<int>() + 1);
  }
  auto other = call;
  other[5] = "2";
  EXPECT_NE(expect_done(other).out, once.out);
}

TEST(Walk, SaysWhyAGameGoesOnNoMore) {
  const auto cut = json_lines(expect_done({"walk", small, "--plies", "2", "--json"}).out);
  EXPECT_EQ(cut.size(), 3u);
  EXPECT_EQ(cut.back()["stopped"], "plies");
  EXPECT_FALSE(cut.back().contains("joint"));
  const TemporaryFolder folder;
  const std::string file = folder.write("stuck.gdl", "(role a)(role b)(init s)(legal a go)");
  EXPECT_EQ(json_lines(run_orchard({"walk", file, "--json"}).out).back()["stuck"], Json{"b"});
}

TEST(Walk, ShowsPerceptsAndDrawsPositions) {
  const TemporaryFolder folder;
  const std::string file =
      folder.write("hear.gdl",
                   "(role a)(role b)(init s)(next t)(<= terminal (true t))(goal a 1)(goal b 2)"
                   "(<= (legal ?r (say hi)) (role ?r)) (<= (sees a (heard ?n)) (does b (say ?n)))");
  const auto lines = json_lines(expect_done({"walk", file, "--json", "--quiet"}).out);
  ASSERT_EQ(lines.size(), 2u);
  EXPECT_FALSE(lines[0].contains("sees"));
  EXPECT_EQ(lines[1]["sees"], (Json{{"a", {"(heard hi)"}}, {"b", Json::array()}}));
  const auto text = expect_done({"walk", file, "--quiet"}).out;
  EXPECT_THAT(text, HasSubstr("b plays (say hi)"));
  EXPECT_THAT(text, HasSubstr("a sees (heard hi)"));
}

TEST(Census, CountsByDepth) {
  const Json census = Json::parse(expect_done({"census", small, "--json", "--sequences"}).out);
  EXPECT_EQ(census["complete"], true);
  EXPECT_EQ(census["positions"], 2545);
  EXPECT_EQ(census["depths"][0],
            (Json{{"depth", 0}, {"positions", 1}, {"terminal", 0}, {"sequences", 1}}));
  EXPECT_EQ(census["depths"].back()["terminal"], 115);
  EXPECT_TRUE(census["seconds"].is_number());
  const auto text = expect_done({"census", small, "--depth", "2"}).out;
  EXPECT_THAT(text, HasSubstr("down to the depth asked for"));
}

TEST(Census, GivesLargeCountsAsText) {
  const TemporaryFolder folder;
  const std::string file = folder.write("wide.gdl",
                                        "(role r)(init s)(next s)(goal r 1)(<= terminal (true "
                                        "x))(legal r a)(legal r b)(legal r c)(legal r d)");
  const Json census = Json::parse(
      expect_done({"census", file, "--depth", "40", "--sequences", "--json", "--quiet"}).out);
  EXPECT_EQ(census["depths"][26]["sequences"], 4503599627370496);  // 4^26 = 2^52
  EXPECT_EQ(census["depths"][40]["sequences"], "1208925819614629174706176");
  EXPECT_FALSE(
      Json::parse(
          expect_done({"census", file, "--depth", "1", "--json", "--quiet"}).out)["depths"][0]
          .contains("sequences"));
}

TEST(Census, EndsWithItsBudgetsHonestly) {
  const std::string large = game_path("silo");
  for (const std::vector<std::string>& budget : {std::vector<std::string>{"--positions", "3000"},
                                                 {"--memory", "2M"},
                                                 {"--seconds", "0.05"}}) {
    auto call = std::vector<std::string>{"census", large, "--json"};
    call.insert(call.end(), budget.begin(), budget.end());
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 3) << budget[0];
    const Json census = Json::parse(result.out);
    EXPECT_EQ(census["complete"], false);
    EXPECT_EQ(census["stopped"], budget[0] == "--seconds" ? "time" : budget[0].substr(2));
    call.erase(call.begin() + 2);
    EXPECT_THAT(run_orchard(call).out, HasSubstr("ended by " + budget[0]));
  }
}

TEST(Playouts, SumUpRandomGames) {
  const auto call =
      std::vector<std::string>{"playouts", small, "--games", "200", "--threads", "2", "--json"};
  const Json result = Json::parse(expect_done(call).out);
  EXPECT_EQ(result["playouts"], 200);
  EXPECT_EQ(result["unfinished"], 0);
  EXPECT_EQ(result["stuck"], 0);
  int games = 0;
  for (const Json& outcome : result["outcomes"]) {
    games += outcome["count"].get<int>();
    EXPECT_EQ(outcome["goals"].size(), 2u);
  }
  EXPECT_EQ(games, 200);
  int histogram = 0;
  for (const Json& bar : result["length"]["histogram"]) histogram += bar["games"].get<int>();
  EXPECT_EQ(histogram, 200);
  EXPECT_EQ(result["length"]["max"], 9);
  EXPECT_GT(result["branching"]["east"], 1.0);
  const auto text = expect_done({"playouts", small, "--seed", "5"}).out;
  EXPECT_THAT(text, StartsWith("1000 random games, "));
  EXPECT_THAT(text, HasSubstr("east  50   west  50"));
}

// Two flights, each to the left or to the right, in a term that grows: no circuit of the rules
// alone.
TEST(Playouts, WithoutACircuitOfTheRulesMakeOneOfAllPositions) {
  const TemporaryFolder folder;
  const std::string rules =
      "(role bee) (init (way start)) (init (ply 0)) (after 0 1) (after 1 2)\n"
      "(<= (legal bee (fly ?n)) (wings ?n)) (wings left) (wings right)\n"
      "(<= (next (way (then ?way ?n))) (true (way ?way)) (does bee (fly ?n)))\n"
      "(<= (next (ply ?m)) (true (ply ?n)) (after ?n ?m)) (<= terminal (true (ply 2)))\n"
      "(<= (goal bee 100) (true (way (then (then start left) left))))\n"
      "(<= (goal bee 0) (not (true (way (then (then start left) left)))))\n";
  const std::string few = folder.write("few.gdl", rules);
  const auto made = run_orchard({"playouts", few, "--games", "4000", "--json"});
  EXPECT_THAT(made.err, HasSubstr("one was made of all positions that can be reached"));
  const auto by_evaluator =
      run_orchard({"playouts", few, "--games", "4000", "--json", "--circuit-memory", "0"});
  EXPECT_EQ(by_evaluator.err, "");
  for (const auto& result : {made, by_evaluator}) {
    EXPECT_EQ(result.status, 0);
    const Json played = Json::parse(result.out);
    EXPECT_EQ(played["playouts"], 4000);
    EXPECT_EQ(played["length"]["mean"], 2.0);
    EXPECT_EQ(played["branching"]["bee"], 2.0);
    int both_left = 0;
    for (const Json& outcome : played["outcomes"]) {
      if (outcome["goals"]["bee"] == 100) both_left += outcome["count"].get<int>();
    }
    EXPECT_NEAR(both_left, 1000, 190);  // seven standard deviations
  }
  // Too many positions to make one of them: played by the evaluator, without a word.
  std::string many = rules;
  many.replace(many.find("(true (ply 2))"), 14, "(true (ply 12))");
  for (int n = 2; n < 12; ++n) many += fmt::format("(after {} {})", n, n + 1);
  const auto large =
      run_orchard({"playouts", folder.write("many.gdl", many), "--games", "50", "--json"});
  EXPECT_EQ(large.status, 0) << large.err;
  EXPECT_EQ(large.err, "");
  EXPECT_EQ(Json::parse(large.out)["length"]["mean"], 12.0);
}

TEST(Playouts, TakeSecondsAsTheAmount) {
  EXPECT_EQ(run_orchard({"playouts", small, "--seconds", "0.05"}).status, 0);
  EXPECT_EQ(run_orchard({"playouts", small, "--seconds", "0.05", "--games", "100000000"}).status,
            3);
}

// Two seconds and a half are never enough for the circuit of some twelve million clauses.
TEST(Playouts, KeepHalfOfTheTimeForPlayingWithoutACircuit) {
  const auto result =
      run_orchard({"playouts", game_path("terrace_rays"), "--seconds", "5", "--plies", "5"});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(result.err, HasSubstr("the games are played without one, which is slower"));
  EXPECT_THAT(result.out, HasSubstr("broken off by --plies"));
}

TEST(Playouts, CountGamesBrokenOff) {
  const Json result =
      Json::parse(expect_done({"playouts", small, "--games", "7", "--plies", "3", "--json"}).out);
  EXPECT_EQ(result["unfinished"], 7);
  EXPECT_EQ(result["outcomes"], Json::array());
  EXPECT_THAT(expect_done({"playouts", small, "--games", "7", "--plies", "3"}).out,
              HasSubstr("broken off by --plies"));
}

TEST(Playouts, SayWhenThePositionIsOverAlready) {
  const TemporaryFolder folder;
  const auto result =
      run_orchard({"playouts", small, "--position", folder.write("p", "(position (turn east))")});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("this position is already over: draw (east 50, west 50)"));
}

TEST(Help, DescribesEveryCommandAndOption) {
  const auto all = expect_done({"--help"}).out;
  EXPECT_EQ(expect_done({"help"}).out, all);
  for (const CommandFacts& command : command_table()) {
    const std::string name(command.name);
    EXPECT_THAT(all, HasSubstr("\n  " + name + " "));
    EXPECT_THAT(all, HasSubstr(std::string(command.summary)));
    const auto one = expect_done({name, "--help"}).out;
    EXPECT_EQ(expect_done({"help", name}).out, one);
    // Several are written FILE… in the table, and FILE... in the help.
    EXPECT_THAT(one,
                HasSubstr(std::string(command.arguments.substr(0, command.arguments.find("…")))));
    for (const OptionFacts& option : option_table()) {
      const std::string shown = "--" + std::string(option.name) + " ";
      if (option.belongs_to(command.name)) {
        EXPECT_THAT(one + " ", HasSubstr(shown)) << name;
      }
    }
  }
  EXPECT_THAT(expect_done({"--version"}).out, StartsWith("orchard "));
}

// What is written to begin with can be shown, played, tested and checked as it is.
TEST(New, WritesAGameThatNothingIsWrongWith) {
  const TemporaryFolder folder;
  const std::string name = folder.path("pots");
  const std::string game = name + ".gdl";
  const auto made = expect_done({"new", name});
  for (const char* end : {".gdl", ".cases", ".claims", ".draw"}) {
    EXPECT_THAT(made.out, HasSubstr(name + end + "\n"));
    EXPECT_THAT(read_file(name + end), HasSubstr("pots"));
    EXPECT_THAT(read_file(name + end), Not(HasSubstr("NAME")));
  }
  EXPECT_THAT(expect_done({"show", game}).out, HasSubstr("legal for amber:\n   1 (plant 1 1)"));
  EXPECT_EQ(expect_done({"cases", game}).err, "");
  const auto checked = expect_done({"check", game});
  EXPECT_THAT(checked.out, HasSubstr("no suspicious rules found"));
  EXPECT_THAT(checked.out, Not(HasSubstr("unknown")));
  EXPECT_THAT(expect_done({"format", game}).out, HasSubstr("(role amber)"));
  // With other sizes too.
  expect_done({"check", game, "--set", "rows=2", "--set", "columns=2", "--claims", "none"});

  // Nothing is overwritten, and a name is a name.
  std::ofstream(game) << "; mine\n";
  const auto again = run_orchard({"new", game, "--json"});
  EXPECT_EQ(again.status, 2);
  EXPECT_EQ(Json::parse(again.out)["diagnostics"][0]["code"], "file-exists");
  EXPECT_EQ(read_file(game), "; mine\n");
  EXPECT_EQ(run_orchard({"new", folder.path("two words")}).status, 2);
  EXPECT_EQ(run_orchard({"new", folder.path("none/pots")}).status, 2);
}

}  // namespace
}  // namespace orchard::testing::commands_test
