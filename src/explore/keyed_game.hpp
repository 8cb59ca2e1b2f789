// A game that works on the keys of a position code: what a block of positions is, and what follows
// from each joint move, with keys in and keys out.
//
// A joint move is a program of its own, with the move's choice folded in, that gives only those
// bits of the key that it can change. All joint moves are there, by the groups of roles that were
// seen to choose one at a time; where that does not hold, `BlockFaults` says so, and so it does
// where the code cannot write what follows: nothing of a faulty block may be used. Immutable once
// made; the game must outlive it. Each thread has a KeyedExpander of its own.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "circuit/executor.hpp"
#include "explore/position_code.hpp"

namespace orchard::explore {

// Fluents of which one more holds, or one less, after every joint move: so no position has two
// depths.
struct Measure {
  std::vector<std::uint32_t> fluents;
  std::int64_t at_start = 0;
  int step = 0;  // 1 or -1; 0: there is no measure
};

class KeyedGame {
 public:
  // None if the code has too many bits, or there are too many joint moves for programs of their
  // own.
  static std::unique_ptr<const KeyedGame> make(const LaneGame& game, PositionCode code,
                                               Measure measure);

  const LaneGame& game() const { return game_; }
  const PositionCode& code() const { return code_; }
  const Measure& measure() const { return measure_; }
  std::size_t joint_moves() const { return steps_.size(); }

 private:
  template <std::size_t words>
  friend class KeyedExpander;
  struct Step {
    std::vector<std::uint32_t> joint;  // a move number for each role
    std::unique_ptr<const circuit::Executor> executor;
    // Reports: whether the code cannot write what follows; then these bits of the key.
    std::vector<std::uint32_t> bits;
  };
  KeyedGame(const LaneGame& game, PositionCode code, Measure measure)
      : game_(game), code_(std::move(code)), measure_(std::move(measure)) {}
  // What a joint move does to the groups of the code, whatever their bits.
  struct Draft {
    std::vector<std::uint32_t> joint;
    circuit::Network network;
    std::vector<circuit::Signal> unwritable;         // any of them: the code cannot write it
    std::vector<std::vector<circuit::Signal>> next;  // by group, of its fluents; none: it stays
  };
  Draft draft(const std::vector<std::uint32_t>& joint) const;
  void arrange(const std::vector<Draft>& drafts);
  void make_look(std::vector<Draft> drafts);
  void make_step(Draft draft);

  const LaneGame& game_;
  PositionCode code_;
  const Measure measure_;
  // Reports of the look: these, the digits of the measure, whether each joint move can be made.
  static constexpr std::size_t terminal_report = 0;
  static constexpr std::size_t stuck_report = 1;
  static constexpr std::size_t more_report = 2;  // joint moves that are not among the steps
  static constexpr std::size_t first_measure_report = 3;
  std::unique_ptr<const circuit::Executor> look_;
  std::size_t measure_bits_ = 0;
  std::vector<Step> steps_;
};

}  // namespace orchard::explore
