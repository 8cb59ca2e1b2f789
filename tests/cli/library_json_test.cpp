// What the library gives as JSON is what the command prints, whoever wrote the rules.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/json.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::library_json_test {
namespace {

using Json = nlohmann::json;

// Without what differs from one run to the next.
Json document(const std::string& text) {
  Json result = Json::parse(text);
  if (!result.is_object()) return result;
  for (const char* name : {"seconds", "peak_bytes", "peak_file_bytes", "playouts_per_second"})
    result.erase(name);
  return result;
}

class LibraryJson : public ::testing::TestWithParam<std::string> {
 protected:
  // What the command prints, and that it prints something.
  static Json printed(std::vector<std::string> words) {
    words.insert(words.begin() + 1, path());
    words.insert(words.end(), {"--json", "--quiet"});
    const ProcessResult result = run_orchard(words);
    EXPECT_LE(result.status, 1) << result.err;
    const Json printed = document(result.out);
    EXPECT_FALSE(printed.empty());
    return printed;
  }
  static std::string path() { return source_path(GetParam()); }
  const Game game_ = Game::load(path()).value();
};

TEST_P(LibraryJson, OfAReviewIsWhatCheckPrints) {
  const Json all = printed({"check", "--claims", "none"});
  Json expected = all;
  expected.erase("diagnostics");
  EXPECT_EQ(document(to_json(game_, review_rules(game_).value())), expected);
  EXPECT_EQ(document(to_json(game_.findings())).size(), all.at("diagnostics").size());
}

TEST_P(LibraryJson, OfACensusIsWhatCensusPrints) {
  EXPECT_EQ(document(to_json(take_census(game_).value())), printed({"census"}));
}

TEST_P(LibraryJson, OfAPositionIsWhatShowPrints) {
  const Json shown = printed({"show"});
  const Json own = document(to_json(game_, game_.initial(), 0));
  for (const auto& [name, value] : own.items()) {
    EXPECT_EQ(shown.at(name), value) << name;
  }
}

TEST_P(LibraryJson, OfASearchIsWhatFindPrints) {
  EXPECT_EQ(document(to_json(game_, find_position(game_, "terminal").value())),
            printed({"find", "terminal"}));
}

TEST_P(LibraryJson, OfAQuestionIsWhatWhyPrints) {
  const Question question = Question::parse(game_, "terminal").value();
  const Explanation explanation = why(game_, {game_.initial()}, question).value();
  EXPECT_EQ(document(to_json(question, explanation)), printed({"why", "terminal"}));
}

TEST_P(LibraryJson, OfRandomGamesIsWhatPlayoutsPrints) {
  PlayoutOptions options;
  options.games = 300;
  options.seed = 7;
  EXPECT_EQ(document(to_json(game_, run_playouts(game_, options).value())),
            printed({"playouts", "--games", "300", "--seed", "7"}));
}

INSTANTIATE_TEST_SUITE_P(Games, LibraryJson,
                         ::testing::Values("games/snails.gdl", "games/faulty/two_winners.gdl",
                                           "tests/corpus/ferns.gdl", "tests/corpus/letters.gdl"),
                         [](const auto& instance) {
                           const std::string path = instance.param;
                           const std::size_t from = path.rfind('/') + 1;
                           return path.substr(from, path.rfind('.') - from);
                         });

}  // namespace
}  // namespace orchard::testing::library_json_test
