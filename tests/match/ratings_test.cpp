// Ratings against what the model says of its own results, and against a plain search for the most
// likely ones.
#include <gtest/gtest.h>

#include <cmath>

#include "orchard/random.hpp"
#include "orchard/ratings.hpp"

namespace orchard::ratings_test {
namespace {

double chance(double a, double b) {
  return 1 / (1 + std::pow(10, (b - a) / 400));
}

TEST(Ratings, GiveBackTheStrengthsThatMadeTheResults) {
  const std::vector<double> strengths{-150, 0, 50, 100};
  std::vector<Pairing> pairings;
  for (std::size_t a = 0; a < 4; ++a) {
    for (std::size_t b = a + 1; b < 4; ++b) {
      pairings.push_back({a, b, 1e6 * chance(strengths[a], strengths[b]), 1e6});
    }
  }
  const auto ratings = rate(4, pairings);
  for (std::size_t p = 0; p < 4; ++p) {
    EXPECT_NEAR(ratings[p].rating, strengths[p], 0.5);
    EXPECT_LT(ratings[p].least, ratings[p].rating);
    EXPECT_GT(ratings[p].most, ratings[p].rating);
    EXPECT_LT(ratings[p].most - ratings[p].least, 2);
  }
}

// Of 300 tournaments played by the model about 95 % have the true strength in the interval.
TEST(Ratings, IntervalsHoldTheTruthAsOftenAsTheySay) {
  const std::vector<double> strengths{-100, 20, 80};
  Random random(5);
  int held = 0;
  constexpr int tournaments = 300;
  for (int t = 0; t < tournaments; ++t) {
    std::vector<Pairing> pairings;
    for (std::size_t a = 0; a < 3; ++a) {
      for (std::size_t b = a + 1; b < 3; ++b) {
        Pairing pairing{a, b, 0, 60};
        for (int game = 0; game < 60; ++game) {
          const double drawn = static_cast<double>(random.below(1'000'000)) / 1e6;
          pairing.first_better += drawn < chance(strengths[a], strengths[b]) ? 1 : 0;
        }
        pairings.push_back(pairing);
      }
    }
    const auto ratings = rate(3, pairings);
    held += ratings[0].least <= -100 && -100 <= ratings[0].most ? 1 : 0;
  }
  EXPECT_GE(held, tournaments * 91 / 100);
  EXPECT_LE(held, tournaments * 99 / 100);
}

TEST(Ratings, StayFiniteForWhoAlwaysWinsOrNeverMet) {
  const auto ratings = rate(4, {{0, 1, 20, 20}, {2, 3, 5, 10}});
  EXPECT_GT(ratings[0].rating, 200);
  EXPECT_LT(ratings[0].rating, 2000);
  EXPECT_NEAR(ratings[2].rating, ratings[3].rating, 1e-6);
  EXPECT_GT(ratings[0].most - ratings[0].least, 400);  // two groups that never met
  EXPECT_TRUE(rate(0, {}).empty());
}

}  // namespace
}  // namespace orchard::ratings_test
