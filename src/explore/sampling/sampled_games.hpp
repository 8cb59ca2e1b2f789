// Random games that are remembered, so that what was met in one of them can be shown from the
// start.
//
// Every role chooses uniformly; the same seed gives the same games. One thread; the game must
// outlive it. Memory: a number for every role and ply.
#pragma once

#include <functional>
#include <vector>

#include "game/lane_evaluator.hpp"
#include "orchard/random.hpp"

namespace orchard::explore {

class SampledGames {
 public:
  explicit SampledGames(const LaneGame& game) : game_(game), lanes_(game) {}

  struct Place {
    std::size_t game = 0;
    std::size_t ply = 0;
  };
  // A ply of all games that still go on: their positions as rows behind one another, where each
  // belongs, and the evaluator that has them set.
  using Visit = std::function<void(std::span<const std::uint64_t> rows,
                                   std::span<const Place> places, const LaneEvaluator& lanes)>;
  // Plays up to 512 more games.
  void play(std::size_t games, std::span<const std::uint64_t> from, Random& random,
            std::size_t most_plies, const Visit& visit);

  // The joint moves that lead to a place, a number for each role.
  std::vector<std::vector<std::uint32_t>> line_to(const Place& place) const;
  // The joint move made at a place; there is one if its game has more plies.
  std::span<const std::uint32_t> joint(std::size_t game, std::size_t ply) const {
    return std::span(lines_[game]).subspan(ply * roles(), roles());
  }
  std::size_t games() const { return lines_.size(); }
  std::size_t plies(std::size_t game) const { return lines_[game].size() / roles(); }

 private:
  std::size_t roles() const { return game_.ground().moves().size(); }

  const LaneGame& game_;
  LaneEvaluator lanes_;
  std::vector<std::vector<std::uint32_t>> lines_;  // by game: plies × roles
};

}  // namespace orchard::explore
