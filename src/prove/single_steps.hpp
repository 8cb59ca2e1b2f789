// What every joint move of a game changes, one at a time, as gates over fluents alone.
//
// With the moves known nearly everything that follows is known too: most fluents stay, some take
// what stood elsewhere. So a proof about one joint move is short where one about all of them at
// once is long. Gates are worked out from those of "no move is made", as far as a move changes
// them. One thread; the network must outlive it, and gets further gates.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "circuit/programs/game_network.hpp"
#include "prove/unrolled_game.hpp"

namespace orchard::prove {

struct SingleStep {
  std::vector<std::uint32_t> joint;  // a move number for each role
  Signal possible;                   // every move of it is legal, and this is no end
  struct Change {
    std::uint32_t fluent = 0;
    Signal after;  // whether it holds then; not the fluent itself
  };
  std::vector<Change> changes;  // ascending by fluent
};

struct SingleStepLimits {
  std::size_t joints = 100'000;
  std::size_t changes = 8'000'000;  // of all steps
};

// All joint moves that can be made where none of the signals holds that `never` do, as far as that
// is easy to tell. Nothing if they are too many.
std::optional<std::vector<SingleStep>> single_steps(const circuit::GameNetwork& game,
                                                    circuit::Network& network,
                                                    const std::vector<Signal>& never,
                                                    const SingleStepLimits& limits = {});

}  // namespace orchard::prove
