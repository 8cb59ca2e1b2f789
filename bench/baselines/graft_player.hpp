// What a hand-written player of graft needs to know: moves, ends, and a guess by plants, those that
// can be won over soon, and places to go.
#pragma once

#include <bit>
#include <orchard/orchard.hpp>
#include <string>
#include <utility>

#include "baselines/graft.hpp"

namespace orchard::bench {

template <int rows, int columns>
struct GraftState {
  using Rules = Graft<rows, columns, void>;
  static constexpr int most_moves = rows * columns + 1;
  static constexpr int pass = rows * columns;
  static constexpr std::make_integer_sequence<int, 8> directions{};
  static constexpr std::uint64_t stones = Rules::at(2, columns - 1) | Rules::at(rows - 1, 2);
  std::uint64_t mover = 0;
  std::uint64_t other = 0;
  std::uint64_t half = 0;
  std::int8_t set = 0;
  std::int8_t passes = 0;
  friend bool operator==(const GraftState&, const GraftState&) = default;

  static GraftState of(const Game&, const Position& position, const Role& to_move) {
    GraftState state;
    for (const Term& fluent : position.fluents()) {
      const auto number = [&](std::size_t i) {
        return static_cast<int>(*fluent.arguments()[i].number());
      };
      if (fluent.name() == "set") state.set = static_cast<std::int8_t>(number(0));
      if (fluent.name() == "passes") state.passes = static_cast<std::int8_t>(number(0));
      if (fluent.name() != "square") continue;
      const std::string content = fluent.arguments()[2].to_string();
      if (content == "bare" || content == "stone") continue;
      const std::uint64_t bit = Rules::at(number(0), number(1));
      (content == "half"           ? state.half
       : content == to_move.name() ? state.mover
                                   : state.other) |= bit;
    }
    return state;
  }
  static std::string text_of(int move) {
    if (move == pass) return "pass";
    return "(graft " + std::to_string(move / columns + 1) + " " +
           std::to_string(move % columns + 1) + ")";
  }

  std::uint64_t bare() const { return Rules::full & ~(mover | other | half | stones); }
  std::uint64_t legal() const {
    const std::uint64_t open = bare();
    return set < 4 ? open : open & Rules::all_steps(mover | other | half, directions);
  }
  int moves(int* list) const {
    int count = 0;
    for (std::uint64_t left = legal(); left != 0; left &= left - 1) {
      list[count++] = std::countr_zero(left);
    }
    if (count == 0) list[count++] = pass;
    return count;
  }
  GraftState after(int move) const {
    GraftState next{other, mover, half, set, static_cast<std::int8_t>(passes + 1)};
    if (move == pass) return next;
    const std::uint64_t scion = std::uint64_t{1} << move;
    const std::uint64_t reached = Rules::all_runners(scion, bare() & ~scion, directions);
    const std::uint64_t halved = reached & other;
    const std::uint64_t won = reached & half;
    next.other |= scion | won;
    next.mover &= ~halved;
    next.half = (half & ~won) | halved;
    next.set = static_cast<std::int8_t>(set < 4 ? set + 1 : 4);
    next.passes = 0;
    return next;
  }
  bool over() const { return passes == 2; }
  int result() const {
    const int difference = std::popcount(mover) - std::popcount(other);
    return difference > 0 ? 1 : difference < 0 ? -1 : 0;
  }
  int most_plies_left() const { return std::popcount(bare()) + 2; }
  std::uint64_t key() const {
    std::uint64_t mixed = mover * 0x9E3779B97F4A7C15ULL;
    mixed = std::rotl(mixed, 29) ^ other * 0xD1B54A32D192ED03ULL;
    mixed = std::rotl(mixed, 29) ^ half * 0xA0761D6478BD642FULL;
    return (mixed ^ (mixed >> 31) ^ static_cast<std::uint64_t>(set * 8 + passes * 128)) | 1;
  }
  // A plant with bare squares in reach can be halved; one that has none is safe.
  int guess() const {
    const std::uint64_t near_bare = Rules::all_steps(bare(), directions);
    const auto worth = [&](std::uint64_t plants) {
      return 10 * std::popcount(plants) + 4 * std::popcount(plants & ~near_bare);
    };
    return worth(mover) - worth(other) + 2 * std::popcount(half & near_bare);
  }
};

}  // namespace orchard::bench
