// Positions that the rules do not tell apart: one of them stands for all.
//
// Two are alike if a renaming of fluents and moves that leaves the rules, the start and every role
// as they are makes one the other: then whatever holds of the one holds of the other, by the same
// names. Found once for a game (see `symmetry.hpp`); constant, safe to share between threads. Does
// not hold the game, which may hold it.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <vector>

#include "game/core.hpp"
#include "orchard/game.hpp"

namespace orchard::explore {

class Likeness {
 public:
  // The renamings of a game, at most 64; none where its rules have too many instances.
  explicit Likeness(const Game& game);

  struct Alike {
    Position position;
    // The role's, by other names, in the order they were given; the same for those that are alike.
    std::vector<Move> moves;
  };
  // The one that stands for a position: the same for all that are alike. O(renamings · fluents).
  Alike standing_for(const Game& game, const Position& position, const Role& role,
                     const std::vector<Move>& moves) const;

  std::size_t renamings() const {
    return renamings_.size();
  }  // beside the one that renames nothing

 private:
  struct Renaming {
    std::vector<std::uint32_t> fluents;
    std::vector<absl::flat_hash_map<rules::TermId, rules::TermId>> moves;  // by role
  };

  std::vector<rules::TermId> fluents_;                         // by number
  absl::flat_hash_map<rules::TermId, std::uint32_t> numbers_;  // of fluents
  std::vector<Renaming> renamings_;
};

}  // namespace orchard::explore
