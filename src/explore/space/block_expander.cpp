#include "explore/space/block_expander.hpp"

#include <xxhash.h>

#include "base/interruption.hpp"
#include "explore/sampling/joint_moves.hpp"

namespace orchard::explore {

std::uint32_t hash_of(std::span<const std::uint64_t> row) {
  return static_cast<std::uint32_t>(XXH3_64bits(row.data(), row.size_bytes()));
}

void BlockExpander::take_steps(const LaneEvaluator& made, std::size_t count,
                               ExpandedBlock& block) const {
  for (std::size_t i = 0; i < count; ++i) {
    const auto row = made.next(i);
    block.rows.insert(block.rows.end(), row.begin(), row.end());
    std::uint64_t* const kept = block.rows.data() + block.rows.size() - words();
    if (symmetry_.size() > 1) block.least.push_back(symmetry_.least(row, kept));
    block.hashes.push_back(hash_of({kept, words()}));
  }
}

void BlockExpander::expand(std::span<const std::uint64_t> rows, std::size_t count,
                           ExpandedBlock& block) {
  block.kinds.clear();
  block.choices.clear();
  block.steps.clear();
  block.rows.clear();
  block.hashes.clear();
  block.least.clear();
  block.goals.clear();
  block.too_many = false;
  steps_.clear();  // of a block that was left in the middle
  const auto take = [&](const LaneEvaluator& made, std::span<const std::monostate> all) {
    end_if_interrupted();
    take_steps(made, all.size(), block);
  };
  std::uint64_t steps_left = most_steps_;
  positions_.set_positions(rows, count);
  std::vector<std::vector<std::uint32_t>> legal(roles_);
  for (std::size_t at = 0; at < count; ++at) {
    Kind kind = positions_.terminal(at) ? Kind::terminal : Kind::open;
    for (std::size_t role = 0; role < roles_ && kind != Kind::terminal; ++role) {
      positions_.legal(at, role, legal[role]);
      if (legal[role].empty()) kind = Kind::stuck;
      block.too_wide = block.too_wide || legal[role].size() > 0xFFFF;
    }
    block.kinds.push_back(kind);
    for (const auto& moves : legal) {
      block.choices.push_back(kind == Kind::open ? static_cast<std::uint16_t>(moves.size()) : 0);
    }
    std::uint32_t steps = 0;
    // Counted before they are made: a few roles that choose at once soon have millions.
    if (kind == Kind::open) {
      const std::uint64_t joints = count_of_joint_moves(legal);
      block.too_many = joints > steps_left;
      if (block.too_many) return;
      steps_left -= joints;
    }
    if (kind != Kind::open) {
      auto& goals = block.goals.emplace_back(roles_);
      for (std::size_t role = 0; role < roles_; ++role) positions_.goals(at, role, goals[role]);
    } else {
      const auto row = rows.subspan(at * words(), words());
      each_joint_move(legal, [&](std::span<const std::uint32_t> joint) {
        steps_.add(row, joint, {}, take);
        ++steps;
      });
    }
    block.steps.push_back(steps);
  }
  steps_.finish(take);
}

}  // namespace orchard::explore
