// Some of the ways in which a game may have come to where a role now is, given its own moves and
// what it saw: for where there are too many to follow them all.
//
// A past is the moves of everybody, ply by ply. With each new ply the pasts are gone on with at
// random, and those that do not fit what the role sees fall away. New ones are made of those that
// are left: a move of another role is drawn again somewhere, what follows is kept as far as it is
// legal, and what fits to the end is taken in (a Markov chain on lines of play, as Metropolis et
// al. 1953 on states; after the filtering of Gordon, Salmond and Smith 1993). All of this 512 at a
// time on the circuit. The others are taken to choose evenly.
//
// Belongs to one thread; the game must outlive it.
#pragma once

#include <absl/container/flat_hash_set.h>

#include <cstdint>
#include <vector>

#include "game/lane_evaluator.hpp"
#include "orchard/random.hpp"

namespace orchard::explore {

class PossiblePasts {
 public:
  // The role's own move, and the numbers of what it sees then, ascending.
  struct Step {
    std::uint32_t own = 0;
    std::vector<std::uint32_t> sees;
  };

  PossiblePasts(const LaneGame& game, std::size_t role, std::vector<std::uint64_t> start,
                std::size_t most);

  // False if nothing was found that fits; then there are no pasts any more.
  bool go_on(const Step& step, Random& random);

  // Where they lead to, each another position; no more than `most`.
  const std::vector<std::vector<std::uint64_t>>& rows() const { return rows_; }

 private:
  using Row = std::vector<std::uint64_t>;
  using Moves = std::vector<std::uint32_t>;  // ply × roles
  // Up to 512 lines of play on their way, side by side.
  struct Lines {
    std::vector<std::uint64_t> rows;   // where they are
    std::vector<std::uint32_t> moves;  // line × plies × roles
    std::vector<std::size_t> given;    // by line: how many of its moves are given
    std::vector<std::size_t> redraw;   // by line: the ply at which another role's is drawn again
    std::size_t count = 0;
  };
  void begin(Lines& lines) const;
  void add(Lines& lines, const Row& row, const Moves& moves, std::size_t redraw) const;
  // Plays them from a ply to the last step; those that fit all steps are taken in.
  void play(Lines& lines, std::size_t ply, Random& random);

  const LaneGame& game_;
  std::size_t role_;
  std::size_t roles_;
  std::size_t most_;
  Row start_;
  std::vector<Step> steps_;
  std::vector<Moves> pasts_;
  std::vector<Row> rows_;  // by past
  absl::flat_hash_set<Row> met_;
};

}  // namespace orchard::explore
