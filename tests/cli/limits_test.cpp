// Where a limit is met, every command says so, and none gives an answer about nothing.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>

#include "base/option_table.hpp"
#include "orchard/record.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::limits_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

// Steps are counted in nested terms, without end; `base` says how far they can matter. The game
// ends where a snail has taken two and something else holds.
std::string with_end(const std::string& condition) {
  return R"(
(role snail)
(base (steps zero)) (base (steps (one_more zero))) (base (steps (one_more (one_more zero))))
(<= (base (at ?square)) (square ?square))
(square 1) (square 2) (square 3) (after 1 2) (after 2 3)
(init (steps zero)) (init (at 1))
(<= (input snail crawl))
(<= (legal snail crawl) (not terminal))
(<= (next (steps (one_more ?n))) (true (steps ?n)))
(<= (next (at ?to)) (true (at ?from)) (after ?from ?to))
(<= (next (at 3)) (true (at 3)))
(<= (goal snail 100) (true (at 3)))
(<= (goal snail 0) (not (true (at 3))))
(<= terminal (true (steps (one_more (one_more zero)))) )" +
         condition + ")\n";
}

// Every command, and how it is called.
std::vector<std::string> call(const CommandFacts& command, const std::string& game,
                              const std::string& cases) {
  std::vector<std::string> words{std::string(command.name)};
  if (!command.form.empty()) words.emplace_back(command.form.substr(0, command.form.find('|')));
  words.push_back(game);
  if (command.more == "QUESTION") words.emplace_back("terminal");
  if (command.more == "FORMULA") words.emplace_back("terminal");
  if (command.more == "[OTHER]") words.push_back(game);
  if (command.name == "cases") {
    words.insert(words.end(), {"--file", cases});
  }
  if (command.name == "play") {
    for (const char* seat : {"east=random", "west=random"}) {
      words.insert(words.end(), {"--seat", seat});
    }
  }
  return words;
}

class Limits : public ::testing::Test {
 protected:
  static ProcessResult run(std::vector<std::string> words, bool limited) {
    if (limited) words.insert(words.end(), {"--circuit-memory", "0"});
    return run_orchard(words);
  }
  TemporaryFolder folder_;
  const std::string espalier_ = game_path("espalier_3x3");
  const std::string cases_ = folder_.write(
      "own.cases", "(case \"begun\" (start) (expect (legal east (tie 1 1)) (not terminal)))");
  const std::string record_ = folder_.write("match.jsonl", [this] {
    const Match match(Game::load(espalier_).value());
    return to_json_lines(record_of(match), match);
  }());
  const std::string snail_ = folder_.write("snail.gdl", with_end("(true (at 1))"));
};

TEST_F(Limits, EveryCommandAnswersOrSaysWhyNot) {
  // Those that need a circuit; the others answer by the reference evaluator.
  const std::map<std::string, int> unanswered = {{"check", 3}, {"find", 3}, {"export", 3}};
  for (const CommandFacts& command : command_table()) {
    // These read nothing.
    if (command.name == "new" || command.name == "desk" || command.name == "language-server")
      continue;
    if (command.name == "serve") continue;  // answers until it is interrupted
    const auto words = call(command, command.name == "records" ? record_ : espalier_, cases_);
    const auto met = run(words, true);
    const auto status = unanswered.find(std::string(command.name));
    EXPECT_EQ(met.status, status == unanswered.end() ? 0 : status->second)
        << command.name << ": " << met.err;
    if (status == unanswered.end()) continue;
    EXPECT_THAT(met.out + met.err, HasSubstr("take more than the 0 MB that it may"))
        << command.name;
    EXPECT_THAT(met.out + met.err, HasSubstr("raise --circuit-memory")) << command.name;
  }
}

TEST_F(Limits, TimeForTheCircuitIsBoundedToo) {
  const auto exported = run_orchard({"export", "stats", espalier_, "--circuit-seconds", "0"});
  EXPECT_EQ(exported.status, 3);
  EXPECT_THAT(exported.err, HasSubstr("making the circuit took more than 0 s [too-slow]"));
  EXPECT_THAT(exported.err, HasSubstr("raise --circuit-seconds"));
  // Without it, play goes on.
  EXPECT_EQ(run_orchard({"walk", espalier_, "--circuit-seconds", "0"}).status, 0);
}

TEST_F(Limits, WhatIsAnsweredWithoutACircuitIsTheSame) {
  for (const char* command : {"show", "census", "walk", "why", "cases", "solve"}) {
    for (const CommandFacts& facts : command_table()) {
      if (facts.name != command) continue;
      auto words = call(facts, espalier_, cases_);
      words.emplace_back("--quiet");
      if (std::string_view(command) == "census") words.insert(words.end(), {"--depth", "5"});
      const auto with = run(words, false);
      const auto without = run(words, true);
      EXPECT_EQ(with.status, 0);
      const auto counts = [](const std::string& text) { return text.substr(0, text.find(" in ")); };
      EXPECT_EQ(counts(with.out), counts(without.out)) << command;
    }
  }
}

// Steps counted in nested terms have no end by the rules, and two by play.
TEST_F(Limits, WhatPlayReachesMakesACircuit) {
  const std::string ends = folder_.write("ends.gdl", with_end("(true (at 3))"));
  const auto checked = run({"check", ends, "--json"}, false);
  EXPECT_LE(checked.status, 1) << checked.out;  // it is told that a condition excludes nothing
  EXPECT_THAT(checked.err, HasSubstr("one was made of all positions that can be reached"));
  const auto document = nlohmann::json::parse(checked.out);
  EXPECT_TRUE(document.at("complete").get<bool>());
  EXPECT_EQ(document.at("positions"), 3);
  // No more than that is foreseen: three counts and three squares.
  const auto stats = run({"export", "stats", ends, "--json"}, false);
  EXPECT_EQ(nlohmann::json::parse(stats.out).at("fluents"), 6) << stats.out;
  const auto solved = run({"solve", ends}, false);
  EXPECT_EQ(solved.status, 0);
  EXPECT_THAT(solved.out, HasSubstr("snail 100"));
  // A formula has rules of its own, whose circuit is made of the same.
  const auto found = run({"find", ends, "(true (steps (one_more (one_more ?n))))"}, false);
  EXPECT_EQ(found.status, 0) << found.out << found.err;
  EXPECT_THAT(found.out, HasSubstr("after 2 plies, the shortest line"));
}

TEST_F(Limits, ACheckThatAskedNothingIsNoAllClear) {
  // Too little memory; and terms that grow without end, where `base` gives a circuit for playing.
  for (const auto& [game, limited] : {std::pair(espalier_, true), std::pair(snail_, false)}) {
    const std::string page = folder_.path("page.html");
    const std::string sarif = folder_.path("page.sarif");
    const auto text = run({"check", game, "--report", page, "--sarif", sarif}, limited);
    EXPECT_EQ(text.status, 3);
    EXPECT_THAT(text.out, HasSubstr("no question and no claim was answered"));
    EXPECT_THAT(text.out, HasSubstr("too-many-instances"));
    EXPECT_THAT(text.out, HasSubstr("remedy: "));
    EXPECT_THAT(text.out, Not(HasSubstr("positions up to depth")));
    EXPECT_THAT(read_file(page), HasSubstr("No question and no claim was answered"));
    EXPECT_THAT(read_file(page), Not(HasSubstr("every position that can be reached")));
    EXPECT_THAT(read_file(sarif), HasSubstr("too-many-instances"));
    EXPECT_EQ(run({"check", game, "--quiet"}, limited).out.substr(0, 26),
              "only the text was checked:");

    const auto json = run({"check", game, "--json"}, limited);
    EXPECT_EQ(json.status, 3);
    const auto document = nlohmann::json::parse(json.out);
    EXPECT_FALSE(document.at("complete").get<bool>());
    EXPECT_EQ(document.at("not_asked").at(0).at("code"), "too-many-instances");
    EXPECT_TRUE(document.at("questions").empty());
  }
}

TEST_F(Limits, OneThatIsNotMetChangesNothing) {
  const auto words = std::vector<std::string>{"check", espalier_, "--json"};
  auto plain = nlohmann::json::parse(run_orchard(words).out);
  auto raised = words;
  raised.insert(raised.end(), {"--circuit-memory", "1G", "--circuit-seconds", "1000"});
  auto far = nlohmann::json::parse(run_orchard(raised).out);
  plain.erase("seconds");
  far.erase("seconds");
  EXPECT_EQ(plain, far);
}

}  // namespace
}  // namespace orchard::testing::limits_test
