#include "orchard/census.hpp"

#include <gtest/gtest.h>

#include <map>
#include <set>

#include "explore/census/expander.hpp"
#include "explore/census/position_store.hpp"
#include "game/lane_game.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"

namespace orchard::census_test {
namespace {

// Espalier straight from the rules in words, without the library: squares row by row from the
// bottom wire, 0 bare, 1 east, 2 west.
class HandMadeEspalier {
 public:
  HandMadeEspalier(int rows, int columns) : rows_(rows), columns_(columns) {}

  struct Depth {
    std::uint64_t positions = 0, ends = 0, sequences = 0;
  };

  std::vector<Depth> count(int depths) {
    using Trellis = std::string;
    std::map<Trellis, std::uint64_t> layer{
        {Trellis(static_cast<std::size_t>(rows_ * columns_), '0'), 1}};
    std::vector<Depth> result;
    for (int depth = 0; depth < depths && !layer.empty(); ++depth) {
      Depth row;
      std::map<Trellis, std::uint64_t> next;
      for (const auto& [trellis, sequences] : layer) {
        ++row.positions;  // the number of branches grows, so no depth sees a position twice
        row.sequences += sequences;
        if (won(trellis, '1') || won(trellis, '2') || trellis.find('0') == Trellis::npos) {
          ++row.ends;
          continue;
        }
        for (int r = 0; r < rows_; ++r) {
          for (int c = 0; c < columns_; ++c) {
            if (!may_tie(trellis, r, c)) continue;
            Trellis grown = trellis;
            grown[index(r, c)] = depth % 2 == 0 ? '1' : '2';
            next[grown] += sequences;
          }
        }
      }
      result.push_back(row);
      layer = std::move(next);
    }
    return result;
  }

 private:
  std::size_t index(int r, int c) const { return static_cast<std::size_t>(r * columns_ + c); }
  bool tied(const std::string& trellis, int r, int c) const {
    return r >= 0 && r < rows_ && c >= 0 && c < columns_ && trellis[index(r, c)] != '0';
  }
  bool may_tie(const std::string& trellis, int r, int c) const {
    if (tied(trellis, r, c)) return false;
    return r == 0 || tied(trellis, r - 1, c) || tied(trellis, r + 1, c) ||
           tied(trellis, r, c - 1) || tied(trellis, r, c + 1);
  }
  bool won(const std::string& trellis, char who) const {
    for (int side = 1; side < rows_ && side < columns_; ++side) {
      for (int r = 0; r + side < rows_; ++r) {
        for (int c = 0; c + side < columns_; ++c) {
          if (trellis[index(r, c)] == who && trellis[index(r + side, c)] == who &&
              trellis[index(r, c + side)] == who && trellis[index(r + side, c + side)] == who) {
            return true;
          }
        }
      }
    }
    return false;
  }

  int rows_, columns_;
};

Game load(std::string_view name) {
  return Game::load(testing::game_path(name)).value();
}

void expect_same(const Census& census, const std::vector<HandMadeEspalier::Depth>& by_hand) {
  ASSERT_EQ(census.depths.size(), by_hand.size());
  for (std::size_t d = 0; d < by_hand.size(); ++d) {
    SCOPED_TRACE(d);
    EXPECT_EQ(census.depths[d].depth, d);
    EXPECT_EQ(census.depths[d].positions, by_hand[d].positions);
    EXPECT_EQ(census.depths[d].terminal, by_hand[d].ends);
    EXPECT_EQ(census.depths[d].stuck, 0u);
    EXPECT_EQ(census.depths[d].sequences, std::to_string(by_hand[d].sequences));
  }
}

TEST(Census, OfEspalier3x3EqualsTheCountByHand) {
  CensusOptions options;
  options.sequences = true;
  const Census census = take_census(load("espalier_3x3"), options).value();
  EXPECT_TRUE(census.complete);
  EXPECT_EQ(census.ending, Ending::complete);
  expect_same(census, HandMadeEspalier(3, 3).count(100));
  // Without sequences the same positions are counted.
  const Census plain = take_census(load("espalier_3x3")).value();
  for (std::size_t d = 0; d < census.depths.size(); ++d) {
    EXPECT_EQ(plain.depths[d].positions, census.depths[d].positions);
    EXPECT_EQ(plain.depths[d].sequences, std::nullopt);
  }
}

TEST(Census, OfEspalier4x5EqualsTheCountByHandToDepthFive) {
  CensusOptions options;
  options.sequences = true;
  options.depth = 5;
  const Census census = take_census(load("espalier"), options).value();
  EXPECT_FALSE(census.complete);
  EXPECT_EQ(census.ending, Ending::complete);
  expect_same(census, HandMadeEspalier(4, 5).count(6));
}

const char* const ring = R"(
  (role r) (init (at 0)) (s 0 1) (s 1 2) (s 2 0) (legal r on) (legal r stay)
  (<= (next (at ?y)) (does r on) (true (at ?x)) (s ?x ?y))
  (<= (next (at ?x)) (does r stay) (true (at ?x))))";

TEST(Census, CountsAPositionWhereItIsFirstReached) {
  const Game game = Game::from_text(ring).value();
  const Census census = take_census(game).value();
  EXPECT_TRUE(census.complete);
  ASSERT_EQ(census.depths.size(), 3u);
  for (const CensusDepth& row : census.depths) EXPECT_EQ(row.positions, 1u);
  // Sequences go round for ever; a depth bounds them, revisited positions count on.
  CensusOptions options;
  options.sequences = true;
  options.depth = 70;
  const Census sequences = take_census(game, options).value();
  EXPECT_EQ(sequences.positions, 3u);
  EXPECT_EQ(sequences.depths[70].positions, 0u);
  EXPECT_EQ(sequences.depths[70].sequences, "1180591620717411303424");  // 2^70
  options.depth = 130;
  EXPECT_EQ(take_census(game, options).value().depths[130].sequences, std::nullopt);
}

TEST(Census, CountsRolesWithoutAMove) {
  const Game game = Game::from_text("(role a)(role b)(init s)(legal a go)(next s)").value();
  const Census census = take_census(game).value();
  EXPECT_TRUE(census.complete);
  EXPECT_EQ(census.depths.at(0).stuck, 1u);
}

TEST(Census, CountsEveryMoveOfChanceAndEveryJointMove) {
  const Game game = Game::from_text(
                        "(role random)(role a)(d 1)(d 2)(d 3)(init start)(<= (legal ?r (pick ?n)) "
                        "(role ?r) (d ?n))"
                        "(<= (next (got ?x ?y)) (does random (pick ?x)) (does a (pick ?y)))"
                        "(<= terminal (not (true start)))")
                        .value();
  const Census census = take_census(game).value();
  EXPECT_EQ(census.depths.at(1).positions, 9u);
  EXPECT_EQ(census.depths.at(1).terminal, 9u);
}

TEST(Census, EndsWithItsBudget) {
  const Game game = load("espalier");
  CensusOptions options;
  options.budget.positions = 5000;
  const Census some = take_census(game, options).value();
  EXPECT_EQ(some.ending, Ending::positions);
  EXPECT_FALSE(some.complete);
  EXPECT_GE(some.positions, 5000u);
  const auto by_hand = HandMadeEspalier(4, 5).count(static_cast<int>(some.depths.size()));
  for (std::size_t d = 0; d < some.depths.size(); ++d) {
    EXPECT_EQ(some.depths[d].positions, by_hand[d].positions);  // depths reported are exact
  }
  CensusOptions little;
  little.budget.memory_bytes = 1 << 21;
  EXPECT_EQ(take_census(game, little).value().ending, Ending::memory);
  CensusOptions stopped;
  std::stop_source source;
  source.request_stop();
  stopped.budget.stop = source.get_token();
  EXPECT_EQ(take_census(game, stopped).value().ending, Ending::stopped);
}

// Against a map, on random keys, the empty one among them.
TEST(PositionStore, KeepsEveryPositionOnce) {
  PositionStore store;
  std::map<std::string, std::uint64_t> model;
  Random random(7);
  for (int i = 0; i < 3000; ++i) {
    std::string key;
    for (std::uint64_t k = random.below(5); k > 0; --k) {
      key += static_cast<char>(random.below(8) * random.below(30));
    }
    const auto [number, is_new] = store.add(key);
    const auto [known, unknown] = model.try_emplace(key, model.size());
    EXPECT_EQ(number, known->second);
    EXPECT_EQ(is_new, unknown);
  }
  EXPECT_EQ(store.size(), model.size());
  for (const auto& [key, number] : model) EXPECT_EQ(store.key(number), key);
}

// The circuit and the reference evaluator find the same steps, in the same order.
TEST(Expander, BothKindsAgree) {
  for (const char* const name : {"espalier_3x3", "channel", "barrow_lane"}) {
    const Game game = load(name);
    const GameCore& core = *GameAccess::core(game);
    const std::unique_ptr<Expander> expanders[] = {make_reference_expander(core),
                                                   make_lane_expander(*core.lanes())};
    std::vector<std::vector<std::string>> layers;
    for (const auto& expander : expanders) {
      layers.push_back({expander->key_of(GameAccess::state(game.initial()).fluents())});
    }
    for (int depth = 0; depth < 4; ++depth) {
      std::vector<std::vector<std::pair<Expander::Kind, std::size_t>>> found(2);
      for (std::size_t e = 0; e < 2; ++e) {
        Expander& expander = *expanders[e];
        std::vector<std::string> next;
        layers[e].resize(std::min<std::size_t>(layers[e].size(), 700));
        for (std::size_t first = 0; first < layers[e].size(); first += expander.most()) {
          const std::size_t count = std::min(expander.most(), layers[e].size() - first);
          const std::vector<std::string_view> keys(
              layers[e].begin() + static_cast<std::ptrdiff_t>(first),
              layers[e].begin() + static_cast<std::ptrdiff_t>(first + count));
          expander.set(keys);
          for (std::size_t i = 0; i < count; ++i) found[e].push_back({expander.kind(i), 0});
          expander.expand([&](std::size_t at, std::string_view key) {
            ++found[e][first + at].second;
            next.emplace_back(key);
          });
        }
        layers[e] = std::move(next);
      }
      EXPECT_EQ(found[0], found[1]) << name << " depth " << depth;
    }
  }
}

}  // namespace
}  // namespace orchard::census_test
