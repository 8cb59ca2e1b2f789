// What the hand-written programs count, so that their games can be compared with the engine's.
#pragma once

#include <cstdint>

namespace orchard::bench {

struct Tally {
  std::uint64_t games = 0;
  std::uint64_t plies = 0;
  std::uint64_t first_wins = 0;
  std::uint64_t second_wins = 0;
};

}  // namespace orchard::bench
