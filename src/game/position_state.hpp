// A position worked out: its fluents and all that depends on them alone.
//
// Where the circuit of the game answers for it, all of this is bits in one row: those of the
// fluents, then those that the circuit gives, whether it is an end, legal moves, goal values. Else
// it is lists of terms. Immutable; what is asked for is made from that.
#pragma once

#include <memory>
#include <vector>

#include "rules/term_table.hpp"

namespace orchard {

class GameCore;
class LaneGame;
class PositionEvaluator;

class PositionState {
 public:
  using TermId = rules::TermId;

  // Of a position that is set in the evaluator. What the reference answers may throw LimitExceeded.
  PositionState(std::shared_ptr<const GameCore> core, const std::vector<TermId>& fluents,
                PositionEvaluator& evaluator);

  const std::shared_ptr<const GameCore>& core() const { return core_; }
  std::size_t hash() const { return hash_; }  // of the fluents, however they are kept
  bool terminal() const { return terminal_; }
  std::vector<TermId> fluents() const;                // ascending
  std::vector<TermId> legal(std::size_t role) const;  // in the order of Term, as are goals
  std::vector<TermId> goals(std::size_t role) const;
  bool holds(TermId fluent) const;
  bool is_packed() const { return lanes_ != nullptr; }

  friend bool operator==(const PositionState& a, const PositionState& b);

 private:
  struct Lists {
    std::vector<TermId> fluents;
    std::vector<std::vector<TermId>> legal;  // by role
    std::vector<std::vector<TermId>> goals;  // by role
  };

  std::shared_ptr<const GameCore> core_;
  std::size_t hash_;
  bool terminal_;
  const LaneGame* lanes_ = nullptr;  // of the core; null: in lists
  std::vector<std::uint64_t> bits_;  // the row of fluents, then the row of answers
  std::unique_ptr<const Lists> lists_;
};

}  // namespace orchard
