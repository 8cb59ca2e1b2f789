#include "game/position_state.hpp"

#include <algorithm>

#include "game/core.hpp"
#include "game/lane_game.hpp"
#include "game/row_bits.hpp"

namespace orchard {

namespace {

// The terms of the numbers that are set between two bits of a row.
template <class Named>
std::vector<TermId> terms_of(const std::uint64_t* row, std::size_t first,
                             const std::vector<Named>& named) {
  std::vector<std::uint32_t> numbers;
  set_bits(row, first, first + named.size(), numbers);
  std::vector<TermId> result;
  result.reserve(numbers.size());
  for (const std::uint32_t number : numbers) result.push_back(named[number].term);
  return result;
}

}  // namespace

PositionState::PositionState(std::shared_ptr<const GameCore> core,
                             const std::vector<TermId>& fluents, PositionEvaluator& evaluator)
    : core_(std::move(core)), hash_(hash_of(fluents)), terminal_(evaluator.terminal()) {
  if (evaluator.packed(bits_)) {
    lanes_ = core_->lanes_or_guided();
    return;
  }
  lists_ = std::make_unique<const Lists>(Lists{fluents, evaluator.legal(), evaluator.goals()});
}

std::vector<TermId> PositionState::fluents() const {
  if (lists_) return lists_->fluents;
  std::vector<TermId> result = terms_of(bits_.data(), 0, lanes_->ground().fluents());
  std::ranges::sort(result);
  return result;
}

bool PositionState::holds(TermId fluent) const {
  if (lists_) return std::ranges::binary_search(lists_->fluents, fluent);
  const auto number = lanes_->fluent_number(fluent);
  return number && (bits_[*number / 64] >> (*number % 64) & 1) != 0;
}

std::vector<TermId> PositionState::legal(std::size_t role) const {
  if (lists_) return lists_->legal.at(role);
  return terms_of(bits_.data() + lanes_->words(), lanes_->first_move(role),
                  lanes_->ground().moves().at(role));
}

std::vector<TermId> PositionState::goals(std::size_t role) const {
  if (lists_) return lists_->goals.at(role);
  return terms_of(bits_.data() + lanes_->words(), lanes_->first_goal(role),
                  lanes_->ground().goals().at(role));
}

bool operator==(const PositionState& a, const PositionState& b) {
  if (a.core_ != b.core_ || a.hash_ != b.hash_) return false;
  if (!a.lanes_ || !b.lanes_) return a.fluents() == b.fluents();
  return std::equal(a.bits_.begin(),
                    a.bits_.begin() + static_cast<std::ptrdiff_t>(a.lanes_->words()),
                    b.bits_.begin());
}

}  // namespace orchard
