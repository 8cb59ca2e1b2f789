// Short keys of groups that hang together, bitmaps of keys, and measures of them.
#include <gtest/gtest.h>

#include <algorithm>
#include <numeric>
#include <random>
#include <set>

#include "explore/keys/census_codes.hpp"
#include "explore/space/state_space.hpp"
#include "explore/stores/bitmap_writer.hpp"
#include "explore/stores/key_bitmap.hpp"
#include "explore/stores/key_ranks.hpp"
#include "game/core.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"
#include "threads/crew.hpp"

namespace orchard::explore::key_bitmap_test {
namespace {

TEST(KeyBitmap, HoldsWhatWasPutInUntilItIsTaken) {
  const auto map = KeyBitmap::make(20);
  std::mt19937_64 random(1);
  std::set<std::uint64_t> model;
  for (int i = 0; i < 50'000; ++i) {
    const std::uint64_t key = random() % 3 == 0 ? random() % 2000 : random() % (1 << 20);
    const bool is_new = model.insert(key).second;
    EXPECT_EQ(map->insert(key), is_new);
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
  for (const std::uint64_t page : map->pages()) map->take_page(page, thirds, note);
  EXPECT_TRUE(std::ranges::is_sorted(taken));
  EXPECT_EQ(taken.size(), static_cast<std::size_t>(std::ranges::count_if(
                              model, [](std::uint64_t key) { return key % 3 != 0; })));
  taken.clear();
  for (const std::uint64_t page : map->pages()) map->look_at_page(page, note);
  for (const std::uint64_t page : map->pages()) {
    map->take_page(
        page, [](std::uint64_t, std::uint64_t word) { return word; }, note);
  }
  EXPECT_TRUE(map->pages().empty());
  for (const std::uint64_t key : taken) EXPECT_EQ(key % 3, 0u);
  model.insert(7);
  taken.clear();
  for (const std::uint64_t page : other->pages()) other->look_at_page(page, note);
  EXPECT_EQ(std::set<std::uint64_t>(taken.begin(), taken.end()), model);
  EXPECT_EQ(KeyBitmap::make(KeyBitmap::most_bits + 1), nullptr);
}

// Workers put in what they take out, each into pages of its own; nothing is lost or met twice.
TEST(KeyBitmap, IsFilledWhileItIsTaken) {
  constexpr std::uint64_t keys = 1 << 20;
  constexpr std::uint64_t half = keys / 2;
  for (const std::size_t workers : {1u, 2u, 3u, 4u, 7u}) {
    const auto map = KeyBitmap::make(20);
    for (std::uint64_t key = 0; key < half; key += 3) map->insert(key * 2);  // even ones
    Crew crew(static_cast<unsigned>(workers));
    PageOwners owners(workers);
    const auto pages = map->pages();
    owners.share_out(*map, pages, {});
    std::vector<BitmapWriter> writers;
    for (std::size_t w = 0; w < workers; ++w) writers.emplace_back(*map, nullptr, owners, w);
    std::vector<std::uint64_t> counts(workers, 0);
    const auto even = [](std::uint64_t, std::uint64_t word) { return word & 0x5555555555555555; };
    crew.work(workers, [&](std::size_t, std::size_t owner) {
      for (const std::uint64_t page : pages) {
        if (owners.owner_of_page(page) != owner) continue;
        map->take_page(page, even, [&](std::uint64_t first, std::uint64_t word) {
          for (std::uint64_t b = 0; b < 64; ++b) {
            if ((word >> b & 1) == 0) continue;
            ++counts[owner];
            writers[owner].add(Key<1>{(first + b) * 7919 % keys | 1});
          }
        });
        writers[owner].finish();
      }
    });
    crew.work(workers, [&](std::size_t, std::size_t owner) {
      for (BitmapWriter& from : writers) writers[owner].receive_from(from);
      writers[owner].finish();
    });
    std::set<std::uint64_t> expected;
    std::uint64_t taken = 0;
    for (std::uint64_t key = 0; key < half; key += 3) {
      expected.insert(key * 2 * 7919 % keys | 1);
      ++taken;
    }
    EXPECT_EQ(std::accumulate(counts.begin(), counts.end(), std::uint64_t{0}), taken);
    std::uint64_t fresh = 0;
    for (const BitmapWriter& writer : writers) fresh += writer.fresh();
    EXPECT_EQ(fresh, expected.size());
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
}

// Keys of few pages, which differ in some bits of their numbers only: still each worker gets a
// share, and the bits that steps change are left alone where others do as well.
TEST(PageOwners, ShareOutEvenlyAndKeepStepsTogether) {
  const auto map = KeyBitmap::make(30);
  const auto key = [](std::uint64_t page, std::uint64_t place) {
    return page * KeyBitmap::page_keys + place;
  };
  std::vector<PageOwners::Step> steps;
  for (std::uint64_t n = 0; n < 64; ++n) {
    // Bits 3, 5 and 9 occur; nine keys in ten have bit 9, and steps change bit 3.
    const std::uint64_t page = (n & 1) << 3 | (n >> 1 & 1) << 5 | (n % 10 != 0 ? 1 << 9 : 0);
    for (std::uint64_t place = 0; place < 100; ++place) map->insert(key(page, place * 64 + n));
    steps.push_back({key(page, 1), key(page ^ 8, 1)});
  }
  PageOwners two(2);
  two.share_out(*map, map->pages(), steps);
  for (const PageOwners::Step& step : steps) EXPECT_EQ(two.owner(step.from), two.owner(step.to));
  EXPECT_NE(two.owner_of_page(1 << 9), two.owner_of_page(1 << 9 | 1 << 5));
  PageOwners four(4);
  four.share_out(*map, map->pages(), steps);
  std::set<std::size_t> owners;
  for (const std::uint64_t page : map->pages()) owners.insert(four.owner_of_page(page));
  EXPECT_EQ(owners, (std::set<std::size_t>{0, 1, 2, 3}));
  for (const std::size_t workers : {1u, 3u, 5u, 8u}) {
    PageOwners some(workers);
    some.share_out(*map, map->pages(), steps);
    std::vector<std::uint64_t> told_fast(workers);
    for (std::uint64_t page = 0; page < 1 << 15; ++page) {
      const std::size_t owner = some.owner_of_page(page);
      ASSERT_LT(owner, workers);
      for (std::size_t worker = 0; worker < workers; ++worker) {
        const PageOwners::Own own = some.own(worker);
        if ((key(page, 77) & own.mask) != own.value) continue;
        ASSERT_EQ(owner, worker);
        ++told_fast[worker];
      }
    }
    if (std::has_single_bit(workers)) {
      EXPECT_EQ(told_fast, std::vector<std::uint64_t>(workers, (1 << 15) / workers));
    }
    for (const std::uint64_t pages_told : told_fast) EXPECT_GT(pages_told, 0u);
  }
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

// Measures of keys whose groups lie anywhere, against counting the fluents of their rows.
TEST(KeyRanks, AreThoseOfTheRows) {
  std::mt19937_64 random(1);
  for (int round = 0; round < 40; ++round) {
    PositionCode code;
    Measure measure;
    measure.step = round % 2 == 0 ? 1 : -1;
    measure.at_start = static_cast<std::int64_t>(random() % 9);
    std::uint32_t fluents = 0;
    const auto add_fluent = [&](std::vector<std::uint32_t>& to) {
      if (random() % 2 == 0) measure.fluents.push_back(fluents);
      to.push_back(fluents++);
    };
    add_fluent(code.always);
    const std::size_t groups = 1 + random() % 7;
    for (std::size_t g = 0; g < groups; ++g) {
      PositionCode::Group& group = code.groups.emplace_back();
      const std::uint16_t places = static_cast<std::uint16_t>(1 + random() % 4);
      for (std::uint16_t place = 0; place < places; ++place) add_fluent(group.fluents);
      group.patterns = {{}};
      for (std::uint16_t place = 0; place < places; ++place) group.patterns.push_back({place});
      if (places > 2) group.patterns.push_back({0, 2});
    }
    code.number_bits();
    const KeyRanks ranks(code, measure);
    for (int i = 0; i < 300; ++i) {
      std::uint64_t key = 0;
      for (const PositionCode::Group& group : code.groups) {
        key |= random() % group.patterns.size() << group.first_bit;
      }
      const auto row = code.row(std::array{key}, 2);
      const auto held = std::ranges::count_if(
          measure.fluents, [&](std::uint32_t fluent) { return holds(row, fluent); });
      for (std::uint64_t depth = 0; depth < 20; ++depth) {
        const auto at_depth = measure.at_start + measure.step * static_cast<std::int64_t>(depth);
        const std::uint64_t mask = ranks.mask(key / 64 * 64, ranks.at_depth(depth));
        EXPECT_EQ((mask >> (key % 64) & 1) != 0, held == at_depth);
      }
    }
  }
}

// Nine squares of three contents: five in eight bits, three in five, one in two.
TEST(CodeJoiner, PacksWhatDoesNotHangTogether) {
  const Game game = testing::load("espalier_3x3");
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  const CensusCodes codes(lanes, start, false);
  EXPECT_EQ(codes.apart().bits, 19u);  // and whose turn it is
  const PositionCode code = codes.joined(true).value();
  EXPECT_EQ(code.bits, 15u);
  std::multiset<std::size_t> patterns;
  for (const PositionCode::Group& group : code.groups) patterns.insert(group.patterns.size());
  EXPECT_EQ(patterns, (std::multiset<std::size_t>{3, 27, 243}));
}

// Of every reachable position, what a code writes is read back, and no two positions of a depth
// (or of any, without a clock) have the same key.
void expect_keys_of_all_positions(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  StateSpace space(lanes);
  Budget budget;
  budget.positions = 3000;
  ASSERT_TRUE(space.explore(start, budget));
  CensusCodes codes(lanes, start, false);
  for (const bool layers : {true, false}) {
    const auto code = codes.joined(layers);
    if (!code) continue;
    EXPECT_LE(code->bits, codes.apart().bits);
    std::set<std::vector<std::uint64_t>> keys;
    std::size_t written = 0;
    for (StateSpace::Number p = 0; p < space.size(); ++p) {
      const std::uint64_t depth = space.depth(p);
      auto key = code->key(space.row(p), depth);
      if (!key) continue;
      ++written;
      EXPECT_TRUE(std::ranges::equal(code->row(*key, lanes.words(), depth), space.row(p)));
      for (std::uint32_t bit = code->bits; bit < code->words() * 64; ++bit) {
        EXPECT_FALSE(holds(*key, bit));
      }
      if (!code->clock.fluents.empty()) key->push_back(depth);
      keys.insert(*key);
    }
    EXPECT_EQ(keys.size(), written);
    EXPECT_GT(written, 0u);
  }
  // What random games did not show is shown, and written then.
  MendedRows missed;
  const PositionCode apart = codes.apart();
  for (StateSpace::Number p = 0; p < space.size(); ++p) {
    if (apart.key(space.row(p))) continue;
    missed.rows.insert(missed.rows.end(), space.row(p).begin(), space.row(p).end());
    missed.depths.push_back(space.depth(p));
  }
  codes.mend(missed);
  EXPECT_EQ(codes.mended().rows, missed.rows);
  const PositionCode mended = codes.apart();
  for (StateSpace::Number p = 0; p < space.size(); ++p) EXPECT_TRUE(mended.key(space.row(p)));
  const auto joined = codes.joined(false);
  for (std::size_t i = 0; joined && i < missed.depths.size(); ++i) {
    EXPECT_TRUE(joined->key(std::span(missed.rows).subspan(i * lanes.words(), lanes.words())));
  }
}

TEST(CensusCodes, WriteEveryPositionOnce) {
  for (const char* name : {"espalier_3x3", "snails", "sprinklers", "cellar", "hedgerow", "pickers",
                           "barrow_lane", "graft", "moles"}) {
    SCOPED_TRACE(name);
    expect_keys_of_all_positions(testing::load(name));
  }
  int compared = 0;
  for (std::uint64_t seed = 100; seed < 140 && !::testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game || GameAccess::core(*game)->lanes() == nullptr) continue;
    expect_keys_of_all_positions(*game);
    ++compared;
  }
  EXPECT_GT(compared, 30);
}

// The same from the same rows in the same order: what is saved with a checkpoint is read by it.
TEST(CensusCodes, AreTheSameAgain) {
  const Game game = testing::load("barrow_lane");
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto start = lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
  StateSpace space(lanes);
  Budget budget;
  budget.positions = 20'000;
  ASSERT_TRUE(space.explore(start, budget));
  CensusCodes once(lanes, start, false);
  MendedRows all;
  for (StateSpace::Number p = space.size() - 40; p < space.size(); ++p) {
    MendedRows one{{space.row(p).begin(), space.row(p).end()}, {space.depth(p)}};
    once.mend(one);
    all.rows.insert(all.rows.end(), one.rows.begin(), one.rows.end());
    all.depths.push_back(one.depths.front());
  }
  CensusCodes again(lanes, start, false);
  again.mend(all);
  const auto same = [](const PositionCode& a, const PositionCode& b) {
    EXPECT_EQ(a.bits, b.bits);
    EXPECT_EQ(a.always, b.always);
    EXPECT_EQ(a.never, b.never);
    ASSERT_EQ(a.groups.size(), b.groups.size());
    for (std::size_t g = 0; g < a.groups.size(); ++g) {
      EXPECT_EQ(a.groups[g].fluents, b.groups[g].fluents);
      EXPECT_EQ(a.groups[g].patterns, b.groups[g].patterns);
    }
  };
  same(once.apart(), again.apart());
  same(once.joined(false).value(), again.joined(false).value());
}

}  // namespace
}  // namespace orchard::explore::key_bitmap_test
