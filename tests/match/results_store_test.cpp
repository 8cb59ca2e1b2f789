// Results in a file: what is there is not played again, and sums are as if played in one go.
#include <SQLiteCpp/SQLiteCpp.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <thread>

#include "orchard/results_store.hpp"
#include "orchard/series.hpp"
#include "support/files.hpp"

namespace orchard::results_store_test {
namespace {

using ::testing::HasSubstr;

Game espalier() {
  return Game::load(testing::game_path("espalier_3x3")).value();
}

SeriesOptions options_of(std::uint64_t games) {
  SeriesOptions options;
  options.players = {{"Ada", "random"}, {"Ben", "greedy"}};
  options.games = games;
  options.seed = 3;
  return options;
}

void expect_same(const SeriesResult& a, const SeriesResult& b) {
  EXPECT_EQ(a.games, b.games);
  EXPECT_EQ(a.lengths, b.lengths);
  EXPECT_EQ(a.better, b.better);
  for (std::size_t p = 0; p < a.by_player.size(); ++p) {
    EXPECT_EQ(a.by_player[p].wins, b.by_player[p].wins);
    EXPECT_EQ(a.by_player[p].draws, b.by_player[p].draws);
    EXPECT_EQ(a.by_player[p].losses, b.by_player[p].losses);
    EXPECT_EQ(a.by_player[p].goals, b.by_player[p].goals);
    EXPECT_EQ(a.by_player[p].choices, b.by_player[p].choices);
    for (std::size_t seat = 0; seat < 2; ++seat) {
      EXPECT_EQ(a.by_seat[p][seat].wins, b.by_seat[p][seat].wins);
    }
  }
}

TEST(ResultsStore, ASeriesGoesOnWhereItWas) {
  const testing::TemporaryFolder folder;
  const std::string path = folder.path("results.sqlite");
  const Game game = espalier();
  const SeriesResult at_once = run_series(game, options_of(120)).value();
  for (const std::uint64_t games : {40u, 90u, 120u}) {
    SeriesOptions options = options_of(games);
    options.store = ResultsStore::open(path).value();
    options.threads = 2;
    const SeriesResult part = run_series(game, options).value();
    EXPECT_EQ(part.games, games);
    EXPECT_EQ(part.stored, games == 40 ? 0u : games == 90 ? 40u : 90u);
    if (games == 120) expect_same(part, at_once);
  }
  // All of it from the file.
  SeriesOptions options = options_of(120);
  options.store = ResultsStore::open(path).value();
  const SeriesResult again = run_series(game, options).value();
  EXPECT_EQ(again.stored, 120u);
  expect_same(again, at_once);
}

TEST(ResultsStore, OtherSeriesAreKeptApart) {
  const testing::TemporaryFolder folder;
  const ResultsStore store = ResultsStore::open(folder.path("results.sqlite")).value();
  const Game game = espalier();
  const auto played = [&](const SeriesOptions& asked, const Game& of) {
    SeriesOptions options = asked;
    options.store = store;
    return run_series(of, options).value().stored;
  };
  EXPECT_EQ(played(options_of(10), game), 0u);
  SeriesOptions other_seed = options_of(10);
  other_seed.seed = 4;
  EXPECT_EQ(played(other_seed, game), 0u);
  SeriesOptions other_player = options_of(10);
  other_player.players[1].who = "careful";
  EXPECT_EQ(played(other_player, game), 0u);
  SeriesOptions seated = options_of(10);
  seated.fixed_seats = true;
  EXPECT_EQ(played(seated, game), 0u);
  EXPECT_EQ(played(options_of(10), Game::load(testing::game_path("snails")).value()), 0u);
  EXPECT_EQ(played(options_of(10), game), 10u);
  const auto entries = store.entries().value();
  ASSERT_EQ(entries.size(), 5u);
  EXPECT_EQ(entries[0].game, "espalier_3x3.gdl");
  EXPECT_THAT(entries[0].players, ::testing::ElementsAre("Ada", "Ben"));
  EXPECT_EQ(entries[0].matches, 10u);
}

TEST(ResultsStore, SaysWhatItCannotUse) {
  const testing::TemporaryFolder folder;
  const auto fault = [](const std::string& path) {
    const auto store = ResultsStore::open(path);
    return store ? "none" : store.diagnostics().render();
  };
  EXPECT_THAT(fault(folder.write("text", "this is no database, but long enough to be read")),
              HasSubstr("[cannot-store]"));
  EXPECT_THAT(fault(folder.path("nowhere/results.sqlite")), HasSubstr("[cannot-store]"));
}

TEST(RoundRobin, EveryPairPlaysAndTheStrongerIsRatedHigher) {
  SeriesOptions options;
  options.players = {{"r", "random"}, {"c", "careful"}, {"g", "greedy"}};
  options.games = 60;
  const RoundRobinResult result = run_round_robin(espalier(), options).value();
  EXPECT_EQ(result.games, 180u);
  for (std::size_t a = 0; a < 3; ++a) {
    EXPECT_EQ(result.by_player[a].games, 120u);
    for (std::size_t b = 0; b < 3; ++b) {
      if (a != b) {
        EXPECT_EQ(result.better[a][b] + result.better[b][a], 60);
      }
    }
  }
  EXPECT_GT(result.ratings[1].rating, result.ratings[0].rating);
  EXPECT_EQ(run_round_robin(espalier(), options_of(5)).diagnostics().items().front().code,
            "wrong-players");
}

// Three at a table: who did better than whom is counted for each two of them.
TEST(RoundRobin, MoreThanTwoSeats) {
  SeriesOptions options;
  options.players = {{"a", "random"}, {"b", "random"}, {"c", "random"}, {"d", "greedy"}};
  options.games = 6;
  const Game game = Game::load(testing::game_path("pickers")).value();
  const RoundRobinResult result = run_round_robin(game, options).value();
  EXPECT_EQ(result.games, 24u);  // four choices of three
  EXPECT_EQ(result.by_player[3].games, 18u);
  EXPECT_EQ(result.better[0][1] + result.better[1][0], 12);
}

TEST(ResultsStore, IsMadeBySeveralAtOnce) {
  for (int round = 0; round < 10; ++round) {
    const testing::TemporaryFolder folder;
    const std::string path = folder.path("results");
    std::vector<std::string> faults(4);
    {
      std::vector<std::jthread> openers;
      for (std::string& fault : faults) {
        openers.emplace_back([&] {
          const auto store = ResultsStore::open(path);
          if (!store) fault = store.diagnostics().render();
        });
      }
    }
    EXPECT_THAT(faults, ::testing::Each(""));
  }
}

TEST(ResultsStore, LeavesADatabaseOfOthersAlone) {
  const testing::TemporaryFolder folder;
  const std::string path = folder.path("other");
  {
    SQLite::Database other(path, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
    other.exec("CREATE TABLE trees (name TEXT)");
  }
  const std::string before = testing::read_file(path);
  EXPECT_THAT(ResultsStore::open(path).diagnostics().render(),
              HasSubstr("it holds something else"));
  EXPECT_EQ(testing::read_file(path), before);
}

TEST(ResultsStore, KeepsWholeMatchesIfWanted) {
  const testing::TemporaryFolder folder;
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  SeriesOptions options = options_of(12);
  options.store = ResultsStore::open(folder.path("r.sqlite")).value();
  options.moves = true;
  options.threads = 2;
  const SeriesResult result = run_series(game, options).value();
  const std::vector<MatchRecord> records = options.store->records().value();
  ASSERT_EQ(records.size(), 12u);
  std::uint64_t plies = 0;
  double goals = 0;
  for (const MatchRecord& record : records) {
    EXPECT_TRUE(verify_record(game, record).empty());
    EXPECT_EQ(record.players.size(), 2u);
    plies += record.joints.size();
    goals += static_cast<double>(record.end->goals.at("east") + record.end->goals.at("west"));
  }
  std::uint64_t counted = 0;
  for (const auto& [length, games] : result.lengths) counted += length * games;
  EXPECT_EQ(plies, counted);
  EXPECT_EQ(goals, result.by_player[0].goals + result.by_player[1].goals);
  // Without it only results are kept.
  options.store = ResultsStore::open(folder.path("s.sqlite")).value();
  options.moves = false;
  (void)run_series(game, options);
  EXPECT_TRUE(options.store->records().value().empty());
}

TEST(Series, AMatchThatIsCutShortDoesNotCount) {
  // A match of a game without end lasts as long as its plies: longer than the series.
  const Game game = Game::from_text(R"(
    (role r) (init (at a)) (step a b) (step b a) (way up) (way down)
    (<= (legal r ?w) (way ?w)) (<= (next (at ?y)) (true (at ?x)) (step ?x ?y))
    (<= terminal (true (at c))) (goal r 0))")
                        .value();
  SeriesOptions options;
  options.players = {{"Ada", "random"}};
  options.games = 3;
  options.plies = 1'000'000'000;
  options.budget.seconds = 0.2;
  const SeriesResult result = run_series(game, options).value();
  EXPECT_EQ(result.ending, Ending::time);
  EXPECT_EQ(result.games, 0u);
  EXPECT_EQ(result.unfinished, 0u);
}

}  // namespace
}  // namespace orchard::results_store_test
