// What learnt tables have in common: a row of numbers for each position, by move. The inner part of
// TokenTable and ValueTable.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

namespace explore {
class Likeness;
}

// Rows by position, keyed by Position::key(); symmetric positions share a row if `alike`. Copies
// are independent. One thread at a time.
template <class Number>
class LearntRows {
 public:
  // The numbers of the moves of one position, by the text of the move.
  using Row = std::map<std::string, Number>;
  // A position with its row.
  using Entry = std::pair<Position, Row>;
  // A position and moves in it, in the form in which the rows keep them.
  struct Kept {
    // The position, or the one that stands for all symmetric ones.
    Position position;
    // The moves, in the order given, as moves of that position.
    std::vector<Move> moves;
  };

  // No rows yet; a move of a new row begins with `initial`.
  LearntRows(const Game& game, Role role, Number initial, bool alike);

  // The game that is learnt.
  const Game& game() const { return game_; }
  // The role that learns.
  const Role& role() const { return role_; }

  // The form in which a position and moves in it are kept.
  Kept as_kept(const Position& position, const std::vector<Move>& moves) const;
  // The row of a kept position; made, with these legal moves, if there is none.
  Row& row(const Kept& kept);
  // The row of a kept position; null if there is none.
  Row* find(const Position& position);
  // The number of a move in any position; `unknown` if its row does not have the move.
  Number number(const Position& position, const Move& move, Number unknown) const;

  // How many rows there are.
  std::size_t size() const { return rows_.size(); }
  // All rows, in the order of the positions' fluents; numbers in them as one counts.
  std::vector<Entry> entries() const;
  // Takes over a row as it is, in place of an older one.
  void put(const Position& position, Row row);
  // Takes over the rows of another table; where both know a move, `merged` gives its number.
  void merge(const LearntRows& other, const std::function<Number(Number, Number)>& merged);

 private:
  Game game_;
  Role role_;
  Number initial_;
  std::shared_ptr<const explore::Likeness> likeness_;  // null if every position has its own row
  std::map<std::string, Entry> rows_;
};

extern template class LearntRows<std::int64_t>;
extern template class LearntRows<double>;

}  // namespace orchard
