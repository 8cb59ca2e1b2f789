// The tutorial and the pages of the games tell the truth: every file in them is written as they
// say, every command run, and what comes back is what they show.
//
// In a document, a block ```gdl NAME holds a file (```gdl NAME more: lines added to it), a block
// ```console commands after "$ " with what they print. Times stand as "…". The tutorial is followed
// in an empty folder, the other documents in the project's. With ORCHARD_WRITE_DOCUMENTS set in the
// environment the documents are brought up to date instead.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <set>

#include "picture/ruled/drawing_facts.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::documents_test {
namespace {

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) lines.push_back(line);
  return lines;
}

// "…" in place of every number between these words.
std::string without_numbers(std::string text, const std::string& before, const std::string& after) {
  for (std::size_t at = text.find(before); at != std::string::npos;
       at = text.find(before, at + 1)) {
    const std::size_t first = at + before.size();
    const std::size_t end = std::min(text.find_first_not_of("0123456789.", first), text.size());
    if (end > first && text.compare(end, after.size(), after) == 0) {
      text.replace(first, end - first, "…");
    }
  }
  return text;
}

// What differs from run to run is left out.
std::string without_times(const std::string& output) {
  return without_numbers(without_numbers(without_numbers(output, " in ", " s"), " after ", " s"),
                         ": ", " games a second");
}

class Follower {
 public:
  explicit Follower(std::string folder) : folder_(std::move(folder)) {}

  // The document as it should be.
  std::string follow(const std::string& document) {
    const std::vector<std::string> lines = lines_of(document);
    std::string result;
    for (std::size_t i = 0; i < lines.size(); ++i) {
      result += lines[i] + "\n";
      if (!lines[i].starts_with("```") || lines[i] == "```") continue;
      const std::string kind = lines[i].substr(3);
      std::string block;
      for (++i; i < lines.size() && lines[i] != "```"; ++i) block += lines[i] + "\n";
      if (kind == "console") block = run(block);
      if (kind.starts_with("gdl ")) write(kind.substr(4), block);
      result += block + "```\n";
    }
    return result;
  }

 private:
  std::string run(const std::string& block) {
    std::string result;
    for (const std::string& line : lines_of(block)) {
      if (!line.starts_with("$ ")) continue;
      const std::string path = std::filesystem::path(ORCHARD_COMMAND).parent_path().string();
      const std::string script = "cd '" + folder_ + "' && PATH='" + path + "':\"$PATH\" && { " +
                                 line.substr(2) + "; } 2>&1";
      const ProcessResult ran = run_process({"/bin/sh", "-c", script});
      if (!result.empty()) result += "\n";
      result += line + "\n" + without_times(ran.out);
    }
    return result;
  }
  void write(const std::string& words, const std::string& block) {
    const bool more = words.ends_with(" more");
    const std::string name = words.substr(0, words.find(' '));
    std::ofstream(folder_ + "/" + name, more ? std::ios::app : std::ios::trunc) << block;
  }

  std::string folder_;
};

void expect_true_document(const std::string& path, const std::string& folder) {
  const std::string document = read_file(path);
  const std::string followed = Follower(folder).follow(document);
  if (std::getenv("ORCHARD_WRITE_DOCUMENTS") != nullptr) {
    std::ofstream(path) << followed;
    return;
  }
  EXPECT_EQ(lines_of(document), lines_of(followed)) << path;
}

TEST(Documents, TheTutorialCanBeFollowedWordByWord) {
  const TemporaryFolder folder;
  expect_true_document(source_path("docs/TUTORIAL.md"), folder.path("."));
}

TEST(Documents, RulesAreTestedWordByWord) {
  const TemporaryFolder folder;
  expect_true_document(source_path("docs/TESTING.md"), folder.path("."));
}

TEST(Documents, DrawingRulesAreShownAsTheyWork) {
  const TemporaryFolder folder;
  expect_true_document(source_path("docs/DRAWING.md"), folder.path("."));
}

TEST(Documents, TheChaptersOnCheckingTellTheTruth) {
  expect_true_document(source_path("docs/CHECKING.md"), source_path("."));
}

TEST(Documents, EveryDrawingFactIsListed) {
  const std::string page = read_file(source_path("docs/DRAWING.md"));
  for (const picture::DrawingFact& fact : picture::drawing_facts()) {
    const std::string line =
        "| `" + std::string(fact.shape) + "` | " + std::string(fact.meaning) + " |";
    EXPECT_THAT(page, ::testing::HasSubstr(line));
  }
}

TEST(Documents, ThePagesOfTheGamesShowWhatHappens) {
  for (const auto& entry : std::filesystem::directory_iterator(source_path("docs/games"))) {
    expect_true_document(entry.path().string(), source_path("."));
  }
}

TEST(Documents, EveryGameHasAPage) {
  for (const std::string& game : all_demo_games()) {
    const std::string name = std::filesystem::path(game).stem().string();
    // On the pages of espalier and terrace.
    if (name == "espalier_3x3" || name == "terrace_rays") continue;
    EXPECT_TRUE(std::filesystem::exists(source_path("docs/games/" + name + ".md"))) << name;
    EXPECT_THAT(read_file(source_path("docs/games/README.md")), ::testing::HasSubstr(name + ".md"));
  }
}

// The table is printed by scripts/trust; what it says of a game stands on the game's page, too.
TEST(Documents, WhatCasesNoticeIsSaidTheSameEverywhere) {
  const std::string heading = "| game | counted |";
  bool in_table = false;
  int games = 0;
  for (const std::string& line : lines_of(read_file(source_path("docs/TESTING.md")))) {
    if (line.starts_with(heading)) in_table = true;
    if (!in_table || !line.starts_with("| ") || line.starts_with(heading) ||
        line.starts_with("| ---")) {
      continue;
    }
    char name[40] = {};
    int counted = 0, claims = 0, questions = 0, text = 0;
    ASSERT_EQ(std::sscanf(line.c_str(), "| %39s | %d | %d %% | %d %% | %d %%", name, &counted,
                          &claims, &questions, &text),
              5)
        << line;
    EXPECT_GE(claims, 85) << name;
    // The largest have too little time for questions.
    const std::set<std::string> largest = {"skep", "stakes", "terrace"};
    EXPECT_GE(questions, largest.contains(name) ? 85 : 95) << name;
    const std::string page = read_file(source_path("docs/games/" + std::string(name) + ".md"));
    for (const std::string& part :
         {std::to_string(counted) + " count", "notice " + std::to_string(claims) + " %",
          "`check` " + std::to_string(questions) + " %", "text " + std::to_string(text) + " %"}) {
      EXPECT_THAT(page, ::testing::HasSubstr(part)) << name;
    }
    ++games;
  }
  EXPECT_GE(games, 14);
}

}  // namespace
}  // namespace orchard::testing::documents_test
