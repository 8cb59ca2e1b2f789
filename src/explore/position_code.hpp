// Positions as short numbers: each group of fluents of which one holds at most becomes as many bits
// as tell which.
//
// Groups are the values a functor can have at one of its places, for each choice of the others;
// that one of them holds at most, that some fluents never hold and others always, is taken from
// positions that were seen, never relied on: what a code cannot write has no key, and is to be
// shown to the finder, which then gives a code that can. A code is a value.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <optional>
#include <span>
#include <vector>

#include "game/lane_game.hpp"

namespace orchard::explore {

struct PositionCode {
  static constexpr std::uint32_t most_words = 3;
  static constexpr std::uint32_t most_bits = most_words * 64 - 1;

  struct Group {
    std::vector<std::uint32_t> fluents;  // the first one is number 1, or 0 if one always holds
    bool may_be_empty = true;            // then number 0 stands for none
    std::uint32_t first_bit = 0;
    std::uint32_t bits = 0;

    // The number of a fluent by its place in the group.
    std::uint64_t number(std::size_t place) const { return place + (may_be_empty ? 1 : 0); }
  };
  std::vector<Group> groups;          // of two bits or one; their bits follow one another
  std::vector<std::uint32_t> always;  // fluents that hold in every position
  std::vector<std::uint32_t> never;
  std::uint32_t bits = 0;

  // Of a key; its highest bit stays free.
  std::size_t words() const { return bits / 64 + 1; }
  // The words of the key of a row of fluents (see LaneGame); none if the code cannot write it.
  std::optional<std::vector<std::uint64_t>> key(std::span<const std::uint64_t> row) const;
  // The row, of so many words, of a key.
  std::vector<std::uint64_t> row(std::span<const std::uint64_t> key, std::size_t row_words) const;
};

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
