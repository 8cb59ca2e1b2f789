// Positions as short numbers: fluents in groups, and for each group a number that says which of
// them hold, among all that were seen to hold together.
//
// Which groups there are, what holds together in them, that some fluents never hold and others
// always, or at the same depths always, is taken from positions that were seen, never relied on:
// what a code cannot write has no key, and is to be shown to whoever found the code, who then gives
// one that can. `CodeFinder` groups the values a functor can have at one of its places, for each
// choice of the others, where one of them holds at most; `CodeJoiner` (`code_joiner.hpp`) groups
// what hangs together. A code is a value.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <algorithm>
#include <optional>
#include <span>
#include <vector>

#include "circuit/network/decision_plan.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

struct PositionCode {
  static constexpr std::uint32_t most_words = 3;
  static constexpr std::uint32_t most_bits = most_words * 64 - 1;

  struct Group {
    std::vector<std::uint32_t> fluents;
    std::vector<circuit::Combination> patterns;  // by number: the places of those that hold
    std::uint32_t first_bit = 0;
    std::uint32_t bits = 0;

    // The number of what holds of a row; none if it is no pattern.
    std::optional<std::uint64_t> number(std::span<const std::uint64_t> row) const;
  };
  // Fluents that hold at the same depths in all positions.
  struct Clock {
    std::vector<std::uint32_t> fluents;
    std::vector<circuit::Combination> at;  // by depth: the places of those that hold
    // Beyond the depths that were seen none does.
    bool holds(std::size_t place, std::uint64_t depth) const {
      return depth < at.size() && std::ranges::binary_search(at[depth], place);
    }
  };
  std::vector<Group> groups;          // of two patterns or more; their bits follow one another
  std::vector<std::uint32_t> always;  // fluents that hold in every position
  std::vector<std::uint32_t> never;
  Clock clock;
  std::uint32_t bits = 0;

  // Of a key; its highest bit stays free.
  std::size_t words() const { return bits / 64 + 1; }
  // The words of the key of a row of fluents (see LaneGame) at a depth; none if the code cannot
  // write it.
  std::optional<std::vector<std::uint64_t>> key(std::span<const std::uint64_t> row,
                                                std::uint64_t depth = 0) const;
  // The row, of so many words, of a key.
  std::vector<std::uint64_t> row(std::span<const std::uint64_t> key, std::size_t row_words,
                                 std::uint64_t depth = 0) const;
  // Gives the groups their bits, one behind the other.
  void number_bits();
};

inline bool holds(std::span<const std::uint64_t> row, std::uint32_t fluent) {
  return (row[fluent / 64] >> (fluent % 64) & 1) != 0;
}

class CodeFinder {
 public:
  explicit CodeFinder(const ground::GroundProgram& ground);

  void observe(std::span<const std::uint64_t> row);
  // The shortest code of this kind for everything observed so far.
  PositionCode code() const;

 private:
  struct Candidate {  // the values at one place of a functor
    std::vector<std::uint32_t> fluents;
    std::size_t functor = 0;
    std::size_t place = 0;
    std::uint64_t held = 0;  // rows in which one of them holds, or several
    bool exclusive = true;
    std::uint64_t last_row = 0;
  };
  PositionCode::Group group_of(const Candidate& candidate) const;
  std::uint32_t bits_of(const Candidate& candidate) const;

  std::size_t fluents_;
  std::vector<Candidate> candidates_;
  std::vector<std::vector<std::uint32_t>> candidates_of_;  // by fluent
  std::vector<std::uint64_t> seen_;                        // by fluent: rows
  std::vector<std::size_t> functor_;                       // by fluent
  std::size_t functors_ = 0;
  std::uint64_t rows_ = 0;
};

}  // namespace orchard::explore
