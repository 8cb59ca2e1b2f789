// What comes of games in lanes, against accounts kept game by game.
#include <gtest/gtest.h>

#include <set>

#include "circuit/programs/game_accounts.hpp"
#include "orchard/random.hpp"

namespace orchard::circuit::game_accounts_test {
namespace {

// Reports as a game would make them, from random numbers, and what a bookkeeper with paper writes.
class Bookkeeping {
 public:
  Bookkeeping(std::uint64_t seed, std::uint64_t games, std::uint64_t longest)
      : random_(seed), longest_(longest), most_plies_(longest + 5), accounts_(program()) {
    for (std::uint64_t lane = 0; lane < lanes; ++lane) {
      left_[lane] = games / lanes + (lane < games % lanes ? 1 : 0);
    }
    accounts_.begin(games);
    wanted_.positions.resize(2);
    wanted_.choices.resize(2);
  }

  void run() {
    std::uint64_t until_look = most_plies_;
    while (accounts_.some_play()) {
      write_reports();
      std::set<std::uint64_t> broken;
      if (until_look == 0) {
        const LaneBlock lanes_broken = accounts_.break_off(most_plies_, until_look);
        for (std::uint64_t lane = 0; lane < lanes; ++lane) {
          if ((lanes_broken.words[lane / 64] >> lane % 64 & 1) != 0) broken.insert(lane);
        }
      }
      --until_look;
      ASSERT_EQ(broken, due_);
      ASSERT_TRUE(accounts_.take());
      for (std::uint64_t lane = 0; lane < lanes; ++lane) {
        ASSERT_EQ((accounts_.playing().words[lane / 64] >> lane % 64 & 1) != 0, left_[lane] > 0);
      }
    }
    const LaneStatistics got = accounts_.statistics();
    EXPECT_EQ(got.games, wanted_.games);
    EXPECT_EQ(got.plies, wanted_.plies);
    EXPECT_EQ(got.stuck, wanted_.stuck);
    EXPECT_EQ(got.unfinished, wanted_.unfinished);
    EXPECT_EQ(got.lengths, wanted_.lengths);
    EXPECT_EQ(got.outcomes, wanted_.outcomes);
    EXPECT_EQ(got.positions, wanted_.positions);
    EXPECT_EQ(got.choices, wanted_.choices);
  }

 private:
  static constexpr std::uint32_t value_count = 3;

  const PlayProgram& program() {
    program_.counted = {{0, false, 0}, {0, true, 0}, {0, true, 2}, {1, false, 0}, {1, true, 1}};
    program_.first_value =
        PlayProgram::first_counted + static_cast<std::uint32_t>(program_.counted.size());
    program_.program.reports = program_.first_value + value_count;
    program_.planes.resize(2);
    return program_;
  }

  void write_reports() {
    due_.clear();
    LaneBlock* const reports = accounts_.reports();
    for (std::uint32_t r = 0; r < program_.program.reports; ++r) reports[r] = {};
    for (std::uint64_t lane = 0; lane < lanes; ++lane) {
      if (left_[lane] == 0) continue;
      const auto put = [&](std::uint32_t report) {
        reports[report].words[lane / 64] |= std::uint64_t{1} << lane % 64;
      };
      std::vector<bool> values;
      for (std::uint32_t v = 0; v < value_count; ++v) {
        values.push_back(random_.below(3) == 0);
        if (values.back()) put(program_.first_value + v);
      }
      if (random_.below(longest_) == 0) {
        put(PlayProgram::over);
        if (random_.below(5) == 0) {
          ++wanted_.stuck;
        } else {
          put(PlayProgram::terminal);
          ++wanted_.lengths[age_[lane]];
          ++wanted_.outcomes[values];
        }
        end(lane);
      } else if (age_[lane] == most_plies_) {
        due_.insert(lane);
        ++wanted_.unfinished;
        put(PlayProgram::moved);
        end(lane);
      } else if (random_.below(8) != 0) {
        put(PlayProgram::moved);
        ++age_[lane];
        for (std::uint32_t c = 0; c < program_.counted.size(); ++c) {
          if (random_.below(2) == 0) continue;
          put(PlayProgram::first_counted + c);
          const PlayProgram::Counted& counted = program_.counted[c];
          auto& sums = counted.moves ? wanted_.choices : wanted_.positions;
          sums[counted.role] += std::uint64_t{1} << counted.weight;
        }
      }
    }
  }

  void end(std::uint64_t lane) {
    ++wanted_.games;
    wanted_.plies += age_[lane];
    age_[lane] = 0;
    --left_[lane];
  }

  Random random_;
  std::uint64_t longest_;
  std::uint64_t most_plies_;
  PlayProgram program_;
  GameAccounts accounts_;
  std::array<std::uint64_t, lanes> age_{};
  std::array<std::uint64_t, lanes> left_{};
  std::set<std::uint64_t> due_;  // lanes to be broken off now
  LaneStatistics wanted_;
};

TEST(GameAccounts, AreThoseOfABookkeeper) {
  std::uint64_t seed = 0;
  for (const std::uint64_t games : {1u, 100u, 512u, 1000u, 9000u}) {
    for (const std::uint64_t longest : {2u, 9u, 40u}) {
      SCOPED_TRACE(testing::Message() << games << " games, about " << longest << " plies");
      Bookkeeping(++seed, games, longest).run();
      if (HasFatalFailure()) return;
    }
  }
}

TEST(GameAccounts, AConflictIsTold) {
  PlayProgram program;
  program.first_value = PlayProgram::first_counted;
  program.program.reports = PlayProgram::first_counted;
  GameAccounts accounts(program);
  accounts.begin(512);
  for (std::uint32_t r = 0; r < program.program.reports; ++r) accounts.reports()[r] = {};
  EXPECT_TRUE(accounts.take());
  for (std::uint32_t r = 0; r < program.program.reports; ++r) accounts.reports()[r] = {};
  accounts.reports()[PlayProgram::conflict].words[3] = 4;
  EXPECT_FALSE(accounts.take());
}

}  // namespace
}  // namespace orchard::circuit::game_accounts_test
