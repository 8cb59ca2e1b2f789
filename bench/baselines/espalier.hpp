// Espalier as an expert would write it by hand: two bit boards, no memory, no calls.
#pragma once

#include <algorithm>

#include "baselines/bits.hpp"
#include "baselines/random.hpp"
#include "baselines/tally.hpp"

namespace orchard::bench {

template <int rows, int columns, class Bit>
struct Espalier {
  static constexpr std::uint64_t column(int c) {
    std::uint64_t mask = 0;
    for (int r = 0; r < rows; ++r) mask |= std::uint64_t{1} << (r * columns + c);
    return mask;
  }
  static constexpr std::uint64_t full =
      rows * columns == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << (rows * columns)) - 1;
  static constexpr std::uint64_t bottom = (std::uint64_t{1} << columns) - 1;

  static bool wins(std::uint64_t own) {
    // Corners c … columns-1-d: those left of the last d columns.
    std::uint64_t fits = full;
    for (int d = 1; d < std::min(rows, columns); ++d) {
      fits &= ~column(columns - d);
      const std::uint64_t lower = own & own >> d;
      if ((lower & lower >> (d * columns) & fits) != 0) return true;
    }
    return false;
  }

  static void play(std::uint64_t games, FastRandom& random, Tally& tally) {
    constexpr std::uint64_t not_first = full & ~column(0);
    constexpr std::uint64_t not_last = full & ~column(columns - 1);
    for (std::uint64_t game = 0; game < games; ++game) {
      std::uint64_t mover = 0;
      std::uint64_t other = 0;
      std::uint64_t plies = 0;
      while (true) {
        const std::uint64_t tied = mover | other;
        const std::uint64_t reach = bottom | (tied << 1 & not_first) | (tied >> 1 & not_last) |
                                    tied << columns | tied >> columns;
        const std::uint64_t legal = reach & ~tied & full;
        const auto count = static_cast<std::uint32_t>(std::popcount(legal));
        mover |= Bit::pick(legal, random.below(count));
        ++plies;
        if (wins(mover)) {
          ++(plies % 2 == 1 ? tally.first_wins : tally.second_wins);
          break;
        }
        if ((mover | other) == full) break;
        std::swap(mover, other);
      }
      tally.plies += plies;
    }
    tally.games += games;
  }
};

}  // namespace orchard::bench
