// The command where the system lets it down: streams and files that cannot be written, too few
// threads, too little memory or time, signals, other processes, names of strangers.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <pugixml.hpp>

#include "base/file.hpp"
#include "base/option_table.hpp"
#include "orchard/record.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::faults_test {
namespace {

using ::testing::AnyOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

// `orchard` in a line of the shell is the built command.
ProcessResult in_shell(const std::string& line) {
  return run_process({"/bin/bash", "-c", "orchard() { \"" ORCHARD_COMMAND "\" \"$@\"; }; " + line});
}

std::string quoted(const std::string& path) {
  return "'" + path + "'";
}

// Each command in a form that prints something and ends soon.
std::vector<std::string> short_calls(const TemporaryFolder& folder) {
  const std::string game = quoted(game_path("espalier_3x3"));
  std::vector<std::string> calls;
  for (const CommandFacts& command : command_table()) {
    if (command.name == "desk") continue;             // ends when it is interrupted
    if (command.name == "language-server") continue;  // begun by an editor
    if (command.name == "serve") continue;            // ends when it is interrupted
    std::string call = "orchard " + std::string(command.name) + " ";
    if (!command.form.empty())
      call += std::string(command.form.substr(0, command.form.find('|'))) + " ";
    if (command.name == "new") {
      calls.push_back(call + quoted(folder.path("fresh")));
      continue;
    }
    if (command.name == "records") {
      const Game played = Game::load(game_path("espalier_3x3")).value();
      const Match match(played);
      calls.push_back(call + quoted(folder.write("match.jsonl",
                                                 to_json_lines(record_of(match), match))));
      continue;
    }
    call += command.name == "cases" ? quoted(game_path("espalier")) : game;
    if (command.more == "QUESTION") call += " 'not terminal'";
    if (command.more == "FORMULA") call += " terminal";
    if (command.more == "[OTHER]") call += " " + game;
    if (command.name == "series") call += " --games 2";
    if (command.name == "learn") call += " --games 20";
    if (command.name == "playouts") call += " --games 100";
    if (command.name == "play") call += " --seat east=random --seat west=random --pause 0";
    calls.push_back(call);
  }
  return calls;
}

// An address that nobody can read is of no use.
TEST(Faults, WhoseAddressCannotBeWrittenEnds) {
  for (const std::string call : {"desk x.gdl", "serve", "play --join 0"}) {
    const auto result =
        run_process({"/bin/sh", "-c", "exec " ORCHARD_COMMAND " " + call + " > /dev/full"});
    EXPECT_EQ(result.status, 2) << call;
    EXPECT_THAT(result.err, HasSubstr("cannot write the output")) << call;
  }
}

TEST(Faults, ADeskEndsInOrderWhenItIsInterrupted) {
  const TemporaryFolder folder;
  const std::string out = folder.path("out");
  const auto result =
      run_process({"/bin/sh", "-c",
                   ORCHARD_COMMAND " desk x.gdl > " + out +
                       " & desk=$!; "
                       "for i in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20; do "
                       "grep -q http " +
                       out + " && break; sleep 0.2; done; kill -INT $desk; wait $desk"});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_THAT(read_file(out), HasSubstr("http://127.0.0.1:"));
}

TEST(Faults, OutputThatCannotBeWrittenIsTold) {
  const TemporaryFolder folder;
  for (const std::string& call : short_calls(folder)) {
    SCOPED_TRACE(call);
    for (const std::string to : {"> /dev/full", ">&-"}) {
      for (const char* kind : {".gdl", ".cases", ".claims", ".draw"}) {
        std::filesystem::remove(folder.path("fresh") + kind);
      }
      const auto result = in_shell(call + " " + to);
      EXPECT_EQ(result.status, 2) << to << result.err;
      EXPECT_THAT(result.err, HasSubstr("cannot write the output")) << to;
    }
  }
}

TEST(Faults, WithoutStandardErrorTheAnswerIsTheSame) {
  const TemporaryFolder folder;
  for (const std::string& call : short_calls(folder)) {
    SCOPED_TRACE(call);
    if (call.starts_with("orchard new")) continue;  // the second time the files are there
    const auto usual = in_shell(call);
    for (const std::string to : {"2> /dev/full", "2>&-"}) {
      const auto result = in_shell(call + " " + to);
      EXPECT_EQ(result.status, usual.status) << to;
      const auto lines = [](const std::string& text) { return std::ranges::count(text, '\n'); };
      EXPECT_EQ(lines(result.out), lines(usual.out)) << to;
    }
  }
}

TEST(Faults, FilesThatCannotBeWrittenAreToldBeforeTheWork) {
  const TemporaryFolder folder;
  const std::string nowhere = folder.path("nowhere/file");
  const std::string game = game_path("espalier_3x3");
  const std::vector<std::vector<std::string>> calls{
      {"solve", game, "--keep", nowhere},
      {"check", game, "--report", nowhere},
      {"check", game, "--sarif", nowhere},
      {"series", game, "--games", "2", "--svg", nowhere},
      {"series", game, "--games", "2", "--csv", nowhere},
      {"learn", game, "--games", "20", "--table", nowhere},
      {"show", game, "--png", nowhere},
      {"why", game, "not terminal", "--dot", nowhere},
      {"cases", game_path("espalier"), "--junit", nowhere},
      {"export", "rules", game, "--output", nowhere},
      {"format", game, "--output", nowhere},
      {"census", game, "--checkpoint", "/dev/null/folder"},
  };
  for (const auto& call : calls) {
    SCOPED_TRACE(call.front());
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 2);
    EXPECT_THAT(result.err, HasSubstr("[cannot-write]"));
    EXPECT_THAT(result.out, IsEmpty());
  }
}

TEST(Faults, AFileThatFailsLaterTakesNoAnswerAway) {
  const std::string game = game_path("espalier_3x3");
  const std::vector<std::vector<std::string>> calls{
      {"solve", game, "--keep", "/dev/full"},
      {"series", game, "--games", "2", "--csv", "/dev/full"},
      {"learn", game, "--games", "20", "--svg", "/dev/full"},
      {"show", game, "--svg", "/dev/full"},
      {"why", game, "not terminal", "--dot", "/dev/full"},
      {"cases", game_path("espalier"), "--junit", "/dev/full"},
  };
  for (auto call : calls) {
    SCOPED_TRACE(call.front());
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 3);
    EXPECT_THAT(result.err, HasSubstr("/dev/full: error: cannot write the file"));
    call.resize(call.size() - 2);
    // Times aside, it is what is printed without the file.
    const std::string usual = run_orchard(call).out;
    EXPECT_EQ(result.out.substr(0, 5), usual.substr(0, 5));
    EXPECT_EQ(std::ranges::count(result.out, '\n'), std::ranges::count(usual, '\n'));
  }
  // What a check found stays its status.
  const auto checked = run_orchard(
      {"check", source_path("games/faulty/bare_corners_win.gdl"), "--sarif", "/dev/full"});
  EXPECT_EQ(checked.status, 1);
  EXPECT_THAT(checked.out, Not(IsEmpty()));
}

TEST(Faults, WhatIsAskedForAndNotDoneIsNoSuccess) {
  const std::string game = game_path("espalier_3x3");
  EXPECT_EQ(run_orchard({"check", game, "--text-only", "--report", "/dev/null"}).status, 2);
  EXPECT_EQ(run_orchard({"series", game, "--games", "2", "--store", ""}).status, 2);
}

TEST(Faults, TwoProcessesDoNotWorkOnOneFile) {
  const TemporaryFolder folder;
  const std::string game = game_path("espalier_3x3");
  const std::string table = folder.path("table");
  {
    const auto held = FileLock::take(table, "");
    ASSERT_TRUE(held);
    const auto result = run_orchard({"learn", game, "--games", "20", "--table", table});
    EXPECT_EQ(result.status, 2);
    EXPECT_THAT(result.err, HasSubstr("another process is working on this [in-use]"));
    EXPECT_FALSE(std::filesystem::exists(table));
  }
  EXPECT_EQ(run_orchard({"learn", game, "--games", "20", "--table", table}).status, 0);
  const std::string saved = folder.path("saved");
  std::filesystem::create_directory(saved);
  const auto held = FileLock::take(saved + "/explored", "");
  ASSERT_TRUE(held);
  for (const std::string command : {"census", "check", "solve"}) {
    const auto result = run_orchard({command, game, "--checkpoint", saved});
    EXPECT_EQ(result.status, 2) << command;
    EXPECT_THAT(result.err, HasSubstr("[in-use]"));
  }
}

TEST(Faults, ATableIsSavedWhileItLearns) {
  const TemporaryFolder folder;
  const std::string table = folder.path("table");
  const auto killed = in_shell("timeout -s KILL 1.5 \"" ORCHARD_COMMAND "\" learn " +
                               quoted(game_path("espalier_3x3")) +
                               " --games 1000000000 --save-every 0.1 --table " + quoted(table));
  EXPECT_EQ(killed.status, 128 + 9);
  const auto shown = run_orchard({"learn", game_path("espalier_3x3"), "--table", table, "--show"});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.out, HasSubstr("learnt from"));
  EXPECT_THAT(shown.out, Not(HasSubstr("learnt from 0 games")));
}

TEST(Faults, ThreadsThatCannotBeStartedAreDoneWithout) {
  const std::string game = quoted(game_path("graft")) + " --set rows=3 --set columns=3";
  const auto expected = in_shell("orchard census " + game + " --json");
  // Each thread wants 8 MB of addresses for its stack.
  const auto few = in_shell("ulimit -v 900000; orchard census " + game + " --json --threads 300");
  EXPECT_EQ(few.status, 0) << few.err;
  EXPECT_EQ(few.out.substr(0, few.out.find("\"seconds")),
            expected.out.substr(0, expected.out.find("\"seconds")));
  for (const std::string command :
       {"check", "solve", "series --games 20", "playouts --games 2000", "find"}) {
    const std::string formula = command == "find" ? " terminal" : "";
    const auto result =
        in_shell("ulimit -v 900000; orchard " + command + " " + game + formula + " --threads 300");
    EXPECT_THAT(result.status, AnyOf(0, 1, 3)) << command << result.err;
    EXPECT_THAT(result.out + result.err, Not(IsEmpty()));
  }
}

TEST(Faults, WithoutMemoryAllThreadsEndInOrder) {
  const std::string limit = "ulimit -v 160000; orchard ";
  const std::string game = " " + quoted(game_path("graft")) + " --memory 100G --seconds 20";
  for (const std::string threads : {"1", "2", "4"}) {
    SCOPED_TRACE(threads);
    for (const std::string command : {"census", "check"}) {
      const auto result =
          in_shell(limit + command + game + " --positions 100000000 --threads " + threads);
      EXPECT_EQ(result.status, 3) << command << result.err;
      EXPECT_THAT(result.out + result.err, HasSubstr("memory")) << command;
    }
    // What cannot be kept is searched instead.
    const auto solved = in_shell(limit + "solve" + game + " --seconds 2 --threads " + threads);
    EXPECT_EQ(solved.status, 3) << solved.err;
  }
}

// Of commands that have no limit of time, too.
TEST(Faults, WithoutMemoryShortCommandsSayso) {
  const std::string game = quoted(game_path("skep"));
  for (const std::string command :
       {"show", "why", "walk --plies 5", "export rules", "play --seat sun=random"}) {
    for (const std::string kilobytes : {"100000", "120000", "150000"}) {
      const std::string question = command == "why" ? " terminal" : "";
      const auto result = in_shell("ulimit -v " + kilobytes + "; orchard " + command + " " + game +
                                   question + " < /dev/null");
      EXPECT_LT(result.status, 128) << command << " " << kilobytes << result.err;
      EXPECT_THAT(result.out + result.err, Not(IsEmpty()));
    }
  }
}

TEST(Faults, TwoSignalsAtOnceAreOneRequest) {
  const auto result = in_shell("\"" ORCHARD_COMMAND "\" census " + quoted(game_path("silo")) +
                               " & process=$!; sleep 0.4; kill -TERM $process; kill -INT $process; "
                               "kill -TERM $process; wait $process");
  EXPECT_EQ(result.status, 3);
  EXPECT_THAT(result.out, HasSubstr("interrupted after"));
}

TEST(Faults, ASeriesWithoutEndTakesNoMemoryAhead) {
  const auto result =
      in_shell("ulimit -v 1000000; orchard series " + quoted(game_path("espalier_3x3")) +
               " --games 900000000000 --seconds 0.3");
  EXPECT_EQ(result.status, 3) << result.err;
  EXPECT_THAT(result.out, HasSubstr("ended by --seconds after"));
}

// Five who bid at once, a hundred million ways of doing so at each position.
constexpr std::string_view bidders = R"(
(role ann) (role ben) (role cyn) (role dan) (role eve)
#BIDS
(init start)
(<= (base start)) (<= (base (bid ?r ?n)) (role ?r) (card ?n))
(<= (input ?r (offer ?n)) (role ?r) (card ?n))
(<= (legal ?r (offer ?n)) (role ?r) (card ?n))
(<= (next (bid ?r ?n)) (does ?r (offer ?n)))
(<= terminal (true (bid ann ?n)))
(<= (beaten ?r) (true (bid ?r ?n)) (true (bid ?s ?m)) (less ?n ?m))
(<= (goal ?r 0) (role ?r) (beaten ?r))
(<= (goal ?r 100) (role ?r) (not (beaten ?r)))
)";

std::string bidding(int cards) {
  std::string facts;
  for (int n = 1; n <= cards; ++n) {
    facts += "(card " + std::to_string(n) + ")";
    for (int m = n + 1; m <= cards; ++m) {
      facts += "(less " + std::to_string(n) + " " + std::to_string(m) + ")";
    }
  }
  std::string text(bidders);
  text.replace(text.find("#BIDS"), 5, facts);
  return text;
}

TEST(Faults, JointMovesAreCountedBeforeTheyAreMade) {
  const TemporaryFolder folder;
  const std::string game = quoted(folder.write("bidders.gdl", bidding(40)));
  for (const std::string command : {"check", "solve", "census", "find"}) {
    SCOPED_TRACE(command);
    const std::string formula = command == "find" ? " '(true (bid ann 99))'" : "";
    const auto result = in_shell("ulimit -v 1500000; orchard " + command + " " + game + formula +
                                 " --seconds 2 --memory 100M");
    // What can be proved without looking is no less true.
    EXPECT_THAT(result.status, AnyOf(1, 3)) << result.out << result.err;
    EXPECT_THAT(result.out + result.err, AnyOf(HasSubstr("--memory"), HasSubstr("(memory)"),
                                               HasSubstr("--seconds"), HasSubstr("proved")));
    EXPECT_THAT(result.err, Not(HasSubstr("out of memory")));
  }
  const auto played = in_shell("ulimit -v 1500000; orchard series " + game +
                               " --games 2 --seconds 5 --seat ann=careful --seat ben=greedy");
  EXPECT_THAT(played.status, AnyOf(0, 3)) << played.err;
}

// Joins that take long and give nothing, in a short description: there is no round of five in a
// graph of two sides.
std::string long_joins() {
  std::string text = "(role r) (init start) (legal r wait) (next start) (goal r 50)\n";
  constexpr int nodes = 120;
  for (int a = 0; a < nodes; a += 2) {
    for (int b = 1; b < nodes; b += 2) {
      const std::string from = std::to_string(a);
      const std::string to = std::to_string(b);
      text += "(e " + from + " " + to + ")(e " + to + " " + from + ")";
    }
  }
  return text +
         "\n(<= (next far) (true start) (e ?a ?b) (e ?b ?c) (e ?c ?d) (e ?d ?f) (e ?f ?a))\n"
         "(<= terminal (true far))\n";
}

TEST(Faults, TimeIsObeyedWhileRulesArePrepared) {
  const TemporaryFolder folder;
  const std::string game = folder.write("joins.gdl", long_joins());
  const std::vector<std::vector<std::string>> calls{
      {"check", game, "--seconds", "0.5"},
      {"find", game, "(true far)", "--seconds", "0.5"},
      {"compare", game, folder.write("other.gdl", long_joins() + "(idle word)\n"), "--seconds",
       "0.5"},
      {"census", game, "--seconds", "0.5"},
      {"solve", game, "--seconds", "0.5"},
      {"series", game, "--seconds", "0.5", "--games", "5"},
      {"playouts", game, "--seconds", "0.5", "--games", "5"},
  };
  for (const auto& call : calls) {
    SCOPED_TRACE(call.front());
    std::vector<std::string> words{"/usr/bin/timeout", "-s", "KILL", "10", ORCHARD_COMMAND};
    words.insert(words.end(), call.begin(), call.end());
    const auto result = run_process(words);
    EXPECT_EQ(result.status, 3) << result.out << result.err;
    EXPECT_THAT(result.out + result.err, AnyOf(HasSubstr("seconds"), HasSubstr("time")));
  }
}

TEST(Faults, NamesOfStrangersReachNoTerminalAsTheyAre) {
  const TemporaryFolder folder;
  const std::string strange = "odd\x1b[31m\x1b]0;title\x07\xe9";
  std::ignore = folder.write(strange + ".gdl", read_file(game_path("snails")));
  const std::string game = folder.path(strange + ".gdl");
  const std::string report = folder.path("report.html");
  const std::string junit = folder.path("junit.xml");
  const std::string cases = folder.write("strange.cases", "(case \"one\" (expect (not terminal)))");
  for (const auto& call : std::vector<std::vector<std::string>>{
           {"show", game},
           {"check", game, "--report", report},
           {"series", game, "--games", "2", "--player", "a\x1b[2J=random", "--player", "b=random"},
           {"cases", game, "--file", cases, "--junit", junit},
           {"show", game + "\x1b[2J"}}) {
    SCOPED_TRACE(call.front());
    const auto result = run_orchard(call);
    for (const std::string& text : {result.out, result.err}) {
      EXPECT_THAT(text, Not(HasSubstr("\x1b]")));
      EXPECT_THAT(text, Not(HasSubstr("\x07")));
      EXPECT_THAT(text, Not(HasSubstr("\xe9")));
    }
  }
  pugi::xml_document document;
  EXPECT_TRUE(document.load_file(junit.c_str()));
  EXPECT_THAT(read_file(report), Not(HasSubstr("\x1b")));
}

}  // namespace
}  // namespace orchard::testing::faults_test
