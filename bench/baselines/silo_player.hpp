// What a hand-written player of silo needs to know: moves, ends, and a guess by the rows of four
// that each side can still fill.
#pragma once

#include <array>
#include <bit>
#include <orchard/orchard.hpp>
#include <string>

#include "baselines/silo.hpp"

namespace orchard::bench {

template <int heights, int bins>
struct SiloState {
  using Rules = Silo<heights, bins, void>;
  static constexpr int most_moves = bins;
  std::uint64_t mover = 0;
  std::uint64_t other = 0;
  std::array<std::int8_t, bins> height{};
  bool won = false;  // by the other, with the last move
  friend bool operator==(const SiloState&, const SiloState&) = default;

  static SiloState of(const Game& game, const Position& position, const Role& to_move) {
    SiloState state;
    for (const Term& fluent : position.fluents()) {
      if (fluent.name() != "place") continue;
      const std::string owner = fluent.arguments()[2].to_string();
      if (owner == "bare") continue;
      const auto row = static_cast<int>(*fluent.arguments()[0].number()) - 1;
      const auto bin = static_cast<int>(*fluent.arguments()[1].number()) - 1;
      const std::uint64_t bit = std::uint64_t{1} << (bin * Rules::stride + row);
      (owner == to_move.name() ? state.mover : state.other) |= bit;
      ++state.height[static_cast<std::size_t>(bin)];
    }
    state.won = game.terminal(position) && Rules::wins(state.other);
    return state;
  }
  static std::string text_of(int move) { return "(load " + std::to_string(move + 1) + ")"; }

  int moves(int* list) const {
    int count = 0;
    // From the middle outwards.
    for (int i = 0; i < bins; ++i) {
      const int bin = bins / 2 + (i % 2 == 1 ? -(i + 1) / 2 : i / 2);
      if (height[static_cast<std::size_t>(bin)] < heights) list[count++] = bin;
    }
    return count;
  }
  SiloState after(int move) const {
    const auto chosen = static_cast<std::size_t>(move);
    std::size_t bin = chosen;
    if (chosen > 0 && height[chosen - 1] < height[chosen]) {
      bin = chosen - 1;
    } else if (chosen + 1 < bins && height[chosen + 1] < height[chosen]) {
      bin = chosen + 1;
    }
    SiloState next{other, mover, height, false};
    next.other |= std::uint64_t{1} << (static_cast<int>(bin) * Rules::stride + height[bin]);
    ++next.height[bin];
    next.won = Rules::wins(next.other);
    return next;
  }
  bool over() const { return won || (mover | other) == Rules::board(); }
  int result() const { return won ? -1 : 0; }
  int most_plies_left() const { return heights * bins - std::popcount(mover | other); }
  std::uint64_t key() const {
    return (mover * 0x9E3779B97F4A7C15ULL ^ std::rotl(other * 0xD1B54A32D192ED03ULL, 23)) | 1;
  }

  // Fours in a row that only one side has crates in, by how many.
  int guess() const { return fours(mover, other) - fours(other, mover); }

 private:
  static int fours(std::uint64_t own, std::uint64_t rival) {
    constexpr int s = Rules::stride;
    const std::uint64_t open = Rules::board() & ~rival;
    const std::uint64_t lines = open & open >> s & open >> 2 * s & open >> 3 * s;
    const std::uint64_t a = own;
    const std::uint64_t b = own >> s;
    const std::uint64_t c = own >> 2 * s;
    const std::uint64_t d = own >> 3 * s;
    const std::uint64_t two = (a & b) | (a & c) | (a & d) | (b & c) | (b & d) | (c & d);
    const std::uint64_t three = (a & b & c) | (a & b & d) | (a & c & d) | (b & c & d);
    return std::popcount(lines & (a | b | c | d)) + 3 * std::popcount(lines & two) +
           12 * std::popcount(lines & three);
  }
};

}  // namespace orchard::bench
