#include "orchard/record.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/playouts.hpp"
#include "orchard/random.hpp"
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
  EXPECT_THAT(read(good + "{\"ply\":9}\n").diagnostics().render(),
              HasSubstr("its seal does not fit"));
  EXPECT_THAT(read(good + "{nonsense\n").diagnostics().render(), HasSubstr("m.jsonl:5:1"));
  EXPECT_THAT(read("[1,2]").diagnostics().render(), HasSubstr("cannot be read"));
  std::string other = good;
  other.replace(other.find("\"version\":2"), 11, "\"version\":9");
  EXPECT_THAT(read(other).diagnostics().render(), HasSubstr("another version"));
}

// Records of the first version have no seals and tell less.
TEST_F(Record, ReadsTheFirstVersion) {
  const std::string old =
      "{\"record\":\"orchard-match\",\"version\":1,\"game\":\"espalier_3x3.gdl\",\"rules\":\"\","
      "\"roles\":[\"east\",\"west\"]}\n"
      "{\"ply\":0,\"joint\":{\"east\":\"(tie 1 1)\",\"west\":\"wait\"}}\n";
  const MatchRecord record = read(old).value();
  EXPECT_EQ(record.joints.size(), 1u);
  EXPECT_EQ(replay(game_, record).value().ply(), 1u);
  EXPECT_THAT(read(old + "{\"ply\":9}\n").diagnostics().render(), HasSubstr("ply 1 is missing"));
}

// Whatever single byte is changed, or line left out or moved, it is noticed.
TEST_F(Record, NoticesEveryChange) {
  const Match match = played(game_, 100);
  MatchRecord written = record_of(match);
  written.players = {{"east", "Ada"}};
  const std::string good = to_json_lines(written, match);
  ASSERT_TRUE(record_from_text(good));
  Random random(5);
  for (int i = 0; i < 400; ++i) {
    std::string text = good;
    const std::size_t at = random.below(text.size());
    const char before = text[at];
    text[at] = static_cast<char>(' ' + random.below(95));
    if (text[at] == before) continue;
    EXPECT_FALSE(record_from_text(text)) << "byte " << at << " " << before << " → " << text[at];
  }
  std::vector<std::string> lines;
  for (std::size_t begin = 0; begin < good.size();) {
    const std::size_t end = good.find('\n', begin) + 1;
    lines.push_back(good.substr(begin, end - begin));
    begin = end;
  }
  const auto joined = [](const std::vector<std::string>& all) {
    std::string text;
    for (const std::string& line : all) text += line;
    return text;
  };
  for (std::size_t left_out = 0; left_out + 1 < lines.size(); ++left_out) {
    std::vector<std::string> fewer = lines;
    fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(left_out));
    EXPECT_FALSE(record_from_text(joined(fewer))) << left_out;
  }
  std::swap(lines[1], lines[2]);
  EXPECT_FALSE(record_from_text(joined(lines)));
}

// A crash cuts the last line off at any byte: everything before it is there.
TEST_F(Record, LosesNothingButTheLineThatIsCutOff) {
  const Match match = played(game_, 4);
  const std::string good = to_json_lines(record_of(match), match);
  const std::size_t head = good.find('\n') + 1;
  for (std::size_t length = head; length < good.size(); ++length) {
    const auto whole = static_cast<std::size_t>(
        std::count(good.begin(), good.begin() + static_cast<std::ptrdiff_t>(length), '\n') - 1);
    const auto read_back = record_from_text(good.substr(0, length), {.cut_line = true});
    ASSERT_TRUE(read_back) << length << read_back.diagnostics().render();
    // A line that lacks its line break only is complete.
    const bool complete = good[length] == '\n';
    EXPECT_EQ(read_back->joints.size(), whole + (complete ? 1 : 0)) << length;
    const bool at_line_break = good[length - 1] == '\n' || complete;
    EXPECT_EQ(read_back->cut, !at_line_break) << length;
    if (!at_line_break) {
      EXPECT_THAT(record_from_text(good.substr(0, length)).diagnostics().render(),
                  HasSubstr("cut off"));
    }
  }
}

TEST_F(Record, IsWrittenWhileItIsPlayed) {
  const Match match = played(game_, 100);
  const std::string file = folder_.path("live.jsonl");
  MatchRecord head = record_of(match);
  head.joints.clear();
  auto writer = RecordWriter::begin(file, head).value();
  const std::vector<std::vector<Term>> joints = record_of(match).joints;
  for (std::size_t ply = 0; ply < joints.size(); ++ply) {
    PlyNotes notes;
    notes.seconds["east"] = 0.25;
    if (ply == 1) notes.replaced["west"] = {"late", "(tie 9 9)"};
    ASSERT_TRUE(writer.add(joints[ply], notes).empty());
    EXPECT_EQ(read_record(file).value().joints.size(), ply + 1);
  }
  ASSERT_TRUE(writer.go_back(2).empty());
  EXPECT_EQ(read_record(file).value().joints.size(), 2u);
  for (std::size_t ply = 2; ply < joints.size(); ++ply) (void)writer.add(joints[ply]);
  ASSERT_TRUE(writer.end(*end_of(match)).empty());
  const MatchRecord back = read_record(file).value();
  EXPECT_EQ(back.joints, joints);
  EXPECT_EQ(back.notes[0].seconds.at("east"), 0.25);
  EXPECT_EQ(back.notes[1].replaced.at("west").said, "(tie 9 9)");
  EXPECT_EQ(back.end->reason, "terminal");
  EXPECT_TRUE(verify_record(game_, back).empty());
  // Another match behind it.
  ASSERT_TRUE(RecordWriter::begin(file, head, true));
  EXPECT_EQ(read_records(file).value().size(), 2u);
  EXPECT_FALSE(read_record(file)) << "one was asked for";
  EXPECT_THAT(RecordWriter::begin(folder_.path("no/where.jsonl"), head).diagnostics().render(),
              HasSubstr("cannot write"));
}

// Each kind of thing that a record may say wrongly.
TEST_F(Record, IsHeldAgainstTheRules) {
  const Match match = played(game_, 100);
  MatchRecord right = record_of(match);
  right.end = end_of(match);
  right.notes.resize(right.joints.size());
  right.notes[0].position = match.positions()[1].fluents();
  ASSERT_TRUE(verify_record(game_, right).empty());
  const auto says = [&](auto&& change) {
    MatchRecord wrong = right;
    change(wrong);
    return verify_record(game_, wrong).render();
  };
  EXPECT_THAT(says([](MatchRecord& record) { record.rules = "0"; }), HasSubstr("other rules"));
  EXPECT_THAT(says([](MatchRecord& record) { record.roles = {"a", "b"}; }), HasSubstr("a, b"));
  EXPECT_THAT(says([](MatchRecord& record) { record.joints[1] = record.joints[0]; }),
              HasSubstr("ply 1"));
  EXPECT_THAT(says([](MatchRecord& record) { record.joints.pop_back(); }),
              HasSubstr("not over here"));
  EXPECT_THAT(says([](MatchRecord& record) { record.end->reason = "stuck"; }),
              HasSubstr("did not end by \"stuck\""));
  EXPECT_THAT(says([](MatchRecord& record) { ++record.end->goals["east"]; }),
              HasSubstr("the goal of east is not"));
  EXPECT_THAT(says([](MatchRecord& record) { record.end->goals.erase("west"); }),
              HasSubstr("the goal of west is missing"));
  EXPECT_THAT(says([](MatchRecord& record) { record.notes[0].position->pop_back(); }),
              HasSubstr("not the position after it"));
  EXPECT_THAT(says([](MatchRecord& record) {
                record.notes[0].percepts["east"] = {Term::parse("light").value()};
              }),
              HasSubstr("east did not perceive this"));
  EXPECT_THAT(
      says([](MatchRecord& record) { record.start = {Term::parse("(wooden chair)").value()}; }),
      HasSubstr("no position of these rules"));
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
