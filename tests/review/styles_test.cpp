// The same game in other styles of writing: the same positions, the same verdicts, nothing found in
// the text, a board drawn where one was drawn.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>

#include "orchard/census.hpp"
#include "orchard/circuit.hpp"
#include "orchard/compare.hpp"
#include "orchard/picture.hpp"
#include "orchard/review.hpp"
#include "support/files.hpp"
#include "support/rewriting.hpp"

namespace orchard::styles_test {
namespace {

// Which fact stands in the way of more is a matter of how facts are told.
std::string ways_of(const Review& review) {
  for (const Answer& answer : review.questions) {
    const std::string text = answer.evidence.text();
    if (answer.id == "symmetry" && text.starts_with("the same"))
      return text.substr(0, text.find(';'));
  }
  return "one way";
}

// Spelling out what becomes of each content writes rules that never take part: rightly told.
bool spells_out(const testing::Rewriting& style) {
  return style.name == "bare not told" || style.name == "contents apart";
}

std::string findings_of(const Game& game, const testing::Rewriting& style) {
  Diagnostics findings;
  for (const Diagnostic& finding : game.findings()) {
    if (!spells_out(style) || finding.code != "impossible-condition") findings.add(finding);
  }
  return findings.render();
}

std::map<std::string, Verdict> verdicts_of(const Review& review, const testing::Rewriting& style) {
  std::map<std::string, Verdict> verdicts;
  for (const Answer& answer : review.questions) {
    if (answer.id == "symmetry" || (spells_out(style) && answer.id == "dead")) continue;
    // Roles may have other names.
    const std::string id = answer.id.substr(0, answer.id.find(':'));
    const auto [known, is_new] = verdicts.try_emplace(id, answer.verdict);
    if (!is_new) known->second = std::max(known->second, answer.verdict);
  }
  return verdicts;
}

// Percepts that name moves, and terms within moves, are turned round too, which no pattern says.
bool has_turnable_moves(const Game& game) {
  if (game.has_hidden_information()) return false;
  for (const Role& role : game.roles()) {
    for (const Move& move : game.legal(game.initial(), role)) {
      const std::vector<Term> arguments = move.term().arguments();
      if (std::ranges::any_of(arguments, [](const Term& term) { return term.arity() > 0; })) {
        return false;
      }
    }
  }
  return true;
}

std::vector<std::pair<std::uint64_t, std::uint64_t>> counts_of(const Review& review) {
  std::vector<std::pair<std::uint64_t, std::uint64_t>> counts;
  for (const ReviewDepth& depth : review.depths) counts.emplace_back(depth.positions, depth.ends);
  return counts;
}

class Styles : public ::testing::TestWithParam<std::string> {
 protected:
  // Games that are drawn as a board, and not so in this style.
  static bool loses_its_board(const std::string& style) {
    const std::string game = GetParam().substr(GetParam().rfind('/') + 1);
    const auto is = [&](const char* in_style, const char* name) {
      return style == in_style && game == name;
    };
    // The order of places is told by the numbers in their names alone; a track whose order is told
    // in sums alone; a place behind its content; strings by name, of which not all are told.
    return is("other names", "dew.gdl") || is("other names", "pruning.gdl") ||
           is("facts spelt out", "kites.gdl") || is("arguments turned", "drying.gdl") ||
           is("bare not told", "drying.gdl");
  }
};

TEST_P(Styles, MakeNoDifference) {
  const std::string text = testing::read_file(testing::source_path(GetParam()));
  const Game game = with_reached_circuit(Game::from_text(text).value(), {}).value();
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
    const auto read = Game::from_text(rewritten);
    ASSERT_TRUE(read.ok()) << read.diagnostics().render() << rewritten;
    const auto other = with_reached_circuit(*read, {});
    ASSERT_TRUE(other.ok()) << other.diagnostics().render() << rewritten;
    // Written down, to be measured.
    if (const char* folder = std::getenv("ORCHARD_WRITE_STYLES")) {
      const std::string game_name = GetParam().substr(GetParam().rfind('/') + 1);
      std::ofstream(std::string(folder) + "/" + style.name + "." + game_name) << rewritten;
    }
    EXPECT_EQ(findings_of(*other, style), "");
    const Review again = review_rules(*other, options).value();
    EXPECT_EQ(counts_of(again), counts_of(review));
    EXPECT_EQ(verdicts_of(again, style), verdicts_of(review, style)) << rewritten;
    EXPECT_EQ(ways_of(again), ways_of(review)) << rewritten;
    const bool has_pattern = style.name != "arguments turned" || has_turnable_moves(game);
    const auto renaming = has_pattern ? style.renaming(text) : std::nullopt;
    if (renaming) {
      CompareOptions comparing;
      comparing.budget = options.budget;
      comparing.renaming = Renaming::from_text(*renaming).value();
      const auto compared = compare_games(game, *other, comparing);
      ASSERT_TRUE(compared.ok()) << compared.diagnostics().render() << rewritten;
      EXPECT_EQ(compared->verdict, Comparison::Verdict::same) << rewritten;
    }
    if (loses_its_board(style.name)) continue;
    EXPECT_EQ(Picture(*other).has_board(), has_board) << rewritten;
  }
}

std::string name_of(const ::testing::TestParamInfo<std::string>& game) {
  const std::size_t slash = game.param.rfind('/') + 1;
  return game.param.substr(slash, game.param.size() - slash - 4);
}

const std::vector<std::string>& quick_games() {
  static const std::vector<std::string> games = {
      "tests/corpus/acorns.gdl",  "tests/corpus/baskets.gdl",  "tests/corpus/beds.gdl",
      "tests/corpus/canals.gdl",  "tests/corpus/echo.gdl",     "tests/corpus/hares.gdl",
      "tests/corpus/hoes.gdl",    "tests/corpus/kites.gdl",    "tests/corpus/letters.gdl",
      "tests/corpus/meadow.gdl",  "tests/corpus/plots.gdl",    "tests/corpus/rungs.gdl",
      "tests/corpus/seals.gdl",   "tests/corpus/shelves.gdl",  "tests/corpus/stiles.gdl",
      "tests/corpus/sundial.gdl", "tests/corpus/terraces.gdl", "tests/corpus/turnips.gdl",
      "tests/corpus/weave.gdl",   "games/snails.gdl"};
  return games;
}

std::vector<std::string> other_games() {
  std::vector<std::string> games;
  for (const std::string& path : testing::corpus_games()) {
    const std::string game = "tests/corpus" + path.substr(path.rfind('/'));
    if (std::ranges::find(quick_games(), game) == quick_games().end()) games.push_back(game);
  }
  return games;
}

INSTANTIATE_TEST_SUITE_P(Corpus, Styles, ::testing::ValuesIn(quick_games()), name_of);
// The rest of the corpus, label `long`.
INSTANTIATE_TEST_SUITE_P(WholeCorpus, Styles, ::testing::ValuesIn(other_games()), name_of);

}  // namespace
}  // namespace orchard::styles_test
