// The joint moves of many lanes, written straight into the blocks of the moves.
//
// A lane has one move a role; setting it again takes the one before back. That costs a bit a role,
// where transposing rows of bits would cost one for every move that there is. One owner.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

class JointLanes {
 public:
  // `first_move`: by role, the number of its first move among the blocks.
  explicit JointLanes(std::vector<std::size_t> first_move)
      : first_move_(std::move(first_move)), set_(lanes * first_move_.size(), none) {}

  // The moves of a lane in `blocks`, a number for each role; without moves the lane makes none.
  void set(std::span<LaneBlock> blocks, std::size_t lane, std::span<const std::uint32_t> joint) {
    const std::uint64_t bit = std::uint64_t{1} << (lane % 64);
    for (std::size_t role = 0; role < first_move_.size(); ++role) {
      std::uint32_t& before = set_[lane * first_move_.size() + role];
      if (before != none) blocks[before].words[lane / 64] &= ~bit;
      before = none;
      if (role >= joint.size()) continue;
      before = static_cast<std::uint32_t>(first_move_[role] + joint[role]);
      blocks[before].words[lane / 64] |= bit;
    }
  }

 private:
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  std::vector<std::size_t> first_move_;
  std::vector<std::uint32_t> set_;  // by lane and role
};

}  // namespace orchard::circuit
