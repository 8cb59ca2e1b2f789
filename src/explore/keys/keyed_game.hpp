// A game that works on the keys of a position code: what a block of positions is, and what follows
// from each joint move, with keys in and keys out.
//
// A joint move is a program of its own, with the move's choice folded in, that gives only those
// bits of the key that it can change. Inputs of all programs are followed by what the clock of the
// code says: of this depth for the look at positions, and for joint moves of the next one too. All
// joint moves are there, by the groups of roles that were seen to choose one at a time; where that
// does not hold, `BlockFaults` says so, and so it does where the code cannot write what follows:
// nothing of a faulty block may be used. Immutable once made; the game must outlive it. Each thread
// has a KeyedExpander of its own.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "circuit/lanes/executor.hpp"
#include "explore/keys/measure.hpp"
#include "explore/keys/position_code.hpp"
#include "explore/symmetry/renamings.hpp"

namespace orchard::explore {

// Signals to look out for in positions: of a copy of the game's network with further gates.
struct Lookout {
  const circuit::Network* network = nullptr;
  std::vector<circuit::Signal> signals;
};

class KeyedGame {
 public:
  // Whether the joint moves are few enough for programs of their own.
  static bool can_be_made(const LaneGame& game);
  // Of a game for which that is so; none if the code has too many bits.
  static std::unique_ptr<const KeyedGame> make(const LaneGame& game, PositionCode code,
                                               Measure measure, Renamings renamings,
                                               const Lookout& lookout = {});

  const LaneGame& game() const { return game_; }
  const PositionCode& code() const { return code_; }
  const Measure& measure() const { return measure_; }
  // If there are any, keys stand for all positions that they rename to one another, each class by
  // its least key. The code must be kept by them.
  const Renamings& renamings() const { return renamings_; }

 private:
  template <std::size_t words>
  friend class KeyedExpander;
  struct Step {
    std::vector<std::uint32_t> joint;  // a move number for each role
    std::unique_ptr<const circuit::Executor> executor;
    // Reports: whether the code cannot write what follows, whether its measure is not what it
    // should be; then these bits of the key; then, for each renaming, all bits of the key renamed.
    std::vector<std::uint32_t> bits;
  };
  KeyedGame(const LaneGame& game, PositionCode code, Measure measure, Renamings renamings)
      : game_(game),
        code_(std::move(code)),
        measure_(std::move(measure)),
        renamings_(std::move(renamings)) {}
  // What a joint move does to the groups of the code, whatever their bits.
  struct Draft {
    std::vector<std::uint32_t> joint;
    circuit::Network network;
    std::vector<circuit::Signal> unwritable;  // any of them: the code cannot write it
    circuit::Signal mismeasured;              // the measure does not change as it should
    std::vector<circuit::Signal> next;        // by fluent
    std::vector<bool> changes;                // by group
  };
  Draft draft(const std::vector<std::uint32_t>& joint) const;
  void arrange(const std::vector<Draft>& drafts);
  // How the bits of a group follow from its fluents, what it knows, and the other way round.
  struct Plans {
    std::vector<circuit::DecisionPlan> bits;
    circuit::DecisionPlan known;
    std::vector<circuit::DecisionPlan> fluents;
  };
  static Plans plans_of(const PositionCode::Group& group);
  std::vector<circuit::Signal> fluents_of_bits(circuit::Network& network) const;
  std::vector<circuit::Signal> renamed_bits(circuit::Network& network,
                                            const std::vector<circuit::Signal>& fluents,
                                            const std::vector<std::uint32_t>& renaming) const;
  void make_look(std::vector<Draft> drafts, const Lookout& lookout);
  void make_step(Draft draft);

  const LaneGame& game_;
  PositionCode code_;
  std::vector<Plans> plans_;  // by group
  const Measure measure_;
  const Renamings renamings_;
  static constexpr std::size_t unwritable_report = 0;
  static constexpr std::size_t mismeasured_report = 1;
  static constexpr std::size_t first_bit_report = 2;
  // Reports of the look: these, the digits of the number of renamings that leave the position as it
  // is, what was to be looked out for, whether each joint move can be made.
  static constexpr std::size_t terminal_report = 0;
  static constexpr std::size_t stuck_report = 1;
  static constexpr std::size_t more_report = 2;  // joint moves that are not among the steps
  static constexpr std::size_t first_same_report = 3;
  std::unique_ptr<const circuit::Executor> look_;
  std::size_t same_bits_ = 0;
  std::size_t signals_ = 0;
  std::vector<Step> steps_;
};

}  // namespace orchard::explore
