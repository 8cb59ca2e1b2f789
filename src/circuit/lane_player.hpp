// Random games in lanes: 512 at once, a lane beginning anew when its game is over, until every lane
// has played its share.
//
// The games depend on the seed, the part and the shares alone, whatever the executor. One player
// belongs to one thread; the program and the executor are shared.
#pragma once

#include <array>
#include <functional>
#include <map>
#include <memory>
#include <vector>

#include "circuit/executor.hpp"
#include "circuit/play_program.hpp"
#include "circuit/random_planes.hpp"

namespace orchard::circuit {

struct LaneStatistics {
  std::uint64_t games = 0;  // finished, stuck or broken off
  std::uint64_t plies = 0;  // in all of them
  std::uint64_t stuck = 0;
  std::uint64_t unfinished = 0;                         // broken off after the most plies
  std::map<std::uint64_t, std::uint64_t> lengths;       // plies of a finished game → games
  std::map<std::vector<bool>, std::uint64_t> outcomes;  // goal values that held → games
  std::vector<std::uint64_t> positions;  // by role: in which it is to move, gone on from
  std::vector<std::uint64_t> choices;    // by role: its legal moves in them
  // The program's choice groups do not hold for this game: nothing was counted, and another program
  // is to be used.
  bool conflict = false;
  bool left = false;  // before all games were over
  void add(const LaneStatistics& other);
};

class LanePlayer {
 public:
  LanePlayer(const PlayProgram& program, const Executor& executor,
             const std::vector<bool>& initial);

  // Plays `games` games, as evenly shared out among the lanes as can be. `goes_on`, if any, is
  // asked now and then; once it says no, the games are left.
  LaneStatistics play(std::uint64_t games, std::uint64_t seed, std::uint64_t part,
                      std::uint64_t most_plies, const std::function<bool()>& goes_on = {});

 private:
  void begin(std::uint64_t games);
  void count_moves();
  void account(const LaneBlock& ended);
  void count_lengths(const LaneBlock& ended, const LaneBlock& finished);
  void add_sums(LaneStatistics& statistics) const;
  void meet_outcome(LaneBlock& finished);
  std::uint64_t break_off(std::uint64_t most_plies, LaneStatistics& statistics);
  void end_games(const LaneBlock& lanes);

  const PlayProgram& program_;
  const Executor& executor_;
  std::vector<bool> initial_;
  std::vector<LaneBlock> state_;
  std::vector<LaneBlock> next_;
  std::vector<LaneBlock> reports_;
  std::vector<LaneBlock> scratch_;
  RandomPlanes random_{0, 0};
  std::vector<LaneBlock> left_;  // games that a lane has to play yet, bit by bit, lowest first
  LaneBlock active_;             // lanes with a game to play
  std::array<std::uint64_t, lanes> began_;   // ply at which a lane's game began
  std::vector<std::vector<bool>> patterns_;  // outcomes met so far
  std::vector<std::uint64_t> flips_;         // of them, see count_patterns
  // Sums, one a word of a block.
  std::vector<LaneBlock> pattern_sums_;
  std::vector<LaneBlock> position_sums_;  // by role
  std::vector<LaneBlock> choice_sums_;    // by role
  std::uint64_t oldest_ = 0;              // no game that goes on began before
  // Games by length, four counters each for four neighbouring lanes: lengths come in runs, and
  // adding to the same place again has to wait for the last time.
  std::vector<std::uint64_t> ended_;
  std::vector<std::uint64_t> stuck_;  // of them, by length
  std::uint64_t ply_ = 0;
};

}  // namespace orchard::circuit
