// Stores of keys, driven as a census drives them, against the explored space: what each layer is,
// with a save and another store that goes on from it in the middle of a layer.
#include "explore/stores/key_store.hpp"

#include <gtest/gtest.h>

#include <set>

#include "explore/keys/census_codes.hpp"
#include "explore/sampling/grouped_joints.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "explore/space/state_space.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::explore::key_store_test {
namespace {

std::vector<std::uint64_t> start_of(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  return lanes.row(*lanes.bits(GameAccess::state(game.initial()).fluents()));
}

template <std::size_t words>
using MakeStore = std::function<std::unique_ptr<KeptLayers<words>>()>;

// Goes through the game by a store; in each layer it is saved, and another one goes on.
template <std::size_t words>
class Drive {
 public:
  Drive(const KeyedGame& game, const StateSpace& space, const MakeStore<words>& make,
        unsigned threads)
      : game_(game), space_(space), make_(make), crew_(threads), store_(make()) {}

  void run(std::span<const std::uint64_t> start, bool saves) {
    const auto first = game_.code().key(start);
    Key<words> key{};
    std::ranges::copy(*first, key.begin());
    store_->begin(key);
    std::vector<LayerWorker> workers(crew_.workers());
    std::uint64_t before = 0;
    std::uint64_t depth = 0;
    for (; depth < space_.depths().size(); ++depth) {
      store_->enter_next_layer(crew_);
      for (int round = 0; store_->expand_some(crew_, depth, true, workers); ++round) {
        const bool changes = saves && round == 1;
        if (store_->is_full() || changes) store_->collect(crew_);
        EXPECT_LE(store_->surely_reached(), store_->reached());
        if (changes) change_store();
      }
      BlockCounts counts;
      for (LayerWorker& worker : workers) {
        ASSERT_FALSE(worker.faults.any());
        counts.add(worker.counts);
        worker.counts = {};
      }
      EXPECT_EQ(counts.positions, size_of(depth)) << "depth " << depth;
      before += counts.positions;
      EXPECT_EQ(store_->surely_reached(), before + size_of(depth + 1));
      EXPECT_EQ(store_->reached(), store_->surely_reached());
    }
  }
  // Of a store that keeps all layers.
  void expect_layers() const {
    for (std::uint64_t depth = 0; depth < space_.depths().size(); ++depth) {
      std::set<std::vector<std::uint64_t>> rows;
      std::size_t visited = 0;
      store_->visit_layer(depth, [&](std::span<const Key<words>> keys) {
        EXPECT_LE(keys.size(), circuit::lanes);
        for (const Key<words>& key : keys) {
          rows.insert(game_.code().row(key, space_.words(), depth));
          ++visited;
        }
        return true;
      });
      EXPECT_EQ(visited, size_of(depth));
      EXPECT_EQ(rows.size(), visited);
      for (StateSpace::Number p = first_of(depth); p < first_of(depth + 1); ++p) {
        EXPECT_TRUE(rows.contains({space_.row(p).begin(), space_.row(p).end()}));
      }
      int blocks = 0;
      store_->visit_layer(depth, [&](auto&&) { return ++blocks, false; });
      EXPECT_EQ(blocks, 1);
    }
  }

 private:
  StateSpace::Number first_of(std::uint64_t depth) const {
    return depth < space_.depths().size() ? space_.depths()[depth] : space_.size();
  }
  std::uint64_t size_of(std::uint64_t depth) const { return first_of(depth + 1) - first_of(depth); }
  void change_store() {
    {
      StateWriter writer(folder_.path("kept"), "store", "test");
      store_->save(writer);
      ASSERT_TRUE(writer.finish().empty());
    }
    store_ = make_();
    auto saved = StateReader::open(folder_.path("kept"), "store", "test").value();
    store_->load(*saved);
  }

  const KeyedGame& game_;
  const StateSpace& space_;
  const MakeStore<words>& make_;
  Crew crew_;
  std::unique_ptr<KeptLayers<words>> store_;
  const testing::TemporaryFolder folder_;
};

template <std::size_t words>
void expect_layers_in_runs(const KeyedGame& game, const StateSpace& space,
                           std::span<const std::uint64_t> start) {
  const testing::TemporaryFolder folder;
  for (const unsigned threads : {1u, 3u}) {
    for (const bool keeps : {true, false}) {
      RunPlan plan{game.measure().step != 0, keeps, 1 << 20, std::nullopt};
      if (threads == 3) plan.files = RunShelf::Files{folder.path("runs"), 2000};
      const MakeStore<words> make = [&] { return make_run_store<words>(game, plan, threads); };
      Drive<words> drive(game, space, make, threads);
      drive.run(start, !keeps || threads == 1);
      if (keeps) drive.expect_layers();
    }
  }
}

// The number of words of its keys; none if it has no keys.
std::optional<std::size_t> expect_layers_of(const Game& game) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr || !KeyedGame::can_be_made(*lanes)) return std::nullopt;
  const auto start = start_of(game);
  StateSpace space(*lanes);
  Budget budget;
  budget.positions = 200'000;
  if (space.explore(start, budget).value() != Ending::complete) return std::nullopt;
  CensusCodes codes(*lanes, start, false);
  // A code that writes every position: nothing has to be mended.
  MendedRows missing;
  for (StateSpace::Number p = 0; p < space.size(); ++p) {
    if (codes.apart().key(space.row(p))) continue;
    codes.mend({{space.row(p).begin(), space.row(p).end()}, {space.depth(p)}});
  }
  for (const bool apart : {true, false}) {
    if (apart && codes.measure().step == 0) continue;
    const auto keyed =
        KeyedGame::make(*lanes, codes.apart(), apart ? codes.measure() : Measure{}, {});
    const std::size_t words = keyed->code().words();
    if (words == 1) expect_layers_in_runs<1>(*keyed, space, start);
    if (words == 2) expect_layers_in_runs<2>(*keyed, space, start);
    if (words == 3) expect_layers_in_runs<3>(*keyed, space, start);
  }
  return codes.apart().words();
}

TEST(KeyStore, RunsHaveTheLayersOfTheExploredSpace) {
  EXPECT_EQ(expect_layers_of(testing::load("espalier_3x3")), 1u);
  EXPECT_EQ(expect_layers_of(testing::load("snails")), 1u);
  EXPECT_EQ(expect_layers_of(testing::load("channel", {{"rows", 2}, {"columns", 3}})), 1u);
  EXPECT_EQ(expect_layers_of(testing::load("silo", {{"heights", 2}, {"bins", 4}})), 1u);
  int compared = 0;
  for (std::uint64_t seed = 200; seed < 215 && !::testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE(testing::random_rules(seed));
    const auto game = Game::from_text(testing::random_rules(seed));
    if (game && expect_layers_of(*game)) ++compared;
  }
  EXPECT_GT(compared, 5);
}

// All ways of choosing are there where roles choose one at a time, and where they do not that is
// seen; against the moves of random games.
TEST(GroupedJoints, AreTheJointMovesOrOthersAreSeen) {
  int compared = 0;
  std::vector<Game> games{testing::load("silo"), testing::load("pickers"), testing::load("graft")};
  for (std::uint64_t seed = 0; seed < 40; ++seed) {
    if (const auto game = Game::from_text(testing::random_rules(seed))) games.push_back(*game);
  }
  for (const Game& game : games) {
    const LaneGame* const lanes = GameAccess::core(game)->lanes();
    if (lanes == nullptr) continue;
    const auto joints = grouped_joints(lanes->choice_groups());
    if (joints.empty()) continue;
    const std::set<JointNumbers> known(joints.begin(), joints.end());
    EXPECT_EQ(known.size(), joints.size());
    circuit::Network network = lanes->network().network;
    const circuit::Signal others =
        other_joints(network, lanes->choice_groups(), lanes->network().legal);
    LaneEvaluator evaluator(*lanes);
    SampledGames samples(*lanes);
    Random random(1);
    std::vector<std::vector<std::uint32_t>> legal(lanes->ground().moves().size());
    samples.play(50, start_of(game), random, 40,
                 [&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> at,
                     const LaneEvaluator& there) {
                   Watch watch(*lanes, network, {others});
                   watch.look(rows, at.size());
                   for (std::size_t i = 0; i < at.size(); ++i) {
                     if (there.terminal(i)) continue;
                     for (std::size_t role = 0; role < legal.size(); ++role) {
                       there.legal(i, role, legal[role]);
                     }
                     bool all = true;
                     each_joint_move(legal, [&](const JointNumbers& joint) {
                       all = all && known.contains(joint);
                     });
                     EXPECT_TRUE(all || watch.holds(0, i));
                     ++compared;
                   }
                 });
  }
  EXPECT_GT(compared, 1000);
}

}  // namespace
}  // namespace orchard::explore::key_store_test
