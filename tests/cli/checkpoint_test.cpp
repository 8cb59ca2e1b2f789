// Explorations that are killed at random moments and go on: the same answer as in one go.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <random>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::checkpoint_test {
namespace {

using ::testing::HasSubstr;
using Json = nlohmann::json;

Json without_times(const std::string& text) {
  Json document = Json::parse(text);
  document.erase("seconds");
  return document;
}

// Kills the command after up to `most_seconds`, again and again, and lets it end at last.
ProcessResult killed_and_gone_on_with(std::vector<std::string> command, double most_seconds,
                                      unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> moments(0.05, most_seconds);
  constexpr int most_kills = 12;
  int kills = 0;
  for (int i = 0; i < most_kills; ++i) {
    std::vector<std::string> words{"/usr/bin/timeout", "-s", "KILL",
                                   std::to_string(moments(random)), ORCHARD_COMMAND};
    words.insert(words.end(), command.begin(), command.end());
    const auto result = run_process(words);
    if (result.status != 128 + 9) {
      EXPECT_GT(kills, 0) << "it ended before it was killed";
      return result;
    }
    ++kills;
  }
  return run_orchard(command);
}

TEST(Checkpoint, AKilledCensusGoesOn) {
  const TemporaryFolder folder;
  const std::vector<std::string> census{"census", game_path("silo"), "--depth", "20", "--json"};
  const auto expected = run_orchard(census);
  ASSERT_EQ(expected.status, 0) << expected.err;
  for (const unsigned seed : {1u, 2u}) {
    std::vector<std::string> saved = census;
    const std::string path = folder.path("census" + std::to_string(seed));
    saved.insert(saved.end(),
                 {"--checkpoint", path, "--save-every", "0.05", "--threads", std::to_string(seed)});
    const auto result = killed_and_gone_on_with(saved, 0.6, seed);
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_EQ(without_times(result.out), without_times(expected.out));
    EXPECT_TRUE(std::filesystem::exists(path + "/explored.keys"));
  }
}

TEST(Checkpoint, AKilledCheckGoesOn) {
  const TemporaryFolder folder;
  const std::vector<std::string> check{"check",  game_path("silo"), "--set",  "heights=4", "--set",
                                       "bins=5", "--positions",     "600000", "--json"};
  const auto expected = run_orchard(check);
  std::vector<std::string> saved = check;
  saved.insert(saved.end(), {"--checkpoint", folder.path("check"), "--save-every", "0.05"});
  const auto result = killed_and_gone_on_with(saved, 1.5, 3);
  EXPECT_EQ(result.status, expected.status) << result.err;
  EXPECT_EQ(without_times(result.out), without_times(expected.out));
}

// One position of each class is kept, or all of them, as in what is resumed.
TEST(Checkpoint, ACheckOfClassesGoesOn) {
  const TemporaryFolder folder;
  const std::vector<std::string> check{"check", game_path("moles"), "--json", "--positions"};
  const auto with = [&](const std::string& positions, std::vector<std::string> more) {
    std::vector<std::string> words = check;
    words.push_back(positions);
    words.insert(words.end(), more.begin(), more.end());
    return words;
  };
  const std::string path = folder.path("kept");
  const auto expected = run_orchard(with("700000", {}));
  const auto result = killed_and_gone_on_with(
      with("700000", {"--checkpoint", path, "--save-every", "0.02"}), 0.6, 5);
  EXPECT_EQ(result.status, expected.status) << result.err;
  EXPECT_EQ(without_times(result.out), without_times(expected.out));
  const Json classes = without_times(result.out);
  EXPECT_LT(classes["classes"], classes["positions"]);
  const auto refused =
      run_orchard({"check", game_path("moles"), "--checkpoint", path, "--no-symmetry"});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err, HasSubstr("another choice of --no-symmetry"));
  // Begun without classes; all of few positions are kept.
  const std::string all = folder.path("all");
  ASSERT_EQ(run_orchard(with("1000", {"--checkpoint", all, "--no-symmetry"})).status, 3);
  const Json gone_on = without_times(run_orchard(with("400000", {"--checkpoint", all})).out);
  EXPECT_EQ(gone_on["classes"], gone_on["positions"]);
  EXPECT_EQ(gone_on, without_times(run_orchard(with("400000", {"--no-symmetry"})).out));
}

// What is kept is said when asked for, and has no part in what is counted.
TEST(CensusOnKeys, TellsHowPositionsAreKept) {
  const std::vector<std::string> census{"census", game_path("espalier"), "--depth", "8"};
  const auto with = [&](std::vector<std::string> more) {
    std::vector<std::string> words = census;
    words.insert(words.end(), more.begin(), more.end());
    return run_orchard(words);
  };
  EXPECT_THAT(
      with({"--verbose"}).out,
      HasSubstr("storage: keys of 32 bits, one bit for each possible key, two layers at a time; "));
  EXPECT_THAT(with({"--verbose", "--sequences"}).out,
              HasSubstr("storage: positions as they are; "));
  EXPECT_EQ(with({}).out.find("storage"), std::string::npos);
  const Json expected = without_times(with({"--json"}).out);
  EXPECT_EQ(expected["positions"], 280376);
  EXPECT_EQ(without_times(with({"--json", "--no-symmetry"}).out), expected);
  EXPECT_EQ(without_times(with({"--json", "--threads", "3"}).out), expected);
}

// More positions than memory has room for; files stay behind of neither the folder nor the count.
TEST(CensusOnKeys, GoesIntoFiles) {
  const TemporaryFolder folder;
  const std::vector<std::string> census{"census", game_path("graft"), "--set",   "rows=4",
                                        "--set",  "columns=4",        "--depth", "7"};
  const auto with = [&](std::vector<std::string> more) {
    more.insert(more.begin(), census.begin(), census.end());
    return run_orchard(more);
  };
  EXPECT_EQ(with({"--memory", "4M"}).status, 3);
  const auto kept = with({"--memory", "4M", "--files", folder.path("keys"), "--verbose"});
  EXPECT_EQ(kept.status, 0) << kept.err;
  EXPECT_THAT(kept.out, HasSubstr("  all         1617116             0\n"));
  EXPECT_THAT(kept.out, HasSubstr("in coded runs, partly in files, all layers; "));
  EXPECT_THAT(kept.out,
              ::testing::ContainsRegex("at most [0-9.]+ bytes a position, and [0-9.]+ in files"));
  EXPECT_TRUE(std::filesystem::is_empty(folder.path("keys")));
  const auto nowhere = with({"--memory", "4M", "--files", folder.write("file", "")});
  EXPECT_EQ(nowhere.status, 2);
  EXPECT_THAT(nowhere.err, HasSubstr("keys cannot be kept there: Not a directory [cannot-write]"));
  EXPECT_THAT(nowhere.err, HasSubstr("remedy: name a folder with more room"));
}

TEST(Checkpoint, ABudgetThatEndedIsGoneOnFrom) {
  const TemporaryFolder folder;
  const std::string path = folder.path("kept");
  const std::vector<std::string> census{"census", game_path("silo"), "--set", "heights=4",
                                        "--json", "--checkpoint",    path};
  std::vector<std::string> few = census;
  few.insert(few.end(), {"--positions", "200000"});
  const auto broken_off = run_orchard(few);
  EXPECT_EQ(broken_off.status, 3);
  // Nothing deeper than what is asked for is counted, though more is known.
  const std::size_t depths = Json::parse(broken_off.out)["depths"].size();
  for (const std::size_t depth : {depths - 3, depths - 1, depths}) {
    std::vector<std::string> shallow{
        "census",  game_path("silo"),    "--set", "heights=4", "--json",
        "--depth", std::to_string(depth)};
    const Json expected = without_times(run_orchard(shallow).out);
    shallow.insert(shallow.end(), {"--checkpoint", path});
    EXPECT_EQ(without_times(run_orchard(shallow).out), expected) << depth;
  }
  const auto whole = run_orchard(census);
  EXPECT_EQ(whole.status, 0);
  const Json document = Json::parse(whole.out);
  EXPECT_EQ(document["positions"], 1185864);
  EXPECT_EQ(document["complete"], true);
  EXPECT_EQ(without_times(run_orchard(census).out), without_times(whole.out));  // at once
}

TEST(Checkpoint, WhatDoesNotFitIsRefused) {
  const TemporaryFolder folder;
  const std::string path = folder.path("kept");
  const std::vector<std::string> find{"find", game_path("espalier_3x3"), "(terminal)",
                                      "--checkpoint", path};
  ASSERT_EQ(run_orchard(find).status, 0);
  const std::string file = path + "/explored.space";
  ASSERT_TRUE(std::filesystem::exists(file));
  auto other = find;
  other[1] = game_path("snails");
  const auto refused = run_orchard(other);
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err, HasSubstr("belongs to other rules"));
  EXPECT_THAT(refused.err, HasSubstr("remedy: name another one"));
  std::string bytes = read_file(file);
  bytes[bytes.size() / 2] = static_cast<char>(bytes[bytes.size() / 2] ^ 1);
  folder.write("kept/explored.space", bytes);
  const auto damaged = run_orchard(find);
  EXPECT_EQ(damaged.status, 2);
  EXPECT_THAT(damaged.err, HasSubstr("is damaged"));
  for (const std::size_t length : {std::size_t{0}, std::size_t{10}, bytes.size() - 3}) {
    folder.write("kept/explored.space", bytes.substr(0, length));
    EXPECT_EQ(run_orchard(find).status, 2) << length;
  }
  const auto nowhere = run_orchard({"census", game_path("silo"), "--depth", "14", "--checkpoint",
                                    folder.write("a_file", "no folder")});
  EXPECT_EQ(nowhere.status, 2);
  EXPECT_THAT(nowhere.err, HasSubstr("cannot"));
  // Its positions are terms that grow: there is no circuit for them.
  const auto without_circuit = run_orchard(
      {"census",
       folder.write(
           "grows.gdl",
           "(role bee) (init (song end)) (legal bee (hum low)) (legal bee (hum high))\n"
           "(<= (next (song (then ?tone ?song))) (true (song ?song)) (does bee (hum ?tone)))\n"
           "(<= terminal (true (song none)))\n(goal bee 100)\n"),
       "--checkpoint", folder.path("x"), "--sequences"});
  EXPECT_EQ(without_circuit.status, 2);
  EXPECT_THAT(without_circuit.err, HasSubstr("a census of this game cannot be saved"));
}

// Sequences are counted on positions as they are.
TEST(Checkpoint, AKilledCensusOfSequencesGoesOn) {
  const TemporaryFolder folder;
  const std::vector<std::string> census{"census", game_path("silo"), "--depth",
                                        "15",     "--sequences",     "--json"};
  const auto expected = run_orchard(census);
  ASSERT_EQ(expected.status, 0) << expected.err;
  std::vector<std::string> saved = census;
  saved.insert(saved.end(), {"--checkpoint", folder.path("kept"), "--save-every", "0.02"});
  const auto result = killed_and_gone_on_with(saved, 0.5, 4);
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_EQ(without_times(result.out), without_times(expected.out));
  EXPECT_TRUE(std::filesystem::exists(folder.path("kept") + "/explored.positions"));
}

// Interrupted, not killed: at once, before it is clear whether classes are kept, and later.
TEST(Checkpoint, AnInterruptedCheckSaysTheSameInTheEnd) {
  const TemporaryFolder folder;
  const std::vector<std::string> check{
      "check", game_path("espalier"), "--positions", "400000", "--claims", "none", "--json"};
  const auto expected = run_orchard(check);
  std::vector<std::string> saved = check;
  saved.insert(saved.end(), {"--checkpoint", folder.path("saved"), "--save-every", "0.05"});
  for (const std::string after : {"0.1", "0.25", "0.5"}) {
    std::vector<std::string> words{"/usr/bin/timeout", "-s", "INT", after, ORCHARD_COMMAND};
    words.insert(words.end(), saved.begin(), saved.end());
    const auto interrupted = run_process(words);
    EXPECT_NE(interrupted.out + interrupted.err, "");
  }
  const auto result = run_orchard(saved);
  EXPECT_EQ(result.status, expected.status) << result.err;
  EXPECT_EQ(without_times(result.out), without_times(expected.out));
}

}  // namespace
}  // namespace orchard::testing::checkpoint_test
