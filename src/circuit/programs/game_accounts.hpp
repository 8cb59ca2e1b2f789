// What comes of games played in lanes: lengths, outcomes, counts of positions and moves.
//
// Kept bit by bit like the games themselves, so that a ply costs a few operations for all lanes.
// The length and the goal values of a game that ends are put by, and counted when a lane's second
// game would come on top or after sixteen plies. Belongs to one thread.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <map>
#include <vector>

#include "circuit/lanes/lane_kernels.hpp"
#include "circuit/programs/play_program.hpp"

namespace orchard::circuit {

struct LaneStatistics {
  std::uint64_t games = 0;  // finished, stuck or broken off
  std::uint64_t plies = 0;  // in all of them
  std::uint64_t stuck = 0;
  std::uint64_t unfinished = 0;                         // broken off after the most plies
  std::map<std::uint64_t, std::uint64_t> lengths;       // plies of a finished game → games
  std::map<std::vector<bool>, std::uint64_t> outcomes;  // goal values that held → games
  std::vector<std::uint64_t> positions;  // by role: in which it is to move and play goes on
  std::vector<std::uint64_t> choices;    // by role: its legal moves in them
  std::uint64_t rounds = 0;              // plies that all lanes made together, idle ones among them
  // The program's choice groups do not hold for this game: nothing was counted, and another program
  // is to be used.
  bool conflict = false;
  bool left = false;  // before all games were over
  void add(const LaneStatistics& other);
};

class GameAccounts {
 public:
  explicit GameAccounts(const PlayProgram& program);

  // Everything from nothing; `games` as evenly shared out among the lanes as can be.
  void begin(std::uint64_t games);
  const LaneBlock& playing() const { return playing_; }  // lanes with a game to play yet
  bool some_play() const { return some_play_; }

  // Where the reports of the next ply go.
  LaneBlock* reports() { return reports_.data() + slot_ * program_.program.reports; }

  // Of lanes that go on from a position which so many plies led to: their games are broken off.
  // Before the reports are taken in; gives those lanes, and the plies from now after which a game
  // may be as long again.
  LaneBlock break_off(std::uint64_t most_plies, std::uint64_t& next_look);
  // Takes the reports in; false if the choice groups do not hold there.
  bool take();

  // Of everything taken in.
  LaneStatistics statistics();

 private:
  static constexpr std::size_t slots = 16;  // plies whose reports are counted together
  using LengthCounts = absl::flat_hash_map<std::uint64_t, std::uint64_t>;

  void count_reports();
  void settle();
  void count_outcomes();
  void meet_outcome();
  void look_who_is_left();

  const PlayProgram& program_;
  std::vector<LaneBlock> reports_;  // of the plies not counted yet
  std::size_t slot_ = 0;
  std::vector<BitCounter> counters_;  // by report that is counted

  LaneBlock playing_;
  bool some_play_ = false;
  LaneBlock carry_;
  std::vector<LaneBlock> ages_;  // plies that the lane's game has made
  std::vector<LaneBlock> left_;  // games that the lane has to play yet
  // A lane's last game is settled at once, so that it begins no other. After so many more times of
  // settling none can have come to its last one.
  std::uint64_t sure_rounds_ = 0;

  LaneBlock pending_;           // lanes with a game put by
  LaneBlock pending_finished_;  // of them, those whose game came to an end
  std::vector<LaneBlock> pending_ages_;
  std::vector<LaneBlock> pending_values_;
  std::size_t plies_since_settled_ = 0;

  LengthCounts stuck_;
  LengthCounts finished_;
  std::vector<std::vector<bool>> patterns_;  // outcomes met so far
  std::vector<std::uint64_t> flips_;         // of them, see count_patterns
  std::vector<std::uint64_t> pattern_counts_;
  std::uint64_t unfinished_ = 0;
  std::uint64_t unfinished_plies_ = 0;
};

}  // namespace orchard::circuit
