// A thousand matches of three games, many at the same time, in one process.
#include <gtest/gtest.h>

#include <atomic>
#include <thread>

#include "orchard/orchard.hpp"
#include "support/files.hpp"

namespace orchard::threads_test {
namespace {

std::string play(const Game& game, std::uint64_t seed) {
  std::vector<std::unique_ptr<Opponent>> opponents;
  std::vector<Opponent*> seats;
  for (const Role& role : game.roles()) {
    opponents.push_back(random_opponent(seed * 10 + role.index()));
    seats.push_back(opponents.back().get());
  }
  Match match(game);
  EXPECT_TRUE(play_on(match, seats).empty());
  EXPECT_TRUE(match.over());
  std::string text;
  for (const JointMove& joint : match.joints()) text += joint.to_string();
  return text + describe(game, outcome_of(game, match.position()));
}

TEST(Threads, ThousandMatchesOfThreeGamesAtOnce) {
  std::vector<Game> games;
  for (const char* name : {"espalier_3x3", "silo", "channel"}) {
    games.push_back(Game::load(testing::game_path(name)).value());
  }
  constexpr int matches = 1000;
  std::vector<std::string> played(matches);
  std::atomic<int> next{0};
  {
    std::vector<std::jthread> threads;
    for (int t = 0; t < 4; ++t) {
      threads.emplace_back([&] {
        for (int i = next++; i < matches; i = next++) {
          played[static_cast<std::size_t>(i)] = play(
              games[static_cast<std::size_t>(i) % games.size()], static_cast<std::uint64_t>(i));
        }
      });
    }
  }
  // The same seeds one after another, in fresh games, give the same matches.
  for (std::size_t i = 0; i < matches; i += 97) {
    const char* names[] = {"espalier_3x3", "silo", "channel"};
    EXPECT_EQ(play(Game::load(testing::game_path(names[i % 3])).value(), i), played[i]);
  }
  for (const std::string& text : played) EXPECT_FALSE(text.empty());
}

TEST(Threads, GrowingTermsAreSharedSafely) {
  const Game game = Game::from_text(
                        "(role r) (init (n z)) (<= (legal r (add ?d)) (d ?d)) (d a)(d b)(d c)"
                        "(<= (next (n (cons ?d ?l))) (true (n ?l)) (does r (add ?d)))")
                        .value();
  std::vector<std::string> ends(4);
  {
    std::vector<std::jthread> threads;
    for (std::size_t t = 0; t < ends.size(); ++t) {
      threads.emplace_back([&, t] {
        WalkOptions options;
        options.plies = 50;
        for (options.game = 0; options.game < 20; ++options.game) {
          (void)random_walk(game, options, [&](const WalkStep& step) {
            if (!step.joint) ends[t] += step.position.to_string();
            return true;
          });
        }
      });
    }
  }
  EXPECT_FALSE(ends[0].empty());
  for (const std::string& text : ends) EXPECT_EQ(text, ends[0]);
}

}  // namespace
}  // namespace orchard::threads_test
