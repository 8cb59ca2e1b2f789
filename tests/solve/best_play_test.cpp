// Best play in one position, against every alternative on random followers.
#include "solve/best_play.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <numeric>

#include "orchard/random.hpp"

namespace orchard::solve_inner::best_play_test {
namespace {

// Followers with values in steps of a tenth; of two players the second gets what the first does
// not.
Followers random_followers(Random& random, const std::vector<std::size_t>& choices, bool opposed,
                           std::optional<std::size_t> chance = {}) {
  Followers followers;
  followers.choices = choices;
  followers.chance = chance;
  std::size_t all = 1;
  for (const std::size_t count : choices) all *= count;
  for (std::size_t joint = 0; joint < all; ++joint) {
    const double first = static_cast<double>(random.below(11)) / 10;
    for (std::size_t role = 0; role < choices.size(); ++role) {
      const double other = static_cast<double>(random.below(11)) / 10;
      followers.values.push_back(role == 0 ? first : opposed && role == 1 ? 1 - first : other);
    }
    followers.plies.push_back(1 + static_cast<std::uint32_t>(random.below(20)));
    followers.solved.push_back(1);
  }
  return followers;
}

double sum(const std::vector<double>& shares) {
  return std::accumulate(shares.begin(), shares.end(), 0.0);
}

// What the first of two gets where both mix.
double mixed_value(const Followers& at, const std::vector<double>& rows,
                   const std::vector<double>& columns) {
  double value = 0;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    for (std::size_t j = 0; j < columns.size(); ++j) {
      value += rows[i] * columns[j] * at.values[(i + j * rows.size()) * 2];
    }
  }
  return value;
}

TEST(BestPlay, OneChoosesTheBestSoonOrLate) {
  Random random(3);
  for (int round = 0; round < 300; ++round) {
    const Followers at = random_followers(random, {1, 2 + random.below(5)}, false);
    const Play play = best_play(at, false).value();
    double most = 0;
    for (std::size_t j = 0; j < at.choices[1]; ++j) most = std::max(most, at.values[j * 2 + 1]);
    EXPECT_DOUBLE_EQ(play.values[1], most);
    EXPECT_NEAR(sum(play.shares[1]), 1, 1e-9);
    std::vector<std::uint32_t> plies;
    for (std::size_t j = 0; j < at.choices[1]; ++j) {
      EXPECT_EQ(play.shares[1][j] > 0, at.values[j * 2 + 1] > most - 1e-9);
      if (play.shares[1][j] > 0) plies.push_back(at.plies[j]);
    }
    const bool wins = most > 0.5;
    EXPECT_EQ(play.plies,
              1 + (wins ? *std::ranges::min_element(plies) : *std::ranges::max_element(plies)));
    EXPECT_FALSE(play.mixes);
    // Nearer to the end, where that is asked for and nothing is lost by it.
    const Play near = best_play(at, true).value();
    for (std::size_t j = 0; j < at.choices[1]; ++j) {
      if (most < 0.5 || near.shares[1][j] == 0) continue;
      EXPECT_EQ(at.plies[j], *std::ranges::min_element(plies));
    }
  }
}

TEST(BestPlay, WhatGoesOnForEverIsNotToBeHad) {
  Followers at;
  at.choices = {3};
  at.values = {0.9, 0.4, 0.4};
  at.plies = {0, 3, 5};
  at.solved = {0, 1, 1};
  const Play play = best_play(at, false).value();
  EXPECT_EQ(play.values[0], 0.4);
  EXPECT_EQ(play.shares[0], (std::vector<double>{0, 0.5, 0.5}));
}

TEST(BestPlay, ChanceIsAveragedOver) {
  Random random(8);
  for (int round = 0; round < 100; ++round) {
    const Followers at = random_followers(random, {3, 4}, false, 1);
    const Play play = best_play(at, false).value();
    std::vector<double> means(3, 0);
    for (std::size_t i = 0; i < 3; ++i) {
      for (std::size_t c = 0; c < 4; ++c) means[i] += at.values[(i + 3 * c) * 2] / 4;
    }
    EXPECT_NEAR(play.values[0], *std::ranges::max_element(means), 1e-12);
    EXPECT_EQ(play.shares[1], std::vector<double>(4, 0.25));
  }
}

// Nobody gains by leaving the mixture, whatever single move is tried instead.
TEST(BestPlay, TwoOpposedMixSoThatNeitherGainsByAnother) {
  Random random(5);
  std::size_t mixes = 0;
  for (int round = 0; round < 200; ++round) {
    const Followers at = random_followers(random, {2 + random.below(3), 2 + random.below(3)}, true);
    const Play play = best_play(at, false).value();
    mixes += play.mixes ? 1 : 0;
    const double value = mixed_value(at, play.shares[0], play.shares[1]);
    EXPECT_NEAR(play.values[0], value, 1e-7);
    EXPECT_NEAR(play.values[1], 1 - value, 1e-7);
    for (std::size_t i = 0; i < at.choices[0]; ++i) {
      std::vector<double> pure(at.choices[0], 0);
      pure[i] = 1;
      EXPECT_LE(mixed_value(at, pure, play.shares[1]), value + 1e-7);
    }
    for (std::size_t j = 0; j < at.choices[1]; ++j) {
      std::vector<double> pure(at.choices[1], 0);
      pure[j] = 1;
      EXPECT_GE(mixed_value(at, play.shares[0], pure), value - 1e-7);
    }
    // Against all others together it is the same here.
    EXPECT_NEAR(secured_play(at).values[0], value, 1e-7);
    EXPECT_NEAR(secured_play(at).values[1], 1 - value, 1e-7);
  }
  EXPECT_GT(mixes, 50u);
}

TEST(BestPlay, HasNoAnswerWhereInterestsAreNotOpposedOrMoreChooseAtOnce) {
  Random random(6);
  EXPECT_FALSE(best_play(random_followers(random, {3, 3}, false), false));
  EXPECT_FALSE(best_play(random_followers(random, {2, 2, 2}, false), false));
}

// The mixture keeps what it promises against every choice of the others; no pure move promises
// more.
TEST(SecuredPlay, KeepsWhatItPromises) {
  Random random(9);
  for (int round = 0; round < 100; ++round) {
    const std::vector<std::size_t> choices{2 + random.below(2), 2 + random.below(2),
                                           1 + random.below(3)};
    const Followers at = random_followers(random, choices, false);
    const Play play = secured_play(at);
    for (std::size_t own = 0; own < 3; ++own) {
      EXPECT_NEAR(sum(play.shares[own]), 1, 1e-9);
      std::map<std::size_t, double> gets;          // by what the others choose
      std::vector<double> alone(choices[own], 1);  // least of each pure move
      for (std::size_t joint = 0; joint < at.plies.size(); ++joint) {
        const std::size_t choice[] = {joint % choices[0], joint / choices[0] % choices[1],
                                      joint / choices[0] / choices[1]};
        std::size_t others = 0;
        for (std::size_t role = 0; role < 3; ++role) {
          if (role != own) others = others * 10 + choice[role];
        }
        const double value = at.values[joint * 3 + own];
        gets[others] += play.shares[own][choice[own]] * value;
        alone[choice[own]] = std::min(alone[choice[own]], value);
      }
      for (const auto& [others, value] : gets) EXPECT_GE(value, play.values[own] - 1e-7);
      for (const double value : alone) EXPECT_LE(value, play.values[own] + 1e-7);
    }
  }
}

}  // namespace
}  // namespace orchard::solve_inner::best_play_test
