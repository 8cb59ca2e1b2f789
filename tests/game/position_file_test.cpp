#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/game.hpp"
#include "support/files.hpp"

namespace orchard::position_file_test {
namespace {

using ::testing::HasSubstr;

class PositionFile : public ::testing::Test {
 protected:
  Result<Position> read(const std::string& text, const std::string& name = {}) {
    return read_position(game_, folder_.write("p.gdl", text), name);
  }
  Game game_ = Game::load(testing::game_path("espalier_3x3")).value();
  testing::TemporaryFolder folder_;
};

TEST_F(PositionFile, ReadsBackWhatAPositionPrints) {
  EXPECT_EQ(read(game_.initial().to_string()).value(), game_.initial());
}

TEST_F(PositionFile, ChoosesByName) {
  const std::string text =
      "; two of them\n(position \"first\" (turn east))\n"
      "(position \"second\" (turn west) (square 1 1 bare))";
  EXPECT_EQ(read(text, "second").value().size(), 2u);
  EXPECT_THAT(read(text).diagnostics().render(), HasSubstr("there are: \"first\", \"second\""));
  EXPECT_THAT(read(text, "third").diagnostics().render(), HasSubstr("no position \"third\""));
  EXPECT_EQ(read_positions(game_, folder_.write("q.gdl", text)).value().size(), 2u);
}

TEST_F(PositionFile, PointsAtEveryFault) {
  const auto result = read(
      "(position (turn east) (trun west))\n(state (turn east))\n"
      "(position (square 1 ?c bare) (square 1 2))");
  ASSERT_FALSE(result.ok());
  const std::string text = result.diagnostics().render();
  EXPECT_THAT(text, HasSubstr("p.gdl:1:23: error: no rule makes a fluent like (trun west)"));
  EXPECT_THAT(text, HasSubstr("did you mean `turn`?"));
  EXPECT_THAT(text, HasSubstr("p.gdl:2:1: error: expected a position"));
  EXPECT_THAT(text, HasSubstr("p.gdl:3:11: error: (square 1 ?c bare) holds a variable"));
  EXPECT_THAT(text, HasSubstr("p.gdl:3:30: error: no rule makes a fluent like (square 1 2)"));
}

TEST_F(PositionFile, SaysWhenThereIsNone) {
  EXPECT_EQ(read("; nothing").diagnostics().items().at(0).code, "no-position");
  EXPECT_EQ(read_position(game_, folder_.path("missing")).diagnostics().items().at(0).code,
            "cannot-read");
}

}  // namespace
}  // namespace orchard::position_file_test
