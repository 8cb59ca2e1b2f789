// What a role is told of a position, under hidden information: it starts from what everybody
// knows, makes its own moves, sees its percepts, its legal moves and who is to move, and follows
// the rules from there, one by one. What could only be found out by telling cases apart is left
// open: that is for whoever plays the role to think about.
//
//  * Forward, through the rules by Kleene's three values (`three_valued.hpp`).
//  * Backward, from what it sees: of an atom that holds, what all its clauses have in common that
//    are still possible; of an atom that does not hold, the only literal of a clause that is open.
//    What is told to be absent is not followed further back.
//
// Whatever it says to hold or not to hold is so in the true position. A value; the LaneGame must
// outlive it. A ply costs a few passes over the ground program.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "explore/sight/three_valued.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

class ToldPosition {
 public:
  // At a position that everybody knows, its fluents by number. At most one fluent of each group of
  // `exclusive` holds at any time.
  ToldPosition(const LaneGame& game, std::size_t role, const std::vector<bool>& start,
               std::vector<std::vector<std::uint32_t>> exclusive);

  // A ply: the role's own move, what it sees, what is legal for it then, by number, ascending; by
  // role, who is to move then; and whether the game is over.
  struct Step {
    std::uint32_t own = 0;
    std::vector<std::uint32_t> sees;
    std::vector<std::uint32_t> legal;
    std::vector<bool> to_move;
    bool over = false;
    bool heard = true;  // the three above are known
  };
  void advance(const Step& step);

  // The role's moves that are certainly legal here, ascending; if there are none, those that may be.
  std::vector<std::uint32_t> legal_moves() const;
  // By number of the fluent.
  Truth value(std::size_t fluent) const { return fluents_[fluent]; }
  // The last ply at which a fluent that is open now was told to hold; -1 if it never was, but for
  // the start.
  std::int64_t last_known(std::size_t fluent) const { return last_known_[fluent]; }

 private:
  using Atoms = std::vector<Truth>;
  std::vector<Truth> from_fluents() const;
  // By role, among how many moves the one that it makes must be.
  using Choices = std::vector<std::uint32_t>;
  Choices others_move(const Atoms& values, Atoms& given) const;
  Choices others_made(const Atoms& before, Choices choices, Atoms& given) const;
  void tell(ground::AtomId atom, bool holds, const Atoms& values, Atoms& given) const;
  void leave_out_others();
  void hear_legal(const Step& step);

  const LaneGame* game_;
  const ThreeValued* rules_;
  std::size_t role_;
  std::vector<std::vector<std::uint32_t>> exclusive_;
  std::int64_t ply_ = 0;
  std::vector<Truth> fluents_;
  std::vector<std::pair<ground::AtomId, Truth>> allowed_;  // of legal moves, in this position
  std::vector<bool> learnt_;  // told to hold, and did not hold at the start
  std::vector<std::int64_t> last_known_;
};

}  // namespace orchard::explore
