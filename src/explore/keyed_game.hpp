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
#include "explore/key_parts.hpp"
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
  friend class KeyedExpander;
  struct Step {
    std::vector<std::uint32_t> joint;  // a move number for each role
    std::unique_ptr<const circuit::Executor> executor;
    // Reports: whether the code cannot write what follows; then these bits of the key.
    std::vector<std::uint8_t> bits;
    std::uint64_t kept = 0;  // the bits of the key that stay
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
  // Reports of the look: see KeyedExpander; then whether each joint move can be made.
  std::unique_ptr<const circuit::Executor> look_;
  std::size_t measure_bits_ = 0;
  std::vector<Step> steps_;
};

struct BlockFaults {
  bool joint_moves = false;  // two roles choose at once that were not seen to
  bool measure = false;      // a position whose measure is not that of its depth
  // A position from which something follows that the code cannot write, and what follows.
  std::optional<std::vector<std::uint64_t>> row;
  bool any() const { return joint_moves || measure || row.has_value(); }
};

class KeyedExpander {
 public:
  explicit KeyedExpander(const KeyedGame& game);

  struct Counts {
    std::uint64_t positions = 0;
    std::uint64_t terminal = 0;
    std::uint64_t stuck = 0;
    bool open = false;  // play goes on from one of them

    void add(const Counts& other) {
      positions += other.positions;
      terminal += other.terminal;
      stuck += other.stuck;
      open = open || other.open;
    }
  };
  // Up to 512 keys at a depth; adds to the counts, and to `next`, mixed, what follows if `goes_on`.
  BlockFaults expand(std::span<const PositionCode::Key> keys, std::uint64_t depth, bool goes_on,
                     Counts& counts, KeyParts& next);

 private:
  bool measure_holds(std::uint64_t depth, const circuit::LaneBlock& filled) const;
  std::vector<std::uint64_t> successor(PositionCode::Key key, std::size_t step) const;

  const KeyedGame& game_;
  std::vector<circuit::LaneBlock> key_lanes_;
  std::vector<circuit::LaneBlock> fluents_;
  std::vector<circuit::LaneBlock> look_reports_;
  std::vector<circuit::LaneBlock> step_reports_;
  std::vector<circuit::LaneBlock> scratch_;
  std::vector<std::uint64_t> written_;  // bits of keys that a step gave, by lane
};

}  // namespace orchard::explore
