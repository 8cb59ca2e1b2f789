#include "orchard/record.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::record_test {
namespace {

using ::testing::HasSubstr;

Match played(const Game& game, std::uint64_t plies, std::optional<Position> from = {}) {
  Match match(game, from);
  WalkOptions options;
  options.plies = plies;
  options.from = from;
  (void)random_walk(game, options, [&](const WalkStep& step) {
    EXPECT_TRUE(!step.joint || match.play(*step.joint).empty());
    return true;
  });
  return match;
}

class Record : public ::testing::Test {
 protected:
  Result<MatchRecord> read(const std::string& text) {
    return read_record(folder_.write("m.jsonl", text));
  }
  Game game_ = Game::load(testing::game_path("espalier_3x3")).value();
  testing::TemporaryFolder folder_;
};

TEST_F(Record, GoesToTextAndBack) {
  const Match match = played(game_, 100);
  MatchRecord record = record_of(match);
  record.players = {{"east", "Ada \"the bough\""}};
  record.seats = {{"east", "person"}, {"west", "random"}};
  record.seed = 18446744073709551615u;
  record.score = {{1, 2, 3}, {3, 2, 1}};
  const MatchRecord back = read(to_json_lines(record, match)).value();
  EXPECT_EQ(back.game, "espalier_3x3.gdl");
  EXPECT_EQ(back.rules, game_.digest());
  EXPECT_EQ(back.players, record.players);
  EXPECT_EQ(back.seats, record.seats);
  EXPECT_EQ(back.seed, record.seed);
  EXPECT_EQ(back.score, record.score);
  EXPECT_EQ(back.joints, record.joints);
  const Match again = replay(game_, back).value();
  EXPECT_EQ(again.positions(), match.positions());
  EXPECT_TRUE(again.over());
}

TEST_F(Record, KeepsAStartOfItsOwn) {
  const Position start =
      game_
          .position({Term::parse("(turn west)").value(), Term::parse("(square 1 1 bare)").value(),
                     Term::parse("(square 1 2 bare)").value()})
          .value();
  const Match match = played(game_, 1, start);
  const Match again = replay(game_, read(to_json_lines(record_of(match), match)).value()).value();
  EXPECT_EQ(again.start(), start);
  EXPECT_EQ(again.ply(), 1u);
}

TEST_F(Record, PointsAtTheBadLine) {
  const Match match = played(game_, 3);
  const std::string good = to_json_lines(record_of(match), match);
  EXPECT_THAT(read("{\"record\":\"other\"}").diagnostics().render(), HasSubstr("m.jsonl:1:1"));
  EXPECT_THAT(read("").diagnostics().render(), HasSubstr("the record is empty"));
  EXPECT_THAT(read(good + "{\"ply\":9}").diagnostics().render(), HasSubstr("ply 3 is missing"));
  EXPECT_THAT(read(good + "{nonsense").diagnostics().render(), HasSubstr("m.jsonl:5:1"));
  EXPECT_THAT(read("[1,2]").diagnostics().render(), HasSubstr("cannot be read"));
  std::string other = good;
  other.replace(other.find("\"version\":1"), 11, "\"version\":9");
  EXPECT_THAT(read(other).diagnostics().render(), HasSubstr("another version"));
}

TEST_F(Record, RefusesOtherRules) {
  const Match match = played(game_, 100);
  const MatchRecord record = record_of(match);
  const Game silo = Game::load(testing::game_path("silo")).value();
  EXPECT_THAT(replay(silo, record).diagnostics().render(), HasSubstr("other roles"));
  MatchRecord illegal = record;
  illegal.joints[1] = illegal.joints[0];
  EXPECT_THAT(replay(game_, illegal).diagnostics().render(), HasSubstr("ply 1 of the record"));
}

}  // namespace
}  // namespace orchard::record_test
