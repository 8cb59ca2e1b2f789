// What a search from one position found: its value, the best moves, and a line of best play along
// which the same is known.
//
// Immutable once made.
#pragma once

#include <map>
#include <string>

#include "game/lane_game.hpp"
#include "orchard/solve.hpp"

namespace orchard {

class SearchedGame {
 public:
  // Null if the game is of another kind than can be searched: `why_not` says so.
  static std::shared_ptr<const SearchedGame> make(const Game& game, const LaneGame& lanes,
                                                  const Position& from, const Budget& budget,
                                                  std::string& why_not);

  struct Known {
    std::vector<double> values;  // by role
    std::vector<std::vector<GoodMove>> best;  // by role
  };
  const Known* known(const Position& position) const;

  bool complete = false;
  std::string reason;
  Ending ending = Ending::complete;
  std::uint64_t positions = 0;  // looked at
  Line line;

 private:
  std::vector<std::pair<Position, Known>> known_;  // along the line
};

}  // namespace orchard
