// Watches signals of a game's network: which hold in which of up to 512 positions, or steps.
//
// Signals may be made of the network's own ones by gates that whoever watches adds to a copy of it.
// Its scratch memory is its own: one watch a thread, copies share the program; the game must
// outlive it.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "circuit/lanes/joint_lanes.hpp"
#include "circuit/network/network.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

class Watch {
 public:
  Watch(const LaneGame& game, const circuit::Network& network,
        std::vector<circuit::Signal> signals);

  std::size_t signals() const { return reports_.size(); }
  // The joint move of a position, a number for each role; needed where a signal depends on it.
  void set_joint(std::size_t at, std::span<const std::uint32_t> joint);
  // Looks at `count` positions, rows behind one another, with the joint moves set.
  void look(std::span<const std::uint64_t> rows, std::size_t count);

  // Of the last look: whether a signal holds at a position.
  bool holds(std::size_t signal, std::size_t at) const {
    return (reports_[signal].words[at / 64] >> (at % 64) & 1) != 0;
  }
  std::uint64_t count(std::size_t signal) const;  // at how many positions it holds
  std::size_t first(std::size_t signal) const;    // of those, if there are any

 private:
  std::shared_ptr<const circuit::Executor> executor_;
  std::size_t fluents_;
  circuit::JointLanes joints_;
  std::vector<circuit::LaneBlock> state_;    // fluents, then moves
  std::vector<circuit::LaneBlock> reports_;  // nothing where no position is
  std::vector<circuit::LaneBlock> next_;     // nothing is written there
  std::vector<circuit::LaneBlock> scratch_;
};

}  // namespace orchard::explore
