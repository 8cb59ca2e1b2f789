// Steps that come one by one, each a position and a joint move made in it, made 512 at a time.
//
// Each carries a tag by which whoever asked knows it again. Threads: one batch each; the game must
// outlive it.
#pragma once

#include <span>
#include <vector>

#include "circuit/lanes/pieces.hpp"
#include "game/lane_evaluator.hpp"

namespace orchard {

template <class Tag>
class StepBatch {
 public:
  explicit StepBatch(const LaneGame& game) : evaluator_(game) {}

  // Once as many wait as there are lanes, they are made: visit(evaluator, tags), where
  // `evaluator.next(i)` is where the step of `tags[i]` leads. False if that stops by returning
  // false.
  template <class Visit>
  bool add(std::span<const std::uint64_t> row, std::span<const std::uint32_t> joint, Tag tag,
           Visit&& visit) {
    rows_.insert(rows_.end(), row.begin(), row.end());
    evaluator_.set_joint(tags_.size(), joint);
    tags_.push_back(std::move(tag));
    return tags_.size() < circuit::lanes || finish(visit);
  }
  // Forgets those that wait: after an exception.
  void clear() {
    rows_.clear();
    tags_.clear();
  }
  // Makes those that wait.
  template <class Visit>
  bool finish(Visit&& visit) {
    if (tags_.empty()) return true;
    evaluator_.load(rows_, tags_.size());
    evaluator_.step();
    const bool more =
        circuit::goes_on(visit, std::as_const(evaluator_), std::span<const Tag>(tags_));
    rows_.clear();
    tags_.clear();
    return more;
  }

 private:
  LaneEvaluator evaluator_;
  std::vector<std::uint64_t> rows_;
  std::vector<Tag> tags_;
};

}  // namespace orchard
