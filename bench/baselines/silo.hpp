// Silo as an expert would write it by hand: bins as bit columns with a guard bit above each,
// heights in a small array, a flood fill only where a chain from wall to wall is possible.
#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <utility>

#include "baselines/random.hpp"
#include "baselines/tally.hpp"

namespace orchard::bench {

template <int heights, int bins, class Bit>
struct Silo {
  static constexpr int stride = heights + 1;
  static constexpr std::uint64_t bin_mask(int b) {
    return ((std::uint64_t{1} << heights) - 1) << (b * stride);
  }
  static constexpr std::uint64_t board() {
    std::uint64_t mask = 0;
    for (int b = 0; b < bins; ++b) mask |= bin_mask(b);
    return mask;
  }

  static bool wins(std::uint64_t own) {
    const std::uint64_t two = own & own >> stride;
    if ((two & two >> (2 * stride)) != 0) return true;
    for (int b = 0; b < bins; ++b) {
      if ((own & bin_mask(b)) == 0) return false;
    }
    std::uint64_t reached = own & bin_mask(0);
    while (true) {
      const std::uint64_t next =
          (reached | reached << 1 | reached >> 1 | reached << stride | reached >> stride) & own;
      if ((next & bin_mask(bins - 1)) != 0) return true;
      if (next == reached) return false;
      reached = next;
    }
  }

  static void play(std::uint64_t games, FastRandom& random, Tally& tally) {
    for (std::uint64_t game = 0; game < games; ++game) {
      std::uint64_t mover = 0;
      std::uint64_t other = 0;
      std::array<int, bins + 2> height{};  // with a wall on either side
      height.front() = height.back() = heights + 2;
      std::uint32_t open = (1u << bins) - 1;  // bins with room
      std::uint64_t plies = 0;
      while (true) {
        const auto count = static_cast<std::uint32_t>(std::popcount(open));
        const int chosen = std::countr_zero(Bit::pick(open, random.below(count))) + 1;
        // A full neighbour has no free place to fall to.
        const int here = height[static_cast<std::size_t>(chosen)];
        int bin = chosen;
        if (height[static_cast<std::size_t>(chosen - 1)] < here) {
          bin = chosen - 1;
        } else if (height[static_cast<std::size_t>(chosen + 1)] < here) {
          bin = chosen + 1;
        }
        const int at = height[static_cast<std::size_t>(bin)]++;
        mover |= std::uint64_t{1} << ((bin - 1) * stride + at);
        if (at + 1 == heights) open &= ~(1u << (bin - 1));
        ++plies;
        if (wins(mover)) {
          ++(plies % 2 == 1 ? tally.first_wins : tally.second_wins);
          break;
        }
        if (open == 0) break;
        std::swap(mover, other);
      }
      tally.plies += plies;
    }
    tally.games += games;
  }
};

}  // namespace orchard::bench
