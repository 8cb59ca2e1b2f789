// Whoever chooses moves for a role: the interface for the library's opponents and for one's own.
//
// An opponent sits in one seat of one match at a time and is called by one thread at a time. What
// it wants to remember between moves it keeps in its own members. It never needs to know which
// game it plays: everything it may use is in the Situation.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

struct Situation {
  const Game& game;
  const Role& role;  // the opponent's own
  const Position& position;
  const std::vector<Move>& legal;  // for the role; never empty
  std::uint64_t ply = 0;
  std::optional<Position> last_position;  // before the last joint move; none at the start
  std::optional<Move> own_last_move;
};

class Opponent {
 public:
  virtual ~Opponent() = default;
  virtual std::string name() const = 0;
  // One of `situation.legal`. Anything else is refused by the match and counts as a fault.
  virtual Move choose(const Situation& situation) = 0;
  // Told once when the match is over.
  virtual void match_ended(const Game& game, const Role& role, const Position& last) {
    (void)game, (void)role, (void)last;
  }
};

// Chooses uniformly among the legal moves; the same moves for the same seed.
std::unique_ptr<Opponent> random_opponent(std::uint64_t seed);

}  // namespace orchard
