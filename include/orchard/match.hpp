// A match: one game being played, move by move, and the record of it.
//
//            play                        play
//   [open] ────────▶ [open] … [open] ────────▶ [over: terminal, or a role is stuck]
//      ▲                │                             │
//      └──── undo ◀─────┴──────────── undo ◀──────────┘        begin_again: back to the start
//
// `play` is refused with diagnostics when over or when a move is not legal; a refused call changes
// nothing. One owner at a time; several matches may share a Game.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/opponent.hpp"

namespace orchard {

// What a position means for a role, taken as a result.
enum class Standing {
  won,     // it alone has the highest goal; the only role of a game: a goal of 100 or more
  drawn,   // it has the highest goal together with others
  lost,    // others have a higher goal; the only role of a game: a goal of 0 or less
  scored,  // it is the only role of the game, with a goal between these
  stuck,   // the game is not over, but a role has no legal move: nobody has won, drawn or lost
  none     // some role has no single whole number for a goal
};

// How a position stands as a result: who is ahead by the values derived there.
struct Outcome {
  std::vector<std::vector<Term>> values;  // by role
  // The roles (chance left out) with the highest value, if every role has exactly one integer.
  std::vector<Role> best;
  // The roles without a legal move, if the game is not over there.
  std::vector<Role> stuck;
  // By role; chance has `none`.
  std::vector<Standing> standings;

  // What it means for one role.
  Standing standing(const Role& role) const { return standings[role.index()]; }
};
// Who does best in a position, by the goals derived there. A position where no role is stuck is
// taken as an end, whether it is one or not.
Outcome outcome_of(const Game& game, const Position& position);

// "east wins (east 100, west 0)", "draw (east 50, west 50)", "bee scores 60", "stuck: west has no
// legal move". `names` maps role names to players' names.
std::string describe(const Game& game, const Outcome& outcome,
                     const std::map<std::string, std::string>& names = {});

// How many matches came out in which way for one role.
struct Tally {
  // The number of matches won.
  std::uint64_t wins = 0;
  // The number of matches drawn.
  std::uint64_t draws = 0;
  // The number of matches lost.
  std::uint64_t losses = 0;
  // The number of matches of a role alone that it neither won nor lost.
  std::uint64_t scored = 0;
  // The number of matches that got stuck.
  std::uint64_t stuck = 0;
  // The sum of the goals of all matches but those.
  double goals = 0;

  // Matches with a result: won, drawn, lost or scored.
  std::uint64_t results() const { return wins + draws + losses + scored; }
  // The mean goal of these; 0 if there are none.
  double mean_goal() const { return results() == 0 ? 0 : goals / static_cast<double>(results()); }
  // Counts one match more; one without a result is not counted.
  void count(Standing standing, double goal);
  // Adds the matches of another tally.
  void add(const Tally& other);
  // True if all numbers are equal.
  friend bool operator==(const Tally&, const Tally&) = default;
};

// The results of each role over several games.
struct Score {
  std::vector<Tally> lines;  // by role

  // Counts a match that is over.
  void count(const Game& game, const Outcome& outcome);
};

// One match, with undo and redo.
class Match {
 public:
  // From the start of the game, or from a position.
  explicit Match(Game game, std::optional<Position> start = {});

  // The game that is played.
  const Game& game() const { return game_; }
  // The current position.
  const Position& position() const { return positions_.back(); }
  // The position in which the match began.
  const Position& start() const { return positions_.front(); }
  // How many joint moves were made.
  std::uint64_t ply() const { return joints_.size(); }
  // The joint moves made so far, without those taken back.
  const std::vector<JointMove>& joints() const { return joints_; }
  // The positions so far: the start, and one after each joint move.
  const std::vector<Position>& positions() const { return positions_; }

  // Over: the position is terminal, or a role has no legal move.
  bool over() const;
  // The roles without a legal move, where play is not over.
  std::vector<Role> stuck() const;

  // Empty if the joint move was played.
  Diagnostics play(const JointMove& joint);
  bool undo();  // one ply; false at the start
  bool redo();  // a ply taken back; false if there is none, or another was played since
  // Back to its start; nothing can be redone.
  void begin_again();

  // What an opponent in that seat is shown. `legal` and the match outlive the Situation, and the
  // match is not changed meanwhile. With hidden information what the role can know is tracked from
  // the first time it is asked for.
  Situation situation(const Role& role, const std::vector<Move>& legal);

 private:
  Game game_;
  std::vector<Position> positions_;
  std::vector<JointMove> joints_;
  std::vector<JointMove> undone_;  // the next one last
  struct Tracked {
    View view;
    std::uint64_t ply = 0;  // up to which it has been taken
  };
  std::map<std::size_t, Tracked> tracked_;  // by role; forgotten when moves are taken back
};

// Plays a match on with one opponent a role until it is over or `most_plies` is reached, and tells
// the opponents. Fails if an opponent chooses an illegal move, naming it.
Diagnostics play_on(Match& match, const std::vector<Opponent*>& opponents,
                    std::uint64_t most_plies = 10'000);

}  // namespace orchard
