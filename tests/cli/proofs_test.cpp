// Proofs that `check` writes, and what others make of them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>

#include "support/files.hpp"
#include "support/process.hpp"
#include "support/refutation.hpp"

namespace orchard::testing::proofs_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
namespace fs = std::filesystem;

ProcessResult recheck(const std::string& folder, const std::string& solver = "minisat") {
  return run_process({source_path("scripts/recheck"), folder, solver});
}

class Proofs : public ::testing::Test {
 protected:
  // Of a game of which only a few positions are looked at.
  ProcessResult write(const std::string& game, const std::string& folder) {
    return run_orchard(
        {"check", game, "--positions", "300", "--quiet", "--proofs", folder_.path(folder)});
  }
  std::vector<std::string> queries(const std::string& folder) {
    std::vector<std::string> result;
    std::ifstream list(folder_.path(folder + "/queries.txt"));
    for (std::string line; std::getline(list, line);) result.push_back(line);
    return result;
  }
  TemporaryFolder folder_;
};

TEST_F(Proofs, AnotherSolverRefutesEveryQueryOfTenGames) {
  int games = 0;
  for (const char* name : {"espalier", "silo", "cellar", "moles", "pickers", "scarecrow", "snails",
                           "market_day", "sprinklers", "espalier_3x3"}) {
    const auto written = write(game_path(name), name);
    EXPECT_THAT(written.out, HasSubstr("proofs of ")) << name;
    const auto checked = recheck(folder_.path(name));
    EXPECT_EQ(checked.status, 0) << name << checked.out << checked.err;
    EXPECT_THAT(checked.out, HasSubstr(std::to_string(queries(name).size()) + " refuted")) << name;
    ++games;
  }
  EXPECT_GE(games, 10);
}

TEST_F(Proofs, AreProofs) {
  write(game_path("snails"), "proofs");
  ASSERT_GE(queries("proofs").size(), 3u);
  for (const std::string& query : queries("proofs")) {
    const std::string formula = read_file(folder_.path("proofs/" + query + ".cnf"));
    const std::string proof = read_file(folder_.path("proofs/" + query + ".drat"));
    EXPECT_TRUE(is_refutation(formula, proof)) << query;
    // Without the last clause, which says that something excluded shows, there is nothing to
    // refute.
    const std::string without = formula.substr(0, formula.rfind('\n', formula.size() - 2) + 1);
    EXPECT_FALSE(is_refutation(without, proof)) << query;
  }
}

TEST_F(Proofs, InvariantsAreClaimsThatHold) {
  for (const char* name : {"snails", "espalier"}) {
    write(game_path(name), "proofs");
    const auto checked = run_orchard({"check", game_path(name), "--json", "--positions", "3000",
                                      "--claims", folder_.path("proofs/invariants.claims")});
    const auto document = nlohmann::json::parse(checked.out);
    EXPECT_GE(document.at("claims").size(), 10u);
    for (const auto& claim : document.at("claims")) {
      EXPECT_EQ(claim.at("verdict"), "holds") << claim;
    }
  }
}

// Only what is proved is spoken of, claim by claim.
TEST_F(Proofs, AreOfTheAnswersThatAreProved) {
  write(game_path("silo"), "proofs");
  const std::string answers = read_file(folder_.path("proofs/answers.txt"));
  EXPECT_THAT(answers, HasSubstr("two never win at once: "));
  EXPECT_THAT(answers, HasSubstr("no crate hangs in the air: "));
  EXPECT_THAT(answers, Not(HasSubstr("miller can take a corner")));
  EXPECT_THAT(answers, Not(HasSubstr("ends: ")));
}

TEST_F(Proofs, WhatWasBrokenIsRefused) {
  write(game_path("espalier"), "whole");
  ASSERT_EQ(recheck(folder_.path("whole")).status, 0);
  const std::string answer = [&] {
    for (const std::string& query : queries("whole")) {
      if (query.starts_with("answer")) return query;
    }
    return std::string();
  }();
  ASSERT_FALSE(answer.empty());
  int broken = 0;
  const auto refused = [&](const std::string& what,
                           const std::function<void(const std::string&)>& change) {
    const std::string copy = folder_.path("broken");
    fs::remove_all(copy);
    fs::copy(folder_.path("whole"), copy, fs::copy_options::recursive);
    change(copy);
    EXPECT_NE(recheck(copy).status, 0) << what;
    ++broken;
  };
  const auto write_file = [](const std::string& path, const std::string& text) {
    std::ofstream(path, std::ios::trunc) << text;
  };
  for (const std::string& query : {std::string("start"), std::string("step_001"), answer}) {
    // What it refutes is gone, and the count is right again.
    refused(query + " says less", [&](const std::string& folder) {
      const std::string path = folder + "/" + query + ".cnf";
      std::string text = read_file(path);
      text.resize(text.rfind('\n', text.size() - 2) + 1);
      const std::size_t header = text.find("p cnf ");
      const std::size_t count = text.find(' ', header + 6) + 1;
      const std::size_t end = text.find('\n', count);
      text.replace(count, end - count, std::to_string(std::stoi(text.substr(count)) - 1));
      write_file(path, text);
    });
    refused(query + " is cut short", [&](const std::string& folder) {
      const std::string path = folder + "/" + query + ".cnf";
      const std::string text = read_file(path);
      write_file(path, text.substr(0, text.size() * 2 / 3));
    });
    refused(query + " is missing",
            [&](const std::string& folder) { fs::remove(folder + "/" + query + ".cnf"); });
  }
  for (const char* file : {"queries.txt", "answers.txt", "network.aag", "invariants.claims"}) {
    refused(file, [&](const std::string& folder) { fs::remove(folder + "/" + file); });
  }
  EXPECT_GE(broken, 10);
  EXPECT_EQ(recheck(folder_.path("whole"), "no_such_solver").status, 2);
  EXPECT_EQ(recheck(folder_.path("nowhere")).status, 2);
}

TEST_F(Proofs, NothingIsPromisedThatWasNotWritten) {
  // Every position was looked at: nothing had to be proved.
  const auto explored =
      run_orchard({"check", game_path("market_day"), "--quiet", "--proofs", folder_.path("none")});
  EXPECT_THAT(explored.out, HasSubstr("no proof was written"));
  EXPECT_FALSE(fs::exists(folder_.path("none/queries.txt")));
  EXPECT_EQ(run_orchard({"check", game_path("snails"), "--text-only", "--proofs", "x"}).status, 2);
  const auto in_vain = run_orchard({"check", game_path("espalier"), "--quiet", "--positions", "300",
                                    "--seconds", "0.2", "--proofs", folder_.path("none")});
  EXPECT_THAT(in_vain.out, HasSubstr("proof"));
  const std::string file = folder_.write("file", "");
  const auto refused = run_orchard(
      {"check", game_path("espalier"), "--positions", "300", "--proofs", file + "/below"});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err + refused.out, HasSubstr("cannot-write"));
}

}  // namespace
}  // namespace orchard::testing::proofs_test
