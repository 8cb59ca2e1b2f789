#include "game/position_evaluator.hpp"

#include <algorithm>
#include <bit>

#include "game/core.hpp"

namespace orchard {

using rules::TermId;

PositionEvaluator::PositionEvaluator(const GameCore& core) : core_(core) {}

// The position in the lanes; false if they cannot answer for it.
bool PositionEvaluator::enter_lanes() {
  if (reference_only_) return false;
  const LaneGame* const game = core_.lanes_if_worth_it();
  if (game == nullptr) return false;
  if (!lanes_) lanes_ = std::make_unique<LaneEvaluator>(*game);
  row_.assign(lanes_->words(), 0);
  for (const TermId fluent : fluents_) {
    const auto number = game->fluent_number(fluent);
    if (!number) return false;
    row_[*number / 64] |= std::uint64_t{1} << (*number % 64);
  }
  lanes_->set_positions(row_, 1);
  return !lanes_->undeclared(0);
}

void PositionEvaluator::set_position(std::span<const TermId> fluents) {
  fluents_.assign(fluents.begin(), fluents.end());
  joint_.clear();
  reference_set_ = false;
  joint_known_ = false;
  in_lanes_ = enter_lanes();
}

logic::Evaluator& PositionEvaluator::reference() {
  if (!reference_) reference_ = std::make_unique<logic::Evaluator>(core_.shared_program());
  if (!reference_set_) {
    reference_->set_position(fluents_);
    reference_set_ = true;
    if (!joint_.empty()) reference_->set_joint_move(joint_);
  }
  return *reference_;
}

void PositionEvaluator::set_joint_move(std::span<const TermId> moves) {
  joint_.assign(moves.begin(), moves.end());
  stepped_ = false;
  joint_known_ = false;
  if (reference_set_) reference_->set_joint_move(joint_);
  if (!in_lanes_) return;
  std::vector<std::uint32_t> numbers;
  for (std::size_t role = 0; role < joint_.size(); ++role) {
    const auto number = lanes_->game().move_number(role, joint_[role]);
    if (!number) return;
    numbers.push_back(*number);
  }
  lanes_->set_joint(0, numbers);
  joint_known_ = true;
}

// What the lanes say by number, as terms.
template <class Named>
std::vector<std::vector<TermId>> PositionEvaluator::by_role(
    const std::vector<std::vector<Named>>& named,
    void (LaneEvaluator::*ask)(std::size_t, std::size_t, std::vector<std::uint32_t>&) const) {
  std::vector<std::vector<TermId>> result(named.size());
  for (std::size_t role = 0; role < named.size(); ++role) {
    (*lanes_.*ask)(0, role, numbers_);
    for (const std::uint32_t number : numbers_) result[role].push_back(named[role][number].term);
  }
  return result;
}

bool PositionEvaluator::packed(std::vector<std::uint64_t>& rows) const {
  if (!in_lanes_) return false;
  const auto answers = lanes_->answers_row(0);
  rows.reserve(row_.size() + answers.size());
  rows.assign(row_.begin(), row_.end());
  rows.insert(rows.end(), answers.begin(), answers.end());
  return true;
}

bool PositionEvaluator::terminal() {
  return in_lanes_ ? lanes_->terminal(0) : reference().terminal();
}

std::vector<std::vector<TermId>> PositionEvaluator::legal() {
  if (!in_lanes_) return reference().legal();
  return by_role(lanes_->game().ground().moves(), &LaneEvaluator::legal);
}

std::vector<std::vector<TermId>> PositionEvaluator::goals() {
  if (!in_lanes_) return reference().goals();
  return by_role(lanes_->game().ground().goals(), &LaneEvaluator::goals);
}

void PositionEvaluator::step() {
  if (!stepped_) lanes_->step();
  stepped_ = true;
}

std::vector<TermId> PositionEvaluator::next() {
  if (!joint_known_) return reference().next();
  step();
  if (lanes_->next_undeclared(0)) return reference().next();
  std::vector<TermId> result;
  const auto& fluents = lanes_->game().ground().fluents();
  const auto row = lanes_->next(0);
  for (std::size_t w = 0; w < row.size(); ++w) {
    for (std::uint64_t word = row[w]; word != 0; word &= word - 1) {
      result.push_back(fluents[w * 64 + static_cast<std::size_t>(std::countr_zero(word))].term);
    }
  }
  std::ranges::sort(result);
  return result;
}

std::vector<std::vector<TermId>> PositionEvaluator::percepts() {
  if (!joint_known_) return reference().percepts();
  step();
  return by_role(lanes_->game().ground().percepts(), &LaneEvaluator::percepts);
}

}  // namespace orchard
