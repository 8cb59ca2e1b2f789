// What a search from one position found: its value, the best moves, and a line of best play along
// which the same is known.
//
// Immutable once made.
#pragma once

#include <string>

#include "game/lane_game.hpp"
#include "solve/solution_source.hpp"

namespace orchard {

class SearchedGame : public SolutionSource {
 public:
  // Fails with `not-searchable`, saying why, if the game is of another kind than can be searched.
  static Result<std::shared_ptr<const SearchedGame>> make(const Game& game, const LaneGame& lanes,
                                                          const Position& from,
                                                          const Budget& budget);

  struct Known {
    std::vector<std::optional<double>> values;  // by role
    std::vector<std::vector<GoodMove>> best;    // by role
  };

  bool complete() const override { return complete_; }
  bool searched() const override { return true; }
  std::uint64_t positions() const override { return positions_; }
  std::optional<double> value(const Position& position, std::size_t role) const override;
  std::optional<std::uint64_t> plies(const Position&) const override { return std::nullopt; }
  std::vector<GoodMove> best(const Position& position, std::size_t role) const override;
  Diagnostics keep(const std::string& file) const override;

 private:
  const Known* known(const Position& position) const;

  bool complete_ = false;
  std::uint64_t positions_ = 0;                    // looked at
  std::vector<std::pair<Position, Known>> known_;  // along the line
};

}  // namespace orchard
