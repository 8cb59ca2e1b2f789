// What is saved of explorations: read back as it was, and refused if it is not whole.
#include "base/saved_state.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <random>

#include "explore/space/state_space.hpp"
#include "game/core.hpp"
#include "orchard/orchard.hpp"
#include "support/files.hpp"

namespace orchard::explore::saved_state_test {
namespace {

std::string code_of(const Diagnostics& diagnostics) {
  return diagnostics.begin()->code;
}

TEST(SavedState, IsReadAsItWasWritten) {
  const testing::TemporaryFolder folder;
  const std::string path = folder.path("deep/in/here");
  EXPECT_EQ(StateReader::open(path, "test", "pears").value(), nullptr);
  std::vector<std::uint64_t> long_one(300'000);
  std::mt19937_64 random(1);
  for (auto& number : long_one) number = random();
  {
    StateWriter writer(path, "test", "pears");
    writer.put("long", long_one);
    writer.put("empty", std::vector<std::uint16_t>{});
    writer.put("short", std::vector<std::uint16_t>{1, 2, 65535});
    EXPECT_TRUE(writer.finish().empty());
  }
  const auto reader = StateReader::open(path, "test", "pears").value();
  ASSERT_NE(reader, nullptr);
  EXPECT_EQ(reader->get<std::uint16_t>("short"), (std::vector<std::uint16_t>{1, 2, 65535}));
  EXPECT_EQ(reader->get<std::uint64_t>("long"), long_one);
  EXPECT_TRUE(reader->get<std::uint16_t>("empty").empty());
  EXPECT_TRUE(reader->get<std::uint16_t>("unknown").empty());
  EXPECT_EQ(code_of(StateReader::open(path, "test", "plums").diagnostics()), "other-state");
}

TEST(SavedState, IsLeftAloneUntilItIsFinished) {
  const testing::TemporaryFolder folder;
  {
    StateWriter writer(folder.path("kept"), "test", "pears");
    writer.put("numbers", std::vector<int>{1});
    ASSERT_TRUE(writer.finish().empty());
  }
  {
    StateWriter broken_off(folder.path("kept"), "test", "pears");
    broken_off.put("numbers", std::vector<int>{2});
  }
  const auto reader = StateReader::open(folder.path("kept"), "test", "pears").value();
  EXPECT_EQ(reader->get<int>("numbers"), std::vector<int>{1});
  std::size_t files = 0;
  for ([[maybe_unused]] const auto& file :
       std::filesystem::directory_iterator(folder.path("kept"))) {
    ++files;
  }
  EXPECT_EQ(files, 1u);
}

// Every file cut short, and every byte changed, is noticed.
TEST(SavedState, DamageIsNoticed) {
  const testing::TemporaryFolder folder;
  {
    StateWriter writer(folder.path("kept"), "test", "pears");
    writer.put("numbers", std::vector<int>{1, 2, 3});
    ASSERT_TRUE(writer.finish().empty());
  }
  const std::string whole = testing::read_file(folder.path("kept") + "/explored.test");
  for (std::size_t at = 0; at < whole.size(); ++at) {
    folder.write("kept/explored.test", whole.substr(0, at));
    EXPECT_FALSE(StateReader::open(folder.path("kept"), "test", "pears").ok()) << at;
    std::string changed = whole;
    changed[at] = static_cast<char>(changed[at] ^ 0x40);
    folder.write("kept/explored.test", changed);
    EXPECT_FALSE(StateReader::open(folder.path("kept"), "test", "pears").ok()) << at;
  }
  folder.write("kept/explored.test", whole + " ");
  EXPECT_FALSE(StateReader::open(folder.path("kept"), "test", "pears").ok());
}

// Broken off at every tenth position and gone on with, by other threads each time.
TEST(SavedState, ASpaceGoesOnWhereItWasLeft) {
  const Game game = Game::load(testing::game_path("snails")).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(lanes.ground().initial());
  StateSpace whole(lanes);
  ASSERT_EQ(whole.explore(start, {}).value(), Ending::complete);
  const testing::TemporaryFolder folder;
  Budget budget;
  budget.checkpoint = Checkpoint{folder.path("kept"), 1000};
  for (std::uint64_t positions = 10;; positions += 200) {
    StateSpace part(lanes);
    budget.positions = positions;
    const Ending ending = part.explore(start, budget, 1 + positions % 3).value();
    if (ending != Ending::complete) continue;
    ASSERT_EQ(part.size(), whole.size());
    EXPECT_EQ(part.depths(), whole.depths());
    EXPECT_EQ(part.outcomes(), whole.outcomes());
    for (StateSpace::Number p = 0; p < whole.size(); ++p) {
      ASSERT_TRUE(std::ranges::equal(part.row(p), whole.row(p)));
      ASSERT_TRUE(std::ranges::equal(part.steps(p), whole.steps(p)));
      ASSERT_EQ(part.kind(p), whole.kind(p));
      ASSERT_EQ(part.outcome(p), whole.outcome(p));
      ASSERT_EQ(part.find(part.row(p)), p);
    }
    break;
  }
  StateSpace other(lanes);
  std::vector<std::uint64_t> elsewhere(whole.row(5).begin(), whole.row(5).end());
  EXPECT_EQ(code_of(other.explore(elsewhere, budget).diagnostics()), "other-state");
}

}  // namespace
}  // namespace orchard::explore::saved_state_test
