#include "game/lane_evaluator.hpp"

#include <algorithm>
#include <bit>

#include "circuit/lanes/transpose.hpp"
#include "game/row_bits.hpp"

namespace orchard {

using circuit::words_for;

LaneEvaluator::LaneEvaluator(const LaneGame& game, std::optional<circuit::Executor::Kind> kind)
    : game_(game),
      answering_(kind ? nullptr : &game.answering()),
      joints_(game.ground().first_moves()) {
  if (kind) {
    own_ = game.answering(kind);
    answering_ = &*own_;
  }
  const circuit::PositionPrograms& programs = answering_->programs;
  const ground::GroundProgram& ground = game.ground();
  const std::size_t fluents = ground.fluents().size();
  first_percept_ = {0};
  for (const auto& percepts : ground.percepts()) {
    first_percept_.push_back(first_percept_.back() + percepts.size());
  }
  words_ = game.words();
  answer_words_ = words_for(programs.position.reports);
  percept_words_ = words_for(programs.step.reports);
  state_.resize(programs.position.inputs);
  next_.resize(fluents);
  reports_.resize(std::max(programs.position.reports, programs.step.reports));
  scratch_.resize(
      std::max(answering_->position->scratch_blocks(), answering_->step->scratch_blocks()));
  answers_.resize(circuit::lanes * answer_words_);
  next_rows_.resize(circuit::lanes * words_);
  percepts_.resize(circuit::lanes * percept_words_);
}

void LaneEvaluator::load(std::span<const std::uint64_t> rows, std::size_t count) {
  count_ = count;
  circuit::rows_to_lanes(rows, count, std::span(state_).first(next_.size()));
}

void LaneEvaluator::set_positions(std::span<const std::uint64_t> rows, std::size_t count) {
  load(rows, count);
  answering_->position->run(
      {state_.data(), nullptr, next_.data(), reports_.data(), scratch_.data()});
  circuit::lanes_to_rows(std::span(reports_).first(answering_->programs.position.reports), count,
                         answers_);
}

void LaneEvaluator::legal(std::size_t at, std::size_t role,
                          std::vector<std::uint32_t>& moves) const {
  set_bits(answers(at), game_.first_move(role), game_.first_move(role + 1), moves);
}

std::size_t LaneEvaluator::legal_count(std::size_t at, std::size_t role) const {
  const std::uint64_t* row = answers(at);
  const std::size_t first = game_.first_move(role);
  const std::size_t end = game_.first_move(role + 1);
  std::size_t result = 0;
  for (std::size_t w = first / 64; w * 64 < end; ++w) {
    std::uint64_t word = row[w];
    if (w == first / 64) word &= ~std::uint64_t{0} << (first % 64);
    if (end - w * 64 < 64) word &= (std::uint64_t{1} << (end - w * 64)) - 1;
    result += static_cast<std::size_t>(std::popcount(word));
  }
  return result;
}

void LaneEvaluator::goals(std::size_t at, std::size_t role,
                          std::vector<std::uint32_t>& values) const {
  set_bits(answers(at), game_.first_goal(role), game_.first_goal(role + 1), values);
}

void LaneEvaluator::set_joint(std::size_t at, std::span<const std::uint32_t> joint) {
  joints_.set(std::span(state_).subspan(next_.size()), at, joint);
}

void LaneEvaluator::step() {
  answering_->step->run({state_.data(), nullptr, next_.data(), reports_.data(), scratch_.data()});
  circuit::lanes_to_rows(next_, count_, next_rows_);
  circuit::lanes_to_rows(std::span(reports_).first(answering_->programs.step.reports), count_,
                         percepts_);
}

void LaneEvaluator::judge_next() {
  ahead_.resize(state_.size());
  answering_->step->run({state_.data(), nullptr, ahead_.data(), reports_.data(), scratch_.data()});
  answering_->position->run(
      {ahead_.data(), nullptr, next_.data(), reports_.data(), scratch_.data()});
}

void LaneEvaluator::percepts(std::size_t at, std::size_t role,
                             std::vector<std::uint32_t>& values) const {
  set_bits(percepts_.data() + at * percept_words_, first_percept_[role], first_percept_[role + 1],
           values);
}

}  // namespace orchard
