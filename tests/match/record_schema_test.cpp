// What is written is held to docs/match-record.schema.json, and the schema to what is not.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sstream>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

#include "orchard/playouts.hpp"
#include "orchard/record.hpp"
#include "support/files.hpp"

namespace orchard::record_test {
namespace {

class RecordSchema : public ::testing::Test {
 protected:
  RecordSchema() {
    const auto document = nlohmann::json::parse(
        testing::read_file(testing::source_path("docs/match-record.schema.json")));
    const valijson::adapters::NlohmannJsonAdapter adapter(document);
    valijson::SchemaParser().populateSchema(adapter, schema_);
  }
  bool fits(const std::string& line) {
    const auto document = nlohmann::json::parse(line);
    const valijson::adapters::NlohmannJsonAdapter adapter(document);
    return valijson::Validator().validate(schema_, adapter, nullptr);
  }

 private:
  valijson::Schema schema_;
};

TEST_F(RecordSchema, FitsEveryLineThatIsWritten) {
  const Game game = Game::load(testing::game_path("hedgerow")).value();
  Match match(game);
  (void)random_walk(game, {}, [&](const WalkStep& step) {
    return !step.joint || match.play(*step.joint).empty();
  });
  MatchRecord record = record_of(match);
  record.players = {{"ash", "Ada"}};
  record.seats = {{"ash", "http://127.0.0.1:9"}};
  record.began = "2026-05-01T09:30:00Z";
  record.start_seconds = 10;
  record.play_seconds = 0.5;
  record.sizes = {{"months", 3}};
  record.score = {{1, 2, 3}};
  record.description = "(role ash)";
  record.start = game.initial().fluents();
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    PlyNotes notes;
    notes.seconds["ash"] = 0.25;
    if (ply % 2 == 0) notes.replaced["birch"] = {"late", ""};
    notes.percepts["ash"] =
        game.percepts(match.positions()[ply], match.joints()[ply], *game.role("ash")).value();
    notes.position = match.positions()[ply + 1].fluents();
    record.notes.push_back(std::move(notes));
  }
  const testing::TemporaryFolder folder;
  auto writer = RecordWriter::begin(folder.path("match.jsonl"), record).value();
  ASSERT_TRUE(writer.go_back(3).empty());
  ASSERT_TRUE(writer.end({"stopped", {{"ash", 100}}}).empty());
  std::istringstream lines(testing::read_file(folder.path("match.jsonl")));
  int count = 0;
  for (std::string line; std::getline(lines, line); ++count) EXPECT_TRUE(fits(line)) << line;
  EXPECT_EQ(count, static_cast<int>(record.joints.size()) + 3);
}

TEST_F(RecordSchema, FitsNothingElse) {
  for (const char* const line :
       {"{}", "[]", "{\"ply\":0}", "{\"ply\":-1,\"joint\":{},\"seal\":\"0123456789abcdef\"}",
        "{\"ply\":0,\"joint\":{},\"seal\":\"short\"}",
        "{\"ply\":0,\"joint\":{},\"mood\":1,\"seal\":\"0123456789abcdef\"}",
        "{\"result\":{},\"reason\":\"boredom\",\"seal\":\"0123456789abcdef\"}",
        "{\"back\":\"two\",\"seal\":\"0123456789abcdef\"}"}) {
    EXPECT_FALSE(fits(line)) << line;
  }
  EXPECT_TRUE(fits("{\"ply\":0,\"joint\":{},\"seal\":\"0123456789abcdef\"}"));
}

}  // namespace
}  // namespace orchard::record_test
