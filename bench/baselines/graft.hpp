// Graft as an expert would write it by hand: four bit boards, runners that shift a bit until they
// meet something.
#pragma once

#include <bit>
#include <cstdint>
#include <utility>

#include "baselines/random.hpp"
#include "baselines/tally.hpp"

namespace orchard::bench {

template <int rows, int columns, class Bit>
struct Graft {
  static constexpr std::uint64_t full =
      rows * columns == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << (rows * columns)) - 1;
  static constexpr std::uint64_t column(int c) {
    std::uint64_t mask = 0;
    for (int r = 0; r < rows; ++r) mask |= std::uint64_t{1} << (r * columns + c);
    return mask;
  }
  static constexpr std::uint64_t at(int row, int col) {
    return std::uint64_t{1} << ((row - 1) * columns + col - 1);
  }

  // A step of every bit in one of eight directions; bits that leave the bed are gone.
  template <int direction>
  static std::uint64_t step(std::uint64_t bits) {
    constexpr int horizontal[] = {-1, 0, 1, 1, 1, 0, -1, -1};
    constexpr int vertical[] = {-1, -1, -1, 0, 1, 1, 1, 0};
    constexpr int h = horizontal[direction];
    constexpr int shift = vertical[direction] * columns + h;
    if constexpr (h < 0) bits &= ~column(0);
    if constexpr (h > 0) bits &= ~column(columns - 1);
    if constexpr (shift > 0) {
      return bits << shift & full;
    } else {
      return bits >> -shift;
    }
  }

  template <int direction>
  static std::uint64_t runner(std::uint64_t from, std::uint64_t bare) {
    std::uint64_t at = step<direction>(from);
    while ((at & bare) != 0) at = step<direction>(at);
    return at;
  }

  template <int... directions>
  static std::uint64_t all_steps(std::uint64_t bits, std::integer_sequence<int, directions...>) {
    return (step<directions>(bits) | ...);
  }
  template <int... directions>
  static std::uint64_t all_runners(std::uint64_t from, std::uint64_t bare,
                                   std::integer_sequence<int, directions...>) {
    return (runner<directions>(from, bare) | ...);
  }

  static void play(std::uint64_t games, FastRandom& random, Tally& tally) {
    constexpr std::make_integer_sequence<int, 8> directions;
    constexpr std::uint64_t stones = at(2, columns - 1) | at(rows - 1, 2);
    for (std::uint64_t game = 0; game < games; ++game) {
      std::uint64_t mover = 0;
      std::uint64_t other = 0;
      std::uint64_t half = 0;
      int set = 0;
      int passes = 0;
      std::uint64_t plies = 0;
      while (passes < 2) {
        const std::uint64_t plants = mover | other | half;
        const std::uint64_t bare = full & ~(plants | stones);
        std::uint64_t legal = bare;
        if (set >= 4) legal &= all_steps(plants, directions);
        if (legal == 0) {
          ++passes;
        } else {
          const std::uint64_t scion =
              Bit::pick(legal, random.below(static_cast<std::uint32_t>(std::popcount(legal))));
          const std::uint64_t reached = all_runners(scion, bare & ~scion, directions);
          const std::uint64_t halved = reached & other;
          const std::uint64_t won = reached & half;
          mover |= scion | won;
          other &= ~halved;
          half = (half & ~won) | halved;
          ++set;
          passes = 0;
        }
        ++plies;
        std::swap(mover, other);
      }
      tally.plies += plies;
      const int first = std::popcount(plies % 2 == 0 ? mover : other);
      const int second = std::popcount(plies % 2 == 0 ? other : mover);
      tally.first_wins += first > second ? 1 : 0;
      tally.second_wins += second > first ? 1 : 0;
    }
    tally.games += games;
  }
};

}  // namespace orchard::bench
