// The same game in other styles of writing: the same positions, the same verdicts, nothing found in
// the text, a board drawn where one was drawn.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>

#include "orchard/census.hpp"
#include "orchard/picture.hpp"
#include "orchard/review.hpp"
#include "support/files.hpp"
#include "support/rewriting.hpp"

namespace orchard::styles_test {
namespace {

std::map<std::string, Verdict> verdicts_of(const Review& review) {
  std::map<std::string, Verdict> verdicts;
  for (const Answer& answer : review.questions) {
    // Roles may have other names.
    const std::string id = answer.id.substr(0, answer.id.find(':'));
    const auto [known, is_new] = verdicts.try_emplace(id, answer.verdict);
    if (!is_new) known->second = std::max(known->second, answer.verdict);
  }
  return verdicts;
}

std::vector<std::pair<std::uint64_t, std::uint64_t>> counts_of(const Review& review) {
  std::vector<std::pair<std::uint64_t, std::uint64_t>> counts;
  for (const ReviewDepth& depth : review.depths) counts.emplace_back(depth.positions, depth.ends);
  return counts;
}

class Styles : public ::testing::TestWithParam<std::string> {};

TEST_P(Styles, MakeNoDifference) {
  const std::string text = testing::read_file(testing::source_path(GetParam()));
  const Game game = Game::from_text(text).value();
  ReviewOptions options;
  options.budget.positions = 100'000;
  const Review review = review_rules(game, options).value();
  ASSERT_TRUE(review.complete());
  const bool has_board = Picture(game).has_board();
  for (const testing::Rewriting& style : testing::rewritings()) {
    SCOPED_TRACE(style.name);
    std::string rewritten = style.rewrite(text);
    if (rewritten.empty()) continue;
    // What the author allows stays allowed.
    constexpr std::string_view allows = "; orchard: allow ";
    if (const std::size_t at = text.find(allows); at != std::string::npos) {
      rewritten += text.substr(at, text.find('\n', at) - at) + "\n";
    }
    const auto other = Game::from_text(rewritten);
    ASSERT_TRUE(other.ok()) << other.diagnostics().render() << rewritten;
    // Written down, to be measured.
    if (const char* folder = std::getenv("ORCHARD_WRITE_STYLES")) {
      const std::string game_name = GetParam().substr(GetParam().rfind('/') + 1);
      std::ofstream(std::string(folder) + "/" + style.name + "." + game_name) << rewritten;
    }
    EXPECT_EQ(other->findings().render(), "");
    const Review again = review_rules(*other, options).value();
    EXPECT_EQ(counts_of(again), counts_of(review));
    EXPECT_EQ(verdicts_of(again), verdicts_of(review)) << rewritten;
    EXPECT_EQ(Picture(*other).has_board(), has_board) << rewritten;
  }
}

INSTANTIATE_TEST_SUITE_P(Corpus, Styles,
                         ::testing::Values("tests/corpus/baskets.gdl", "tests/corpus/beds.gdl",
                                           "tests/corpus/canals.gdl", "tests/corpus/ferns.gdl",
                                           "tests/corpus/hares.gdl", "tests/corpus/seals.gdl",
                                           "tests/corpus/shelves.gdl", "tests/corpus/turnips.gdl",
                                           "tests/corpus/weave.gdl", "tests/corpus/letters.gdl",
                                           "tests/corpus/meadow.gdl", "tests/corpus/plots.gdl",
                                           "tests/corpus/stiles.gdl", "tests/corpus/sundial.gdl",
                                           "tests/corpus/terraces.gdl", "tests/corpus/vine.gdl",
                                           "games/snails.gdl"),
                         [](const ::testing::TestParamInfo<std::string>& game) {
                           const std::size_t slash = game.param.rfind('/') + 1;
                           return game.param.substr(slash, game.param.size() - slash - 4);
                         });

}  // namespace
}  // namespace orchard::styles_test
