// What a move changes of a position.
#pragma once

#include <vector>

#include "orchard/game.hpp"

namespace orchard {

struct Changes {
  std::vector<Term> gone;  // fluents that hold no more, in the order of Term
  std::vector<Term> come;  // that hold now, and did not before
};

// Of a move of one role, where that is all that is chosen. Fails as Game::joint_move does where
// others have a choice, too, and as Game::next.
Result<Changes> changes_of(const Game& game, const Position& position, const Role& role,
                           const Move& move);

}  // namespace orchard
