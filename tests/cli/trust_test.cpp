// `orchard compare` and `orchard cases --coverage`, as they are called.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <git2.h>
#include <nlohmann/json.hpp>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::trust_test {
namespace {

using Json = nlohmann::json;
using testing::game_path;
using ::testing::HasSubstr;
using ::testing::Not;
using testing::run_orchard;
using testing::source_path;
using testing::TemporaryFolder;

std::vector<std::string> with_sizes(std::vector<std::string> words, const std::string& size) {
  for (const char* name : {"rows", "columns"}) {
    words.emplace_back("--set");
    words.push_back(name + ("=" + size));
  }
  return words;
}

TEST(CompareCommand, SaysThatTwoHandsWroteTheSameGame) {
  const std::string other = source_path("games/rewritten/espalier_by_facts.gdl");
  const auto explored = run_orchard(with_sizes({"compare", game_path("espalier"), other}, "3"));
  EXPECT_EQ(explored.status, 0) << explored.err;
  EXPECT_THAT(explored.out, HasSubstr("are the same game: no line of play shows a difference, in "
                                      "all 2545 positions that can be reached\n"));
  const auto proved = run_orchard({"compare", game_path("espalier"), other, "--json"});
  EXPECT_EQ(proved.status, 0);
  const Json document = Json::parse(proved.out);
  EXPECT_EQ(document["verdict"], "same");
  EXPECT_EQ(document["proved"], true);
  const auto undecided = run_orchard(with_sizes(
      {"compare", game_path("espalier"), other, "--positions", "1000", "--seconds", "0.4"}, "12"));
  EXPECT_EQ(undecided.status, 3) << undecided.out;
  EXPECT_THAT(undecided.out, HasSubstr("not decided whether"));
}

TEST(CompareCommand, ShowsTheShortestLineWithBothBoardsAndRules) {
  const std::string other = source_path("games/rewritten/espalier_wrong_edge.gdl");
  const auto found = run_orchard(with_sizes({"compare", game_path("espalier"), other}, "3"));
  EXPECT_EQ(found.status, 1);
  EXPECT_THAT(found.out, HasSubstr("after 7 plies, the shortest line:\n     1   east (tie 1 1)\n"));
  EXPECT_THAT(found.out, HasSubstr("the game is over in "));
  EXPECT_THAT(found.out, HasSubstr("over: east wins (east 100, west 0)"));
  EXPECT_THAT(found.out, HasSubstr("✓ terminal   espalier.gdl:147"));
  EXPECT_THAT(found.out, HasSubstr("✗ terminal   does not hold; one rule could give it\n"));
  const auto quiet =
      run_orchard(with_sizes({"compare", game_path("espalier"), other, "--quiet"}, "3"));
  EXPECT_THAT(quiet.out, Not(HasSubstr("✓")));
  const Json document = Json::parse(
      run_orchard(with_sizes({"compare", game_path("espalier"), other, "--json"}, "3")).out);
  EXPECT_EQ(document["verdict"], "different");
  EXPECT_EQ(document["differences"], Json::parse(R"([{"kind": "end", "in": "first"}])"));
  EXPECT_EQ(document["first"]["line"].size(), 7u);
  EXPECT_EQ(document["second"]["line"].size(), 7u);
}

TEST(CompareCommand, ReadsWhatThingsAreCalled) {
  const TemporaryFolder folder;
  const std::string game = folder.write("a.gdl", R"((role ann) (init a)
      (<= (legal ann (go ?where)) (way ?where)) (way left) (way right)
      (<= (next (at ?where)) (does ann (go ?where))) (<= terminal (not (true a)))
      (<= (goal ann 100) (true (at left))) (<= (goal ann 0) (not (true (at left)))))");
  const std::string other = folder.write("b.gdl", R"((role bea) (init z)
      (<= (legal bea (take ?side now)) (side ?side)) (side left) (side right)
      (<= (next (near ?side)) (does bea (take ?side now))) (<= terminal (not (true z)))
      (<= (goal bea 100) (true (near left))) (<= (goal bea 0) (not (true (near left)))))");
  const std::string names =
      folder.write("names", "(name ann bea)\n(move (go ?where) (take ?where now))\n");
  EXPECT_EQ(run_orchard({"compare", game, other, "--renaming", names}).status, 0);
  const auto roles = run_orchard({"compare", game, other});
  EXPECT_EQ(roles.status, 1);
  EXPECT_THAT(roles.out, HasSubstr("a.gdl has a role ann, which "));
  const std::string half = folder.write("half", "(name ann bea)\n");
  const auto moves = run_orchard({"compare", game, other, "--renaming", half});
  EXPECT_EQ(moves.status, 1);
  EXPECT_THAT(moves.out, HasSubstr("at the start:\n   ann may (go left) in "));
  const std::string bad = folder.write("bad", "(name ann)\n");
  const auto refused = run_orchard({"compare", game, other, "--renaming", bad});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err,
              HasSubstr("bad:1:1: error: this says nothing of what things are called"));
  EXPECT_EQ(run_orchard({"compare", game}).status, 2);
  EXPECT_EQ(run_orchard({"compare", game, folder.path("nowhere.gdl")}).status, 2);
}

// All files of a folder as the first commit of a repository there.
void commit_all(const std::string& folder) {
  git_libgit2_init();
  git_repository* repository = nullptr;
  ASSERT_EQ(git_repository_init(&repository, folder.c_str(), 0), 0);
  git_index* index = nullptr;
  ASSERT_EQ(git_repository_index(&index, repository), 0);
  ASSERT_EQ(git_index_add_all(index, nullptr, 0, nullptr, nullptr), 0);
  git_oid tree_id;
  ASSERT_EQ(git_index_write_tree(&tree_id, index), 0);
  git_tree* tree = nullptr;
  ASSERT_EQ(git_tree_lookup(&tree, repository, &tree_id), 0);
  git_signature* who = nullptr;
  ASSERT_EQ(git_signature_new(&who, "ann", "ann@orchard.example", 1'000'000, 0), 0);
  git_oid commit;
  ASSERT_EQ(
      git_commit_create(&commit, repository, "HEAD", who, who, nullptr, "first", tree, 0, nullptr),
      0);
  git_signature_free(who);
  git_tree_free(tree);
  git_index_free(index);
  git_repository_free(repository);
  git_libgit2_shutdown();
}

TEST(CompareCommand, ComparesWithWhatTheFileWas) {
  const TemporaryFolder folder;
  std::string rules = testing::read_file(game_path("espalier"));
  folder.write("espalier.gdl", rules);
  const std::string game =
      folder.write("small.gdl", "(#let rows 3)\n(#let columns 3)\n(#include \"espalier.gdl\")\n");
  EXPECT_THAT(run_orchard({"compare", game, "--since", "HEAD"}).err,
              HasSubstr("lies in no version-control repository"));
  commit_all(folder.path(""));
  const auto same = run_orchard({"compare", game, "--since", "HEAD"});
  EXPECT_EQ(same.status, 0) << same.err;
  EXPECT_THAT(same.out, HasSubstr("small.gdl at HEAD and "));
  // The included file changes: the smallest squares no longer win.
  const std::string apart = "(rows_apart ?upper ?lower ?distance)\n    (columns_apart";
  rules.replace(
      rules.find(apart), apart.size(),
      "(rows_apart ?upper ?lower ?distance)\n    (one_more 1 ?distance)\n    (columns_apart");
  folder.write("espalier.gdl", rules);
  const auto changed = run_orchard({"compare", game, "--since", "HEAD", "--summary", "--quiet"});
  EXPECT_EQ(changed.status, 1) << changed.err;
  EXPECT_THAT(changed.out, HasSubstr("the game is over in "));
  EXPECT_THAT(changed.out, HasSubstr("   reachable positions      2545 (depth 9) "));
  EXPECT_THAT(changed.out, HasSubstr("   mean goal of east "));
  const Json document =
      Json::parse(run_orchard({"compare", game, "--since", "HEAD", "--summary", "--json"}).out);
  EXPECT_EQ(document["summary"]["first"]["positions"], 2545);
  EXPECT_NE(document["summary"]["second"]["positions"], 2545);
  const auto nowhere = run_orchard({"compare", game, "--since", "nowhere"});
  EXPECT_EQ(nowhere.status, 2);
  EXPECT_THAT(nowhere.err, HasSubstr("has no revision nowhere"));
  const std::string fresh = folder.write("fresh.gdl", "(role ann)\n");
  EXPECT_THAT(run_orchard({"compare", fresh, "--since", "HEAD"}).err,
              HasSubstr("revision HEAD does not have this file"));
  EXPECT_EQ(run_orchard({"compare", game}).status, 2);
  EXPECT_EQ(run_orchard({"compare", game, game, "--since", "HEAD"}).status, 2);
}

TEST(CasesCommand, TellsWhatTheCasesShow) {
  const TemporaryFolder folder;
  const auto shown = run_orchard({"cases", game_path("espalier"), "--coverage"});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.out, HasSubstr("clauses hold in a case\n"));
  // A small file of cases leaves much open, and says what would show it.
  const std::string few =
      folder.write("few.cases", "(case \"start\" (start) (expect (not terminal)))\n");
  const std::string page = folder.path("few.html");
  const auto open = run_orchard({"cases", game_path("espalier_3x3"), "--file", few, "--coverage",
                                 "--verbose", "--report", page});
  EXPECT_EQ(open.status, 0) << open.err;
  EXPECT_THAT(open.out,
              HasSubstr("(counted is what can be so in some of all 2545 positions of play)"));
  EXPECT_THAT(open.out,
              HasSubstr("   espalier.gdl:120: (wins ?gardener)\n      holds in no case\n"));
  EXPECT_THAT(open.out,
              HasSubstr("(case \"line 120: (wins ?gardener) holds\"\n  (start)\n  (moves "));
  EXPECT_THAT(testing::read_file(page), HasSubstr("What its cases show of the rules"));
  const Json document = Json::parse(
      run_orchard({"cases", game_path("espalier_3x3"), "--file", few, "--coverage", "--json"}).out);
  EXPECT_EQ(document["coverage"]["played"], 2545);
  EXPECT_GT(document["coverage"]["missing"].size(), 0u);
  EXPECT_LT(document["coverage"]["clauses_by_cases"], document["coverage"]["clauses_in_play"]);
  const auto page_alone =
      run_orchard({"cases", game_path("espalier_3x3"), "--file", few, "--report", page});
  EXPECT_EQ(page_alone.status, 2);
}

TEST(CasesCommand, TellsWhoNoticesFaults) {
  const auto tried = run_orchard({"cases", game_path("snails"), "--faults", "--sample", "40"});
  EXPECT_EQ(tried.status, 0) << tried.err;
  EXPECT_THAT(tried.out, HasSubstr("\n40 faults on purpose in "));
  EXPECT_THAT(tried.out, HasSubstr("   noticed by the cases "));
  EXPECT_THAT(tried.out, HasSubstr("   or by the text alone "));
  const TemporaryFolder folder;
  const std::string few =
      folder.write("few.cases", "(case \"start\" (start) (expect (not terminal)))\n");
  const auto open = run_orchard({"cases", game_path("snails"), "--faults", "--file", few,
                                 "--claims", "none", "--verbose", "--sample", "60"});
  EXPECT_THAT(open.out, HasSubstr("\nnobody notices:\n   line "));
  EXPECT_THAT(open.out, HasSubstr("\ncases that would notice them:\n\n(case \"line "));
  const Json document = Json::parse(run_orchard({"cases", game_path("snails"), "--faults",
                                                 "--sample", "10", "--json", "--threads", "2"})
                                        .out);
  EXPECT_EQ(document["planted"]["faults"].size(), 10u);
  const auto cut = run_orchard(
      {"cases", game_path("scarecrow"), "--faults", "--seconds", "2", "--sample", "200"});
  EXPECT_EQ(cut.status, 3) << cut.out;
  EXPECT_THAT(cut.out, HasSubstr("(ended by --seconds)"));
}

TEST(CasesCommand, ProposesRepairsAndWritesTheOneAskedFor) {
  const TemporaryFolder folder;
  std::string rules = testing::read_file(game_path("snails"));
  const std::string right = "(goal ?snail 100)";
  const std::size_t at = rules.find(right);
  ASSERT_NE(at, std::string::npos);
  const std::string wrong =
      folder.write("snails.gdl", rules.replace(at, right.size(), "(goal ?snail 0)"));
  folder.write("snails.cases", testing::read_file(source_path("games/snails.cases")));
  const auto proposed = run_orchard({"cases", wrong, "--mend", "--threads", "2"});
  EXPECT_EQ(proposed.status, 1);
  EXPECT_THAT(proposed.out, HasSubstr(" small edits of "));
  EXPECT_THAT(proposed.out, HasSubstr("   1  line "));
  EXPECT_THAT(proposed.out, HasSubstr("0 becomes 100 in (goal ?snail 0)"));
  EXPECT_EQ(testing::read_file(wrong), rules);  // nothing is written unless asked
  EXPECT_EQ(run_orchard({"cases", wrong, "--mend", "--write", "999"}).status, 2);
  EXPECT_EQ(run_orchard({"cases", wrong, "--mend", "--write", "1"}).status, 1);
  EXPECT_EQ(run_orchard({"cases", wrong}).status, 0);
  EXPECT_EQ(run_orchard({"cases", wrong, "--mend"}).status, 2);  // nothing fails now
}

TEST(Check, ShrinksWhatFails) {
  const TemporaryFolder folder;
  const std::string small = folder.path("small.gdl");
  const auto shrunk = run_orchard({"check", source_path("games/faulty/misspelled_content.gdl"),
                                   "--shrink", small, "--fault", "impossible-condition"});
  EXPECT_EQ(shrunk.status, 0) << shrunk.err;
  EXPECT_THAT(shrunk.out, HasSubstr(" forms are left, and impossible-condition fails as before"));
  EXPECT_THAT(run_orchard({"check", small, "--text-only"}).out,
              HasSubstr("[impossible-condition]"));
  const auto nothing = run_orchard({"check", game_path("snails"), "--shrink", small});
  EXPECT_EQ(nothing.status, 2);
  EXPECT_THAT(nothing.err, HasSubstr("nothing fails here"));
  EXPECT_EQ(run_orchard({"check", game_path("snails"), "--fault", "moves"}).status, 2);
}

TEST(Check, WritesWhatFailsAsCases) {
  const TemporaryFolder folder;
  const std::string cases = folder.path("seen.cases");
  const std::string faulty = source_path("games/faulty/draw_never_noticed.gdl");
  EXPECT_EQ(
      run_orchard({"check", faulty, "--cases", cases, "--quiet", "--positions", "20000"}).status,
      1);
  const std::string written = testing::read_file(cases);
  EXPECT_THAT(written, HasSubstr("(case \"moves: "));
  // They show what is so, right or wrong.
  EXPECT_EQ(run_orchard({"cases", faulty, "--file", cases}).status, 0) << written;
}

TEST(Play, AddsTheMovesAsACase) {
  const TemporaryFolder folder;
  const std::string game = folder.write("snails.gdl", testing::read_file(game_path("snails")));
  const auto played = run_orchard(
      {"play", game}, "climb 1\nclimb 2\ncase two steps\ncase\nclimb 1\ncase three steps\nquit\n");
  EXPECT_THAT(played.out, HasSubstr("added to "));
  EXPECT_THAT(played.out, HasSubstr("say what the case shows"));
  const auto run = run_orchard({"cases", game, "--verbose"});
  EXPECT_EQ(run.status, 0) << run.err;
  EXPECT_THAT(run.out, HasSubstr("passed: two steps\npassed: three steps\n"));
}

// Counters in nested terms have no end by the rules, and three rounds by play.
TEST(CasesCommand, WhatPlayReachesIsEnough) {
  const TemporaryFolder folder;
  const std::string game = folder.write("pigeons.gdl", R"((role p) (role q)
      (init (round one)) (init (score p zero)) (init (score q zero))
      (after one two) (after two three) (loft north) (loft south)
      (<= (legal ?r (fly ?l)) (role ?r) (loft ?l))
      (<= (joined ?r) (does ?r (fly ?l)) (does ?o (fly ?l)) (distinct ?r ?o))
      (<= (next (score ?r (up ?n))) (true (score ?r ?n)) (not (joined ?r)))
      (<= (next (score ?r ?n)) (true (score ?r ?n)) (joined ?r))
      (<= (next (round ?m)) (true (round ?n)) (after ?n ?m))
      (<= terminal (true (round three)))
      (<= (goal ?r 100) (true (score ?r (up (up zero)))))
      (<= (goal ?r 50) (true (score ?r (up zero))))
      (<= (goal ?r 0) (true (score ?r zero))))");
  folder.write("pigeons.cases", R"((case "alone scores" (start)
      (moves (joint (p (fly north)) (q (fly south))))
      (expect (true (score p (up zero))) (true (score q (up zero))))))");
  const auto shown = run_orchard({"cases", game, "--coverage", "--faults", "--sample", "40"});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.err, HasSubstr("one was made of all positions that can be reached"));
  EXPECT_THAT(shown.out, HasSubstr("in some of all 6 positions of play"));
  EXPECT_THAT(shown.out, HasSubstr("or by the questions of check"));
}

// Runs in the background while a file changes, and is ended by an interrupt.
TEST(CasesCommand, WatchesFiles) {
  const TemporaryFolder folder;
  const std::string game = folder.write("snails.gdl", testing::read_file(game_path("snails")));
  folder.write("snails.cases", "(case \"start\" (start) (expect (not terminal)))\n");
  const std::string log = folder.path("log");
  const std::string script = "cd " + folder.path("") + R"(
      waits_for() { for i in $(seq 200); do grep -q "$1" log && return; sleep 0.05; done; }
      trap '' INT; (trap - INT; exec )" +
                             std::string(ORCHARD_COMMAND) +
                             R"( cases snails.gdl --watch >log 2>&1) & watcher=$!
      waits_for 'watching for changes'
      echo '(case "start" (start) (expect terminal))' >snails.cases
      waits_for 'fails now; before it passes'
      kill -INT $watcher; wait $watcher; echo "status $?")";
  const auto watched = testing::run_process({"/bin/bash", "-c", script});
  const std::string seen = testing::read_file(log);
  EXPECT_THAT(seen, HasSubstr("1 passed, 0 failed"));
  EXPECT_THAT(seen, HasSubstr("---- snails.cases ----"));
  EXPECT_THAT(seen, HasSubstr("   \"start\" fails now; before it passes\n"));
  EXPECT_EQ(watched.out, "status 1\n") << seen;
}

}  // namespace
}  // namespace orchard::trust_test
