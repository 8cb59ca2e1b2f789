// Every command on descriptions in other styles than the demo games.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::corpus_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using Json = nlohmann::json;

TEST(Corpus, IsShownPlayedCountedAndExported) {
  ASSERT_GE(corpus_games().size(), 3u);
  for (const std::string& game : corpus_games()) {
    SCOPED_TRACE(game);
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"show", game, "--after", "4"},
                                               {"walk", game, "--games", "2"},
                                               {"playouts", game, "--games", "500"},
                                               {"census", game},
                                               {"solve", game},
                                               {"export", "stats", game},
                                               {"format", game}}) {
      const ProcessResult ran = run_orchard(call);
      EXPECT_EQ(ran.status, 0) << call[0] << ": " << ran.err;
    }
    // With the circuit and without: the same counts.
    const Json with = Json::parse(run_orchard({"census", game, "--json"}).out);
    const Json without =
        Json::parse(run_orchard({"census", game, "--json", "--circuit-memory", "0"}).out);
    EXPECT_EQ(with["depths"], without["depths"]);
  }
}

TEST(Corpus, IsCheckedToTheEnd) {
  for (const std::string& game : corpus_games()) {
    SCOPED_TRACE(game);
    const ProcessResult checked = run_orchard({"check", game, "--json"});
    EXPECT_LE(checked.status, 1) << checked.err;
    const Json document = Json::parse(checked.out);
    EXPECT_TRUE(document["diagnostics"].empty());
    EXPECT_TRUE(document["complete"].get<bool>());
    for (const Json& question : document["questions"]) EXPECT_NE(question["verdict"], "unknown");
  }
}

}  // namespace
}  // namespace orchard::testing::corpus_test
