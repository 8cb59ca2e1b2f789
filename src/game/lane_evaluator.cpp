#include "game/lane_evaluator.hpp"

#include <algorithm>
#include <bit>

#include "circuit/transpose.hpp"

namespace orchard {

using circuit::words_for;

namespace {

// The bits first … end-1 of a row that are set, counted from `first`.
void set_bits(const std::uint64_t* row, std::size_t first, std::size_t end,
              std::vector<std::uint32_t>& numbers) {
  numbers.clear();
  for (std::size_t w = first / 64; w * 64 < end; ++w) {
    std::uint64_t word = row[w];
    if (w == first / 64) word &= ~std::uint64_t{0} << (first % 64);
    if (end - w * 64 < 64) word &= (std::uint64_t{1} << (end - w * 64)) - 1;
    for (; word != 0; word &= word - 1) {
      const std::size_t at = w * 64 + static_cast<std::size_t>(std::countr_zero(word));
      numbers.push_back(static_cast<std::uint32_t>(at - first));
    }
  }
}

template <class Lists>
std::vector<std::size_t> offsets(std::size_t first, const Lists& lists) {
  std::vector<std::size_t> result{first};
  for (const auto& list : lists) result.push_back(result.back() + list.size());
  return result;
}

}  // namespace

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
  first_move_ = offsets(1, ground.moves());
  first_goal_ = offsets(first_move_.back(), ground.goals());
  first_percept_ = offsets(0, ground.percepts());
  words_ = std::max<std::size_t>(words_for(fluents), 1);
  answer_words_ = words_for(programs.position.reports);
  percept_words_ = words_for(programs.step.reports);
  state_.resize(programs.position.inputs);
  next_.resize(fluents);
  reports_.resize(std::max(programs.position.reports, programs.step.reports));
  scratch_.resize(
      std::max(answering_->position->scratch_blocks(), answering_->step->scratch_blocks()));
  answers_.resize(most * answer_words_);
  next_rows_.resize(most * words_);
  percepts_.resize(most * percept_words_);
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
  set_bits(answers(at), first_move_[role], first_move_[role + 1], moves);
}

std::size_t LaneEvaluator::legal_count(std::size_t at, std::size_t role) const {
  const std::uint64_t* row = answers(at);
  const std::size_t first = first_move_[role];
  const std::size_t end = first_move_[role + 1];
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
  set_bits(answers(at), first_goal_[role], first_goal_[role + 1], values);
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

void LaneEvaluator::percepts(std::size_t at, std::size_t role,
                             std::vector<std::uint32_t>& values) const {
  set_bits(percepts_.data() + at * percept_words_, first_percept_[role], first_percept_[role + 1],
           values);
}

}  // namespace orchard
