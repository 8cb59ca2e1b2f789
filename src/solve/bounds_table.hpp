// What a search knows of positions: bounds of their values, and the move that answered last.
//
// By the whole position, so that nothing is taken for another; bounded in size, so that what is
// newer takes the place of what is older. References hold until the next `make`. One thread at a
// time. Memory: 12 bytes and the words of a position for each place, at most 2²¹ of them.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace orchard::solve_inner {

class BoundsTable {
 public:
  static constexpr std::uint32_t no_move = 0xFFFFFFFF;
  struct Entry {
    std::uint8_t lower = 0;  // classes of ends
    std::uint8_t upper = 0;
    std::uint8_t asked = 0;  // what was last asked without an answer …
    std::uint8_t depth = 0;  // … and how many plies deep
    std::uint32_t best = no_move;
  };

  explicit BoundsTable(std::size_t words) : words_(words) {}

  // Null if nothing is known of the position.
  Entry* find(std::span<const std::uint64_t> row);
  // The entry of the position; a new one knows that its class is `highest` at most.
  Entry& make(std::span<const std::uint64_t> row, std::uint8_t highest);

 private:
  static constexpr std::uint8_t unused = 0xFF;  // as an upper bound: no entry
  std::size_t place_of(std::span<const std::uint64_t> row) const;
  void grow();

  std::size_t words_;
  std::vector<std::uint64_t> keys_;
  std::vector<Entry> entries_;
  std::size_t used_ = 0;
};

}  // namespace orchard::solve_inner
