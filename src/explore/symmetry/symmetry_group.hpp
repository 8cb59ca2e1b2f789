// A group of ways to rename fluents and moves that leave a game as it is, and what they do to
// positions.
//
// Roles stay who they are. Elements have numbers, 0 for the one that changes nothing. Positions are
// renamed by a table for every four bits of them. Immutable; safe to share.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "explore/symmetry/symmetry.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

class SymmetryGroup {
 public:
  using Element = std::uint8_t;
  using Row = std::span<const std::uint64_t>;
  static constexpr std::size_t most = 16;    // elements
  static constexpr std::size_t values = 16;  // of four bits

  SymmetryGroup() = default;  // nothing but the identity
  // Of the rules of `rules` from a start, as they act on `game`, which has the same roles, fluents
  // and moves and may have further relations. Of more elements than `most` a subgroup; the identity
  // alone if none can be found.
  static SymmetryGroup of(const LaneGame& rules, const LaneGame& game, Row start);

  std::size_t size() const { return products_.empty() ? 1 : moves_.size(); }
  // What both do, the second one first.
  Element times(Element first, Element second) const { return products_[first][second]; }
  Element inverse(Element element) const { return inverses_[element]; }

  // What an element makes of a position.
  void rename(Row row, Element element, std::uint64_t* renamed) const;
  // Where a move goes.
  std::uint32_t move(Element element, std::size_t role, std::uint32_t move) const {
    return element == 0 ? move : moves_[element][role][move];
  }

  // Tells groups apart that do other things to positions.
  std::uint64_t digest() const;

  // The least position that one can be renamed to, and what makes this one of it.
  struct Least {
    Element from = 0;
    bool several = false;  // other elements do too
  };
  Least least(Row row, std::uint64_t* least) const;
  // The elements that leave a position as it is, a bit for each.
  std::uint16_t stabilizer(Row row) const;

 private:
  std::size_t words_ = 0;        // of a position
  std::size_t entry_words_ = 0;  // of an entry in a table: an even number, for two at a time
  std::vector<std::vector<std::uint64_t>>
      tables_;  // by element: four bits × value × words of an entry
  std::vector<std::vector<std::vector<std::uint32_t>>> moves_;  // by element
  std::vector<std::array<Element, most>> products_;
  std::vector<Element> inverses_;
};

}  // namespace orchard::explore
