// Lines of play as people write them: in cases, in calls, in files.
//
// A ply is the move of the one role to move, (ROLE MOVE), or (joint (ROLE MOVE)…); roles that are
// not named make their only legal move. What chance does and nobody wrote is drawn.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/line.hpp"
#include "orchard/random.hpp"
#include "syntax/tree.hpp"

namespace orchard {

struct WrittenPly {
  Place place;
  std::string text;
  // Moves with their roles; one move without a role is that of the one role to move.
  std::vector<std::pair<std::optional<Role>, Term>> moves;
};

// Mistakes go to `diagnostics` under `code`.
WrittenPly read_ply(const Game& game, const syntax::Tree& tree, syntax::NodeIndex node,
                    const std::string& code, Diagnostics& diagnostics);

struct PlayedPly {
  Line drawn;                      // from the position on, what chance does before it
  std::optional<JointMove> joint;  // after that
  std::optional<Position> next;    // none if it could not be played:
  std::string expected;            // "a move for west"
  std::string found;               // "it has a choice; write (joint …)"
  std::string remedy;
};
// Where chance has a choice and the ply does not name its move, one is drawn. While chance alone
// chooses and the ply is about nothing that it could do, its moves are drawn before the ply.
PlayedPly play_ply(const Game& game, const Position& position, const WrittenPly& ply,
                   Random& random);

}  // namespace orchard
