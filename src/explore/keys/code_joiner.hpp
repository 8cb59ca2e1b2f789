// Groups of fluents that hang together, for short keys.
//
// Begins with the groups of a code and joins those that the same moves can change and of which
// fewer patterns occur together than there could; then those of which far fewer do, whatever changes
// them; then any that together take fewer whole bits.
// What can occur in a joined group is found by steps from positions that mix what can occur in each
// group, until nothing new comes: so that hardly anything is met later that random games are too
// short to show. Groups that tell no more than the depth does become a clock.
//
// As with any code, what cannot be written is to be shown to it. One thread; the game must outlive
// it. Memory: the rows shown.
#pragma once

#include "explore/keys/measure.hpp"
#include "explore/keys/position_code.hpp"
#include "orchard/random.hpp"

namespace orchard::explore {

class CodeJoiner {
 public:
  explicit CodeJoiner(const LaneGame& game) : game_(game) {}

  // A position so many plies after the start.
  void observe(std::span<const std::uint64_t> row, std::uint64_t ply);

  // `apart`: a code for everything that was shown. Only where a measure tells depths apart is there
  // a clock. None if there are too many groups.
  std::optional<PositionCode> joined(const PositionCode& apart, const Measure& measure) const;

 private:
  struct Joining;  // one search for a code

  std::size_t rows() const { return plies_.size(); }
  std::span<const std::uint64_t> row(std::size_t number) const {
    return std::span(rows_).subspan(number * words_, words_);
  }

  const LaneGame& game_;
  std::size_t words_ = 0;
  std::vector<std::uint64_t> rows_;
  std::vector<std::uint64_t> plies_;  // by row
};

}  // namespace orchard::explore
