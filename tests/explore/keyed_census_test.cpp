// Censuses on keys against censuses of positions as they are: the demo games, random descriptions,
// and rules that do rarely what random games do not show.
#include <gtest/gtest.h>

#include <filesystem>
#include <map>
#include <random>
#include <set>

#include "circuit/lanes/transpose.hpp"
#include "explore/keys/position_code.hpp"
#include "game/core.hpp"
#include "orchard/orchard.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::keyed_census_test {
namespace {

Census take(const Game& game, CensusStore store, CensusOptions options = {}) {
  options.store = store;
  return take_census(game, options).value();
}

void expect_equal(const Census& found, const Census& expected) {
  EXPECT_EQ(found.complete, expected.complete);
  EXPECT_EQ(found.ending, expected.ending);
  EXPECT_EQ(found.positions, expected.positions);
  ASSERT_EQ(found.depths.size(), expected.depths.size());
  for (std::size_t d = 0; d < found.depths.size(); ++d) {
    EXPECT_EQ(found.depths[d].depth, d);
    EXPECT_EQ(found.depths[d].positions, expected.depths[d].positions) << "depth " << d;
    EXPECT_EQ(found.depths[d].terminal, expected.depths[d].terminal) << "depth " << d;
    EXPECT_EQ(found.depths[d].stuck, expected.depths[d].stuck) << "depth " << d;
  }
}

bool on_keys(const Census& census) {
  return census.store.starts_with("keys");
}

bool in_bitmap(const Census& census) {
  return census.store.find("one bit for each possible key") != std::string::npos;
}

TEST(KeyedCensus, OfDemoGamesIsTheSame) {
  struct Case {
    const char* name;
    std::map<std::string, std::int64_t> sizes;
    std::optional<std::uint64_t> depth;
    const char* store;
    bool in_bitmap;
  };
  const Case cases[] = {
      {"espalier_3x3", {}, {}, "two layers at a time", true},
      {"silo", {{"heights", 3}, {"bins", 4}}, {}, "two layers at a time", true},
      {"silo", {}, 9, "two layers at a time", true},
      {"cellar", {}, {}, "all layers", true},
      {"snails", {}, {}, "all layers", true},
      {"sprinklers", {}, {}, "all layers", true},
      {"beeline", {}, {}, "two layers at a time", true},
      {"market_day", {}, {}, "", true},
      {"pickers", {}, 4, "", true},
      {"barrow_lane", {}, 5, "", true},
      {"graft", {{"rows", 4}, {"columns", 4}}, 5, "", false},  // two words a key
      {"graft", {{"rows", 7}, {"columns", 7}}, 3, "", false},  // three
  };
  for (const Case& one : cases) {
    SCOPED_TRACE(one.name);
    LoadOptions sizes;
    sizes.sizes = one.sizes;
    const Game game = Game::load(testing::game_path(one.name), sizes).value();
    CensusOptions options;
    options.depth = one.depth;
    const Census plain = take(game, CensusStore::plain, options);
    EXPECT_FALSE(on_keys(plain));
    const Census layers = take(game, CensusStore::layers, options);
    EXPECT_TRUE(on_keys(layers));
    EXPECT_TRUE(layers.store.ends_with(one.store)) << layers.store;
    expect_equal(layers, plain);
    options.threads = 3;
    const Census keys = take(game, CensusStore::keys, options);
    EXPECT_TRUE(keys.store.ends_with("all layers")) << keys.store;
    expect_equal(keys, plain);
    options.symmetry = false;
    expect_equal(take(game, CensusStore::layers, options), plain);
    const Census bitmap = take(game, CensusStore::bitmap, options);
    expect_equal(bitmap, plain);
    EXPECT_EQ(in_bitmap(bitmap), one.in_bitmap) << bitmap.store;
    const Census runs = take(game, CensusStore::runs, options);
    EXPECT_NE(runs.store.find("in coded runs"), std::string::npos) << runs.store;
    EXPECT_TRUE(runs.store.ends_with(one.store)) << runs.store;
    expect_equal(runs, plain);
    options.threads = 1;
    options.symmetry = true;
    expect_equal(take(game, CensusStore::bitmap, options), plain);
    expect_equal(take(game, CensusStore::runs, options), plain);
  }
}

// A square bed that can be turned and mirrored, planted by two who take turns: each plants a bed
// beside none of the rival's. Whoever cannot is done; the game ends when both are.
TEST(KeyedCensus, OneForAllThatAreAlike) {
  std::string rules = R"(
    (role fern) (role moss) (rival fern moss) (rival moss fern)
    (<= (init (bed ?r ?c bare)) (line ?r) (line ?c)) (init (turn fern))
    (<= (beside ?r ?c ?r ?d) (line ?r) (or (up ?c ?d) (up ?d ?c)))
    (<= (beside ?r ?c ?s ?c) (line ?c) (or (up ?r ?s) (up ?s ?r)))
    (<= (near ?who ?r ?c) (beside ?r ?c ?s ?d) (true (bed ?s ?d ?who)) (role ?who))
    (<= (could ?who ?r ?c) (rival ?who ?rival) (true (bed ?r ?c bare)) (not (near ?rival ?r ?c)))
    (<= (can ?who) (could ?who ?r ?c))
    (<= (legal ?who (plant ?r ?c)) (true (turn ?who)) (could ?who ?r ?c))
    (<= (legal ?who rest) (true (turn ?who)) (not (can ?who)))
    (<= (legal ?who rest) (true (turn ?rival)) (rival ?who ?rival))
    (<= (planted ?r ?c) (does ?who (plant ?r ?c)))
    (<= (next (bed ?r ?c ?who)) (does ?who (plant ?r ?c)))
    (<= (next (bed ?r ?c ?what)) (true (bed ?r ?c ?what)) (not (planted ?r ?c)))
    (<= (next (turn ?who)) (true (turn ?rival)) (rival ?who ?rival))
    (<= terminal (not (can fern)) (not (can moss)))
    (<= (goal ?who 50) (role ?who))
    (line 1) (line 2) (line 3) (up 1 2) (up 2 3)
  )";
  const Game square = Game::from_text(rules).value();
  const Census plain = take(square, CensusStore::plain);
  EXPECT_TRUE(plain.complete);
  EXPECT_GT(plain.depths.back().terminal, 0u);
  CensusOptions options;
  options.threads = 2;
  const Census alike = take(square, CensusStore::keys, options);
  EXPECT_NE(alike.store.find("one for up to 8 alike"), std::string::npos) << alike.store;
  expect_equal(alike, plain);
  options.symmetry = false;
  const Census every = take(square, CensusStore::keys, options);
  EXPECT_EQ(every.store.find("alike"), std::string::npos) << every.store;
  expect_equal(every, plain);
  // From a position that only a mirror keeps, or none, every position is looked at.
  options.symmetry = true;
  const Role fern = square.roles()[0];
  const auto joint =
      square.joint_move(square.initial(), fern, square.legal(square.initial(), fern)[0]);
  options.from = square.next(square.initial(), joint.value()).value();
  expect_equal(take(square, CensusStore::keys, options), take(square, CensusStore::plain, options));
}

TEST(KeyedCensus, OfRandomDescriptionsIsTheSame) {
  int compared = 0;
  int on = 0;
  int in = 0;
  for (std::uint64_t seed = 0; seed < 50 && !HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game) continue;
    CensusOptions options;
    options.depth = 6;
    const auto plain = take_census(*game, [&] {
      CensusOptions as_they_are = options;
      as_they_are.store = CensusStore::plain;
      as_they_are.budget.positions = 20'000;
      return as_they_are;
    }());
    if (!plain || plain->ending != Ending::complete) continue;
    const Census layers = take(*game, CensusStore::layers, options);
    expect_equal(layers, *plain);
    expect_equal(take(*game, CensusStore::keys, options), *plain);
    options.threads = 1 + seed % 2;
    const Census bitmap = take(*game, CensusStore::bitmap, options);
    expect_equal(bitmap, *plain);
    expect_equal(take(*game, CensusStore::runs, options), *plain);
    ++compared;
    on += on_keys(layers) ? 1 : 0;
    in += in_bitmap(bitmap) ? 1 : 0;
  }
  std::printf("%d descriptions compared, %d of them on keys, %d in bitmaps\n", compared, on, in);
  EXPECT_GT(on, 30);
  EXPECT_GT(in, 30);
}

// A gardener climbs a ladder of fifteen rungs and marks a step with every ply; by chance one move
// in two leads back to its foot, so random games hardly see its top. There a bell rings for good,
// no step is marked, and the dog, who otherwise sleeps, may bark or not.
constexpr const char* ladder = R"(
  (role gardener) (role dog)
  (init (rung 0)) (init (step 0))
  (legal gardener climb) (legal gardener slip)
  (legal dog sleep)
  (<= (legal dog bark) (true (rung 14)))
  (<= (next (rung ?m)) (does gardener climb) (true (rung ?n)) (after ?n ?m))
  (<= (next (rung 14)) (does gardener climb) (true (rung 14)))
  (<= (next (rung 0)) (does gardener slip))
  (<= (next (step ?n)) (true (step ?n)))
  (<= (next (step ?m)) (true (step ?n)) (after ?n ?m) (not (true (rung 14))))
  (<= (next bell) (true (rung 14)) (does dog bark))
  (<= (next bell) (true bell))
  (<= terminal (true (step 18)))
  (<= (goal gardener 100) (true bell))
  (goal dog 50)
)";

TEST(KeyedCensus, WhatRandomGamesDoNotShowIsMended) {
  std::string rules = ladder;
  for (int n = 0; n < 18; ++n) {
    rules += "(after " + std::to_string(n) + " " + std::to_string(n + 1) + ")";
  }
  const Game game = Game::from_text(rules).value();
  const Census plain = take(game, CensusStore::plain);
  EXPECT_TRUE(plain.complete);
  expect_equal(take(game, CensusStore::layers), plain);
  expect_equal(take(game, CensusStore::keys), plain);
  expect_equal(take(game, CensusStore::runs), plain);
  expect_equal(take(game, CensusStore::bitmap), plain);
}

TEST(KeyedCensus, BeginsAnywhereAndKeepsToItsBudget) {
  const Game game = Game::load(testing::game_path("silo")).value();
  CensusOptions options;
  options.depth = 7;
  const Position first = game.initial();
  const Role role = game.to_move(first).front();
  const Move move = game.legal(first, role).back();
  options.from = game.next(first, game.joint_move(first, role, move).value()).value();
  expect_equal(take(game, CensusStore::layers, options), take(game, CensusStore::plain, options));
  options = {};
  options.budget.positions = 100'000;
  const Census few = take(game, CensusStore::automatic, options);
  EXPECT_TRUE(on_keys(few));
  EXPECT_EQ(few.ending, Ending::positions);
  EXPECT_GE(few.positions, 100'000u);
  options.threads = 2;
  expect_equal(take(game, CensusStore::automatic, options), few);
  options.budget = {};
  options.budget.memory_bytes = 40'000'000;
  EXPECT_EQ(take(game, CensusStore::layers, options).ending, Ending::memory);
}

// Broken off again and again, with what was mended before.
TEST(KeyedCensus, GoesOnWhereItWasSaved) {
  std::string rules = ladder;
  // One at a time chooses: what two do at once has no keys.
  const std::string bark = "(<= (legal dog bark) (true (rung 14)))";
  rules.erase(rules.find(bark), bark.size());
  rules += "(<= (next bell) (true (rung 14)) (does gardener slip))";
  for (int n = 0; n < 18; ++n) {
    rules += "(after " + std::to_string(n) + " " + std::to_string(n + 1) + ")";
  }
  const Game rare = Game::from_text(rules).value();
  LoadOptions sizes;
  sizes.sizes = {{"heights", 3}, {"bins", 4}};
  const Game silo = Game::load(testing::game_path("silo"), sizes).value();
  for (const CensusStore store :
       {CensusStore::layers, CensusStore::keys, CensusStore::runs, CensusStore::bitmap}) {
    for (const auto* game : {&rare, &silo}) {
      const testing::TemporaryFolder folder;
      CensusOptions options;
      options.budget.checkpoint = {folder.path("kept"), 1000};
      const Census expected = take(*game, CensusStore::plain);
      int stops = 0;
      Census census;
      for (std::uint64_t positions = 30;; positions += expected.positions / 5, ++stops) {
        options.budget.positions = positions;
        options.threads = 1 + stops % 2;
        census = take(*game, store, options);
        if (game == &silo) {
          EXPECT_EQ(in_bitmap(census), store == CensusStore::bitmap) << census.store;
        }
        if (census.ending == Ending::complete) break;
      }
      EXPECT_GT(stops, 2);
      expect_equal(census, expected);
    }
  }
}

// Keys of two words and of three.
TEST(KeyedCensus, GoesOnWithLongKeys) {
  for (const auto& [size, store] : {std::pair{4, CensusStore::layers},
                                    {4, CensusStore::runs},
                                    {7, CensusStore::keys},
                                    {7, CensusStore::runs}}) {
    LoadOptions sizes;
    sizes.sizes = {{"rows", size}, {"columns", size}};
    const Game game = Game::load(testing::game_path("graft"), sizes).value();
    const testing::TemporaryFolder folder;
    CensusOptions options;
    options.depth = size == 4 ? 4 : 3;
    const Census expected = take(game, CensusStore::plain, options);
    options.budget.checkpoint = {folder.path("kept"), 1000};
    options.budget.positions = expected.positions / 10;
    const Census few = take(game, store, options);
    EXPECT_EQ(few.ending, Ending::positions);
    options.budget.positions.reset();
    options.threads = 2;
    const Census whole = take(game, store, options);
    EXPECT_TRUE(on_keys(whole));
    expect_equal(whole, expected);
    for (std::size_t d = 0; d < few.depths.size(); ++d) {
      EXPECT_EQ(few.depths[d].positions, expected.depths[d].positions);
    }
  }
}

// Progress tells depth and memory, and a budget of memory ends what keeps positions.
TEST(KeyedCensus, TellsItsProgress) {
  Budget budget;
  std::vector<Progress> reports;
  budget.progress = [&](const Progress& at) { reports.push_back(at); };
  Stopwatch stopwatch(budget);
  while (reports.empty()) EXPECT_EQ(stopwatch.check(5, 7, 1000), std::nullopt);
  EXPECT_EQ(reports.front().done, 5u);
  EXPECT_EQ(reports.front().depth, 7u);
  EXPECT_EQ(reports.front().bytes, 1000u);
  budget.memory_bytes = 1 << 20;
  EXPECT_EQ(Stopwatch(budget).check(1, 1, (1 << 20) + 1), Ending::memory);
  EXPECT_EQ(Stopwatch(budget).check(1, 1, 1 << 20), std::nullopt);
  const Game game = Game::load(testing::game_path("silo")).value();
  CensusOptions options;
  options.depth = 15;
  options.budget.memory_bytes = 1 << 20;
  for (const CensusStore store :
       {CensusStore::bitmap, CensusStore::layers, CensusStore::runs, CensusStore::plain}) {
    const Census census = take(game, store, options);
    EXPECT_EQ(census.ending, Ending::memory);
    EXPECT_FALSE(census.complete);
    EXPECT_GT(census.peak_bytes, 1u << 20);
  }
}

// Positions as they are take more memory than keys, and their end is not the end.
TEST(KeyedCensus, GoesOnWhereMemoryIsTooLittleForPositionsAsTheyAre) {
  const Game game = Game::load(testing::game_path("graft")).value();
  CensusOptions options;
  options.depth = 3;
  const Census expected = take(game, CensusStore::plain, options);
  options.budget.memory_bytes = 1 << 20;
  EXPECT_EQ(take(game, CensusStore::plain, options).ending, Ending::memory);
  const testing::TemporaryFolder folder;
  options.files = folder.path("keys");
  const Census on_files = take(game, CensusStore::automatic, options);
  EXPECT_TRUE(on_keys(on_files)) << on_files.store;
  expect_equal(on_files, expected);
}

// The clock is looked at whenever it is asked for, however rarely that is.
TEST(KeyedCensus, EndsInTime) {
  Budget none;
  none.seconds = 0;
  EXPECT_EQ(Stopwatch(none).check(1), Ending::time);
  Budget enough;
  enough.seconds = 1000;
  EXPECT_EQ(Stopwatch(enough).check(1), std::nullopt);
  const Game game = Game::load(testing::game_path("silo")).value();
  for (const CensusStore store :
       {CensusStore::bitmap, CensusStore::layers, CensusStore::runs, CensusStore::plain}) {
    CensusOptions options;
    options.budget.seconds = 0;
    const Census census = take(game, store, options);
    EXPECT_EQ(census.ending, Ending::time);
    EXPECT_FALSE(census.complete);
    EXPECT_LT(census.positions, 26'492'559u);
  }
}

// What runs take beyond some memory goes into files, which are gone afterwards.
TEST(KeyedCensus, GoesOnInFiles) {
  for (const auto& [name, sizes, depth] :
       {std::tuple{"silo", std::map<std::string, std::int64_t>{}, 17},
        {"graft", {{"rows", 4}, {"columns", 4}}, 7}}) {
    SCOPED_TRACE(name);
    LoadOptions smaller;
    smaller.sizes = sizes;
    const Game game = Game::load(testing::game_path(name), smaller).value();
    CensusOptions options;
    options.depth = depth;
    const Census expected = take(game, CensusStore::layers, options);
    const testing::TemporaryFolder folder;
    options.budget.memory_bytes = 4 << 20;
    EXPECT_EQ(take(game, CensusStore::runs, options).ending, Ending::memory);
    options.files = folder.path("runs");
    options.threads = 2;
    const Census runs = take(game, CensusStore::runs, options);
    expect_equal(runs, expected);
    EXPECT_NE(runs.store.find("partly in files"), std::string::npos) << runs.store;
    EXPECT_TRUE(std::filesystem::is_empty(folder.path("runs")));
    options.budget.memory_bytes = 1000 << 20;
    const Census in_memory = take(game, CensusStore::runs, options);
    EXPECT_EQ(in_memory.store.find("files"), std::string::npos) << in_memory.store;
    options.budget.memory_bytes = 4 << 20;
    options.files = folder.write("file", "no folder");
    options.store = CensusStore::runs;
    const auto refused = take_census(game, options);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.diagnostics().render().find("keys cannot be kept there: Not a directory"),
              std::string::npos)
        << refused.diagnostics().render();
  }
}

TEST(PositionCode, WritesWhatItSawAndRefusesTheRest) {
  const Game game = Game::from_text(R"(
    (role bee) (init (at 1 a)) (init (at 2 b)) (init sun) (legal bee stay)
    (<= (next (at ?r ?w)) (true (at ?r ?w))) (next (at 1 b)) (next (at 1 c)) (next (at 2 a)) (next rain)
    (<= (next sun) (true sun)) (<= terminal (true rain)) (goal bee 1))")
                        .value();
  const auto& lanes = *GameAccess::core(game)->lanes();
  const auto row = [&](const std::string& fluents) {
    std::vector<bool> bits(lanes.ground().fluents().size(), false);
    for (std::size_t f = 0; f < bits.size(); ++f) {
      bits[f] = fluents.find(lanes.ground().terms().text(lanes.ground().fluents()[f].term)) !=
                std::string::npos;
    }
    return lanes.row(bits);
  };
  explore::CodeFinder finder(lanes.ground());
  for (const char* seen : {"(at 1 a) (at 2 b) sun", "(at 1 b) (at 2 b) sun", "(at 1 b) sun"}) {
    finder.observe(row(seen));
  }
  const explore::PositionCode code = finder.code();
  EXPECT_EQ(code.bits, 2u);  // a or b in row 1; b in row 2 or nothing; the sun always shines
  std::set<std::vector<std::uint64_t>> keys;
  for (const char* written :
       {"(at 1 a) (at 2 b) sun", "(at 1 b) (at 2 b) sun", "(at 1 b) sun", "(at 1 a) sun"}) {
    const auto key = code.key(row(written));
    ASSERT_TRUE(key) << written;
    EXPECT_EQ(code.row(*key, row(written).size()), row(written)) << written;
    keys.insert(*key);
  }
  EXPECT_EQ(keys, (std::set<std::vector<std::uint64_t>>{{0}, {1}, {2}, {3}}));
  for (const char* refused :
       {"(at 1 a) (at 2 b)", "(at 2 b) sun", "(at 1 a) (at 1 b) sun", "(at 1 c) (at 2 b) sun",
        "(at 1 a) (at 2 a) sun", "(at 1 a) sun rain"}) {
    EXPECT_FALSE(code.key(row(refused))) << refused;
  }
}

TEST(Transpose, FewBitsToTheirPlaces) {
  std::mt19937_64 random(1);
  std::vector<circuit::LaneBlock> blocks(9);
  for (auto& block : blocks) {
    for (auto& word : block.words) word = random();
  }
  const std::vector<std::uint8_t> places{0, 3, 7, 8, 30, 31, 32, 62, 63};
  std::vector<std::uint64_t> rows(circuit::lanes, ~std::uint64_t{0});
  circuit::lanes_to_places(blocks, places, rows);
  for (std::size_t lane = 0; lane < circuit::lanes; ++lane) {
    std::uint64_t expected = 0;
    for (std::size_t i = 0; i < places.size(); ++i) {
      expected |= (blocks[i].words[lane / 64] >> (lane % 64) & 1) << places[i];
    }
    ASSERT_EQ(rows[lane], expected) << lane;
  }
}

}  // namespace
}  // namespace orchard::keyed_census_test
