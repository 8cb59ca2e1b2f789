// Answers questions on one position at a time, by the circuit or by the reference evaluator.
//
// This is where it is decided which: the circuit wherever the game has one (see `lane_game.hpp`)
// and every fluent of the position is foreseen there, unless a guided one meets what the rules do
// not declare; the reference evaluator else, and for the first positions of a game, since making a
// circuit costs more than they do. Both give the same answers in the same order. One thread at a
// time; comes from `GameCore::Lease`.
#pragma once

#include <memory>
#include <optional>

#include "game/lane_evaluator.hpp"
#include "logic/evaluator.hpp"

namespace orchard {

class PositionEvaluator {
 public:
  explicit PositionEvaluator(const GameCore& core);
  PositionEvaluator(PositionEvaluator&&) = delete;

  // As of logic::Evaluator, whose words these are; what the reference answers may throw
  // LimitExceeded.
  void set_position(std::span<const rules::TermId> fluents);
  void set_joint_move(std::span<const rules::TermId> moves);
  // The rows of bits of the position and of what the lanes say of it, behind one another; false if
  // the lanes do not answer for it.
  bool packed(std::vector<std::uint64_t>& rows) const;
  bool terminal();
  std::vector<std::vector<rules::TermId>> legal();
  std::vector<std::vector<rules::TermId>> goals();
  std::vector<rules::TermId> next();
  std::vector<std::vector<rules::TermId>> percepts();

  // The reference evaluator at this position, after this joint move: for any relation of the rules.
  logic::Evaluator& reference();

  // What the reference evaluator has worked so far; see there.
  std::uint64_t reference_work() const { return reference_ ? reference_->work() : 0; }

  // Whether only the reference evaluator is asked.
  void use_reference_only(bool only) { reference_only_ = only; }

 private:
  bool enter_lanes();
  void step();
  template <class Named>
  std::vector<std::vector<rules::TermId>> by_role(
      const std::vector<std::vector<Named>>& named,
      void (LaneEvaluator::*ask)(std::size_t, std::size_t, std::vector<std::uint32_t>&) const);

  const GameCore& core_;
  std::unique_ptr<logic::Evaluator> reference_;
  std::unique_ptr<LaneEvaluator> lanes_;
  bool reference_only_ = false;
  bool in_lanes_ = false;       // the lanes answer for this position
  bool reference_set_ = false;  // the reference evaluator is at this position
  bool joint_known_ = false;    // the lanes have the joint move
  bool stepped_ = false;
  std::vector<rules::TermId> fluents_;
  std::vector<rules::TermId> joint_;
  std::vector<std::uint64_t> row_;
  std::vector<std::uint32_t> numbers_;
};

}  // namespace orchard
