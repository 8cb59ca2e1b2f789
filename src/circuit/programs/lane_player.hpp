// Random games in lanes: 512 at once, a lane beginning anew when its game is over, until every lane
// has played its share.
//
// The games depend on the seed, the part and the shares alone, whatever the executor. One player
// belongs to one thread; the program and the executor are shared.
#pragma once

#include <functional>
#include <vector>

#include "circuit/lanes/executor.hpp"
#include "circuit/lanes/random_planes.hpp"
#include "circuit/programs/game_accounts.hpp"

namespace orchard::circuit {

class LanePlayer {
 public:
  LanePlayer(const PlayProgram& program, const Executor& executor,
             const std::vector<bool>& initial);

  // Plays `games` games, as evenly shared out among the lanes as can be. `goes_on`, if any, is
  // asked now and then; once it says no, the games are left.
  LaneStatistics play(std::uint64_t games, std::uint64_t seed, std::uint64_t part,
                      std::uint64_t most_plies, const std::function<bool()>& goes_on = {});

 private:
  void begin_again(const LaneBlock& of_lanes);

  const PlayProgram& program_;
  const Executor& executor_;
  std::vector<bool> initial_;
  std::vector<LaneBlock> state_;  // the fluents, and whether the lane plays
  std::vector<LaneBlock> next_;
  std::vector<LaneBlock> scratch_;
  RandomPlanes random_{0, 0};
  GameAccounts accounts_;
};

}  // namespace orchard::circuit
