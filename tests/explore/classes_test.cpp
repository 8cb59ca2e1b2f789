// A space of which one position of each class is kept, against the whole one.
#include <gtest/gtest.h>

#include <map>
#include <set>

#include "explore/space/state_space.hpp"
#include "game/core.hpp"
#include "orchard/game.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"
#include "support/symmetric_rules.hpp"

namespace orchard::explore::classes_test {
namespace {

using Number = StateSpace::Number;
using Bits = std::vector<std::uint64_t>;

struct Sample {
  Game game;
  std::string what;
};

// Games whose rules say the same of several positions, and some that do not.
std::vector<Sample> samples() {
  std::vector<Sample> result;
  const auto load = [&](const char* name, std::map<std::string, std::int64_t> sizes) {
    LoadOptions options;
    options.sizes = std::move(sizes);
    result.push_back({Game::load(testing::game_path(name), options).value(), name});
  };
  load("espalier_3x3", {});
  load("moles", {{"rows", 2}, {"columns", 2}, {"moles", 1}});
  load("graft", {{"rows", 3}, {"columns", 3}});
  load("snails", {});
  load("cellar", {{"places", 2}, {"kinds", 3}, {"tries", 2}});
  load("cellar", {{"places", 2}, {"kinds", 4}, {"tries", 2}});  // a subgroup
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    const std::string rules = testing::symmetric_rules(seed);
    result.push_back({Game::from_text(rules).value(), rules});
  }
  for (std::uint64_t seed = 1; seed <= 20; ++seed) {
    const auto game = Game::from_text(testing::random_rules(seed));
    if (game) result.push_back({*game, testing::random_rules(seed)});
  }
  return result;
}

struct Both {
  const LaneGame& lanes;
  StateSpace whole;
  StateSpace classes;
  Ending ending;

  explicit Both(const Game& game, std::uint64_t most = 20'000)
      : lanes(*GameAccess::core(game)->lanes()),
        whole(lanes),
        classes(lanes, SymmetryGroup::of(lanes, lanes, start())) {
    Budget budget;
    budget.positions = most;
    ending = whole.explore(start(), budget).value();
    if (ending == Ending::complete) {
      EXPECT_EQ(classes.explore(start(), {}).value(), Ending::complete);
    }
  }
  Bits start() const { return lanes.row(lanes.ground().initial()); }
};

Bits bits_of(const StateSpace& space, Number position) {
  Bits made;
  const StateSpace::Row row = space.row(position, made);
  return Bits(row.begin(), row.end());
}

std::multiset<Bits> followers(const StateSpace& space, Number position) {
  std::multiset<Bits> result;
  for (const Number next : space.steps(position)) result.insert(bits_of(space, next));
  return result;
}

// The five kinds may change places in 120 ways, more than are kept: a part of them that is closed.
TEST(Classes, AreOfASubgroupWhereThereIsTooMuchSymmetry) {
  LoadOptions options;
  options.sizes = {{"places", 2}, {"kinds", 5}, {"tries", 2}};
  const Game game = Game::load(testing::game_path("cellar"), options).value();
  const Both both(game, 100'000);
  ASSERT_EQ(both.ending, Ending::complete);
  const SymmetryGroup& group = both.classes.symmetry();
  EXPECT_GE(group.size(), 8u);
  EXPECT_LE(group.size(), SymmetryGroup::most);
  EXPECT_EQ(both.classes.positions(), both.whole.positions());
  EXPECT_LT(both.classes.classes() * 4, both.whole.classes());
  for (std::size_t a = 0; a < group.size(); ++a) {
    const auto one = static_cast<SymmetryGroup::Element>(a);
    EXPECT_EQ(group.times(one, group.inverse(one)), 0);
    std::set<std::size_t> products;
    for (std::size_t b = 0; b < group.size(); ++b) {
      products.insert(group.times(one, static_cast<SymmetryGroup::Element>(b)));
    }
    EXPECT_EQ(products.size(), group.size());
  }
  Bits renamed(both.whole.words());
  for (Number p = 0; p < both.whole.size(); p += 7) {
    for (std::size_t e = 1; e < group.size(); ++e) {
      group.rename(both.whole.row(p), static_cast<SymmetryGroup::Element>(e), renamed.data());
      const auto other = both.whole.find(renamed);
      ASSERT_TRUE(other.has_value());
      EXPECT_EQ(both.whole.depth(*other), both.whole.depth(p));
    }
  }
}

TEST(Classes, TogetherAreTheWholeSpace) {
  std::size_t with_symmetry = 0;
  std::size_t with_fixed = 0;  // classes smaller than the symmetry
  for (const Sample& sample : samples()) {
    SCOPED_TRACE(sample.what);
    if (GameAccess::core(sample.game)->lanes() == nullptr) continue;
    const Both both(sample.game);
    if (both.ending != Ending::complete) continue;
    const StateSpace& whole = both.whole;
    const StateSpace& classes = both.classes;
    ASSERT_EQ(classes.positions(), whole.positions());
    ASSERT_EQ(classes.depths().size(), whole.depths().size());
    with_symmetry += classes.classes() < whole.classes() ? 1 : 0;
    std::uint64_t counted = 0;
    std::uint64_t shown = 0;
    classes.each_block([&](StateSpace::Row rows, std::span<const Number> positions) {
      ASSERT_EQ(rows.size(), positions.size() * classes.words());
      shown += positions.size();
    });
    for (Number p = 0; p < classes.size(); ++p) {
      if (!classes.is_position(p)) {
        ++with_fixed;
        continue;
      }
      ++counted;
      const Bits bits = bits_of(classes, p);
      ASSERT_EQ(classes.find(bits), p);
      const auto same = whole.find(bits);
      ASSERT_TRUE(same.has_value());
      ASSERT_EQ(classes.depth(p), whole.depth(*same));
      ASSERT_EQ(classes.kind(p), whole.kind(*same));
      ASSERT_EQ(followers(classes, p), followers(whole, *same));
      for (std::size_t role = 0; role < whole.roles(); ++role) {
        ASSERT_EQ(classes.choices(p, role), whole.choices(*same, role));
      }
      if (whole.kind(*same) != Kind::open) {
        ASSERT_EQ(classes.outcomes()[classes.outcome(p)], whole.outcomes()[whole.outcome(*same)]);
      }
    }
    EXPECT_EQ(counted, whole.positions());
    EXPECT_EQ(shown, whole.positions());
    for (std::size_t d = 0; d < whole.depths().size(); ++d) {
      const auto end = [&](const StateSpace& space) {
        return d + 1 < space.depths().size() ? space.depths()[d + 1] : space.size();
      };
      EXPECT_EQ(classes.positions(classes.depths()[d], end(classes)),
                whole.positions(whole.depths()[d], end(whole)));
    }
  }
  EXPECT_GE(with_symmetry, 35u);
  EXPECT_GE(with_fixed, 100u);
}

TEST(Classes, LinesLeadToEveryPositionOfOne) {
  std::size_t renamed = 0;
  for (const Sample& sample : samples()) {
    SCOPED_TRACE(sample.what);
    if (GameAccess::core(sample.game)->lanes() == nullptr) continue;
    const Both both(sample.game, 3000);
    if (both.ending != Ending::complete) continue;
    const StateSpace& space = both.classes;
    for (Number p = 0; p < space.size(); ++p) {
      if (!space.is_position(p)) continue;
      renamed += space.element(p) != 0 ? 1 : 0;
      const std::vector<Number> line = space.line_to(p);
      ASSERT_EQ(line.size(), space.depth(p) + 1u);
      ASSERT_EQ(line.front(), 0u);
      ASSERT_EQ(line.back(), p);
      for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const auto next = space.steps(line[i]);
        ASSERT_NE(std::ranges::find(next, line[i + 1]), next.end());
      }
    }
  }
  EXPECT_GE(renamed, 1000u);
}

// What a joint move becomes leads to what its follower becomes.
TEST(Classes, MovesAreRenamedWithPositions) {
  std::size_t moved = 0;
  for (const Sample& sample : samples()) {
    SCOPED_TRACE(sample.what);
    if (GameAccess::core(sample.game)->lanes() == nullptr) continue;
    const Both both(sample.game, 3000);
    if (both.ending != Ending::complete || both.classes.symmetry().size() == 1) continue;
    const StateSpace& space = both.classes;
    const SymmetryGroup& symmetry = space.symmetry();
    LaneEvaluator evaluator(both.lanes);
    std::vector<std::vector<std::uint32_t>> legal(space.roles());
    for (Number p = 0; p < space.size(); p += 5) {
      if (!space.is_position(p) || space.kind(p) != Kind::open) continue;
      const Bits kept = bits_of(space, space.first_of(space.class_of(p)));
      evaluator.set_positions(kept, 1);
      std::vector<std::uint32_t> joint;
      for (std::size_t role = 0; role < legal.size(); ++role) {
        evaluator.legal(0, role, legal[role]);
        // The last step: everybody's last choice.
        joint.push_back(symmetry.move(space.element(p), role, legal[role].back()));
        moved += joint.back() != legal[role].back() ? 1 : 0;
      }
      const Bits here = bits_of(space, p);
      evaluator.set_positions(here, 1);
      for (std::size_t role = 0; role < legal.size(); ++role) {
        ASSERT_TRUE(evaluator.is_legal(0, role, joint[role]));
      }
      evaluator.load(here, 1);
      evaluator.set_joint(0, joint);
      evaluator.step();
      const auto steps = space.steps(p);
      ASSERT_TRUE(std::ranges::equal(evaluator.next(0), bits_of(space, steps[steps.size() - 1])));
    }
  }
  EXPECT_GE(moved, 300u);
}

// A class that comes again may come again turned: the line goes on until it is as it was.
TEST(Classes, RoundsComeBackToTheSamePosition) {
  std::size_t rounds = 0;
  std::size_t longer = 0;
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    const Game game = Game::from_text(testing::symmetric_rules(seed)).value();
    const Both both(game, 3000);
    if (both.ending != Ending::complete) continue;
    const StateSpace& space = both.classes;
    // Walk by first steps on classes until one comes again.
    std::vector<Number> walked{0};
    std::optional<std::size_t> again;
    Random random(seed);
    while (!again && space.class_steps(walked.back()).size() > 0) {
      const auto steps = space.class_steps(walked.back());
      const Number next = steps[random.below(steps.size())];
      const auto known = std::ranges::find(walked, next);
      if (known != walked.end()) again = static_cast<std::size_t>(known - walked.begin());
      walked.push_back(next);
    }
    if (!again) continue;
    ++rounds;
    std::size_t repeats_from = *again;
    const std::vector<Number> line = space.round(walked, repeats_from);
    longer += line.size() > walked.size() ? 1 : 0;
    EXPECT_GE(repeats_from, *again);
    ASSERT_LT(repeats_from + 1, line.size());
    EXPECT_EQ(line.back(), line[repeats_from]);
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
      const auto next = space.steps(line[i]);
      ASSERT_NE(std::ranges::find(next, line[i + 1]), next.end());
    }
  }
  EXPECT_GE(rounds, 5u);
  EXPECT_GE(longer, 2u);
}

// Broken off at every so many positions and gone on with, in memory and from disk.
TEST(Classes, GoOnWhereTheyWereLeft) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Both both(game);
  ASSERT_EQ(both.ending, Ending::complete);
  const auto expect_same = [&](const StateSpace& other) {
    ASSERT_EQ(other.size(), both.classes.size());
    EXPECT_EQ(other.positions(), both.classes.positions());
    EXPECT_EQ(other.depths(), both.classes.depths());
    for (Number p = 0; p < other.size(); ++p) {
      ASSERT_EQ(other.is_position(p), both.classes.is_position(p));
      if (!other.is_position(p)) continue;
      ASSERT_TRUE(std::ranges::equal(other.steps(p), both.classes.steps(p)));
      ASSERT_EQ(bits_of(other, p), bits_of(both.classes, p));
      ASSERT_EQ(other.find(bits_of(other, p)), p);
    }
  };
  StateSpace in_memory(both.lanes, both.classes.symmetry());
  Budget budget;
  for (std::uint64_t positions = 10; !in_memory.complete() || positions == 10; positions += 1000) {
    budget.positions = positions;
    ASSERT_TRUE(in_memory.explore(both.start(), budget, 1 + positions % 3).ok());
  }
  expect_same(in_memory);
  const testing::TemporaryFolder folder;
  budget.checkpoint = Checkpoint{folder.path("kept"), 1000};
  for (std::uint64_t positions = 10;; positions += 500) {
    StateSpace part(both.lanes, both.classes.symmetry());
    budget.positions = positions;
    if (part.explore(both.start(), budget, 2).value() != Ending::complete) continue;
    expect_same(part);
    break;
  }
  StateSpace other(both.lanes);
  const auto refused = other.explore(both.start(), budget);
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(refused.diagnostics().begin()->code, "other-state");
}

}  // namespace
}  // namespace orchard::explore::classes_test
