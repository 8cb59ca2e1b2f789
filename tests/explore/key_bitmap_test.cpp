// Short keys of groups that hang together, bitmaps of keys, and measures of them.
#include <gtest/gtest.h>

#include <algorithm>
#include <random>
#include <set>

#include "explore/census_codes.hpp"
#include "explore/crew.hpp"
#include "explore/key_bitmap.hpp"
#include "explore/key_ranks.hpp"
#include "game/core.hpp"
#include "support/play.hpp"

namespace orchard::explore {
namespace {

TEST(KeyBitmap, HoldsWhatWasPutInUntilItIsTaken) {
  const auto map = KeyBitmap::make(20);
  std::mt19937_64 random(1);
  std::set<std::uint64_t> model;
  for (int i = 0; i < 50'000; ++i) {
    const std::uint64_t key = random() % 3 == 0 ? random() % 2000 : random() % (1 << 20);
    const bool is_new = model.insert(key).second;
    EXPECT_EQ(i % 2 == 0 ? map->insert(key) : map->insert_shared(key), is_new);
  }
  for (std::uint64_t key = 0; key < 3000; ++key) {
    EXPECT_EQ(map->contains(key), model.contains(key));
  }
  const auto other = KeyBitmap::make(20);
  other->insert(7);
  other->insert_all(*map);
  // Keys that are no multiple of three are taken; the rest stays where it is.
  const auto thirds = [](std::uint64_t first, std::uint64_t word) {
    std::uint64_t chosen = 0;
    for (std::uint64_t b = 0; b < 64; ++b)
      chosen |= ((first + b) % 3 != 0 ? word >> b & 1 : 0) << b;
    return chosen;
  };
  std::vector<std::uint64_t> taken;
  const auto note = [&](std::uint64_t first, std::uint64_t word) {
    for (std::uint64_t b = 0; b < 64; ++b) {
      if ((word >> b & 1) != 0) taken.push_back(first + b);
    }
  };
  for (const std::uint64_t page : map->pages()) map->take_page(page, false, thirds, note);
  EXPECT_TRUE(std::ranges::is_sorted(taken));
  EXPECT_EQ(taken.size(), static_cast<std::size_t>(std::ranges::count_if(
                              model, [](std::uint64_t key) { return key % 3 != 0; })));
  taken.clear();
  for (const std::uint64_t page : map->pages()) map->look_at_page(page, note);
  for (const std::uint64_t page : map->pages()) {
    map->take_page(
        page, true, [](std::uint64_t, std::uint64_t word) { return word; }, note);
  }
  EXPECT_TRUE(map->pages().empty());
  for (const std::uint64_t key : taken) EXPECT_EQ(key % 3, 0u);
  model.insert(7);
  taken.clear();
  for (const std::uint64_t page : other->pages()) other->look_at_page(page, note);
  EXPECT_EQ(std::set<std::uint64_t>(taken.begin(), taken.end()), model);
  EXPECT_EQ(KeyBitmap::make(KeyBitmap::most_bits + 1), nullptr);
}

// Threads put in what others take out, and nothing is lost or met twice.
TEST(KeyBitmap, IsFilledWhileItIsTaken) {
  const auto map = KeyBitmap::make(20);
  constexpr std::uint64_t keys = 1 << 20;
  constexpr std::uint64_t half = keys / 2;
  for (std::uint64_t key = 0; key < half; key += 3) map->insert(key * 2);  // even ones
  Crew crew(3);
  std::vector<std::uint64_t> counts(crew.workers(), 0);
  const auto even = [](std::uint64_t, std::uint64_t word) { return word & 0x5555555555555555; };
  const auto pages = map->pages();
  crew.work(pages.size(), [&](std::size_t worker, std::size_t job) {
    map->take_page(pages[job], true, even, [&](std::uint64_t first, std::uint64_t word) {
      for (std::uint64_t b = 0; b < 64; ++b) {
        if ((word >> b & 1) == 0) continue;
        ++counts[worker];
        map->insert_shared((first + b) * 7919 % keys | 1);
      }
    });
  });
  std::set<std::uint64_t> expected;
  std::uint64_t taken = 0;
  for (std::uint64_t key = 0; key < half; key += 3) {
    expected.insert(key * 2 * 7919 % keys | 1);
    ++taken;
  }
  EXPECT_EQ(counts[0] + counts[1] + counts[2], taken);
  std::set<std::uint64_t> left;
  for (const std::uint64_t page : map->pages()) {
    map->look_at_page(page, [&](std::uint64_t first, std::uint64_t word) {
      for (std::uint64_t b = 0; b < 64; ++b) {
        if ((word >> b & 1) != 0) left.insert(first + b);
      }
    });
  }
  EXPECT_EQ(left, expected);
}

TEST(Crew, DoesEachJobOnceAndOneWorkAfterAnother) {
  for (const unsigned threads : {1u, 2u, 5u}) {
    Crew crew(threads);
    EXPECT_EQ(crew.workers(), threads);
    for (const std::size_t jobs : {0u, 1u, 3u, 1000u}) {
      std::vector<std::atomic<int>> done(jobs);
      crew.work(jobs, [&](std::size_t worker, std::size_t job) {
        EXPECT_LT(worker, threads);
        ++done[job];
      });
      for (const auto& times : done) EXPECT_EQ(times, 1);
    }
  }
}

// Columns of the silo hang together: 31 ways to fill one of four, five bits and not eight; whose
// turn it is follows from the depth.
TEST(CodeJoiner, FindsWhatHangsTogether) {
  const Game game = testing::load("silo", {{"heights", 4}, {"bins", 4}});
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto row = [&](const Position& position) {
    return lanes.row(*lanes.bits(GameAccess::state(position).fluents()));
  };
  CensusCodes codes(lanes, row(game.initial()), false);
  EXPECT_EQ(codes.apart().bits, 33u);
  const PositionCode code = codes.joined(true).value();
  EXPECT_EQ(code.bits, 20u);
  ASSERT_EQ(code.groups.size(), 4u);
  for (const PositionCode::Group& group : code.groups) EXPECT_EQ(group.patterns.size(), 31u);
  EXPECT_EQ(code.clock.fluents.size(), 2u);
  EXPECT_EQ(codes.joined(false).value().clock.fluents.size(), 0u);
  // Rows are written and read, and measures of keys are depths.
  const KeyRanks ranks(code, codes.measure());
  for (std::uint64_t seed = 1; seed < 20; ++seed) {
    const auto positions = testing::positions_of(game, 0, seed);
    for (std::size_t ply = 0; ply < positions.size(); ++ply) {
      const auto key = code.key(row(positions[ply]), ply);
      ASSERT_TRUE(key);
      EXPECT_EQ(code.row(*key, lanes.words(), ply), row(positions[ply]));
      EXPECT_FALSE(code.key(row(positions[ply]), ply + 1)) << "whose turn it is";
      const std::uint64_t word = key->front() / 64 * 64;
      for (std::uint64_t depth = 0; depth < 16; ++depth) {
        const std::uint64_t mask = ranks.mask(word, ranks.at_depth(depth));
        EXPECT_EQ(mask >> (key->front() % 64) & 1, depth == ply ? 1u : 0u);
      }
    }
  }
}

}  // namespace
}  // namespace orchard::explore
