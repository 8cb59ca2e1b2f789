// Joint moves written into lanes: one a role and lane, the last one set.
#include <gtest/gtest.h>

#include "circuit/lanes/joint_lanes.hpp"
#include "orchard/random.hpp"

namespace orchard::circuit::joint_lanes_test {
namespace {

TEST(JointLanes, EachLaneHasTheMovesLastSet) {
  const std::vector<std::size_t> first{0, 5, 12};  // three roles with 5, 7 and 3 moves
  const std::vector<std::uint64_t> moves{5, 7, 3};
  std::vector<LaneBlock> blocks(15);
  JointLanes joints(first);
  std::vector<std::vector<std::uint32_t>> expected(lanes);
  Random random(9);
  for (int i = 0; i < 5000; ++i) {
    const std::size_t lane = random.below(lanes);
    std::vector<std::uint32_t> joint;
    if (random.below(5) != 0) {
      for (const std::uint64_t count : moves) {
        joint.push_back(static_cast<std::uint32_t>(random.below(count)));
      }
    }
    joints.set(blocks, lane, joint);
    expected[lane] = joint;
  }
  for (std::size_t lane = 0; lane < lanes; ++lane) {
    for (std::size_t block = 0; block < blocks.size(); ++block) {
      bool set = false;
      for (std::size_t role = 0; role < expected[lane].size(); ++role) {
        set = set || first[role] + expected[lane][role] == block;
      }
      EXPECT_EQ((blocks[block].words[lane / 64] >> (lane % 64) & 1) != 0, set);
    }
  }
}

}  // namespace
}  // namespace orchard::circuit::joint_lanes_test
