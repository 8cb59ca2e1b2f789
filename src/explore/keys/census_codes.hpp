// Finds codes for the positions of a game from random games, and mends them where exploring shows
// that they do not fit.
//
// One thread; the game must outlive it. The same rows in the same order give the same codes.
#pragma once

#include <optional>
#include <utility>

#include "explore/keys/code_joiner.hpp"
#include "explore/keys/code_renamings.hpp"
#include "explore/sampling/sampled_games.hpp"

namespace orchard::explore {

// Positions that a code could not write: those the finders of codes were shown because a count
// broke on them.
struct MendedRows {
  std::vector<std::uint64_t> rows;    // one behind the other
  std::vector<std::uint64_t> depths;  // of each
};

// What became of one attempt with a code: a result, the rows that the code could not write, or
// nothing that another code could mend.
template <class Result>
struct Attempted {
  std::optional<Result> result;
  bool given_up = false;
  MendedRows unwritable;
};

class CensusCodes {
 public:
  CensusCodes(const LaneGame& game, std::span<const std::uint64_t> start, bool symmetry);

  const Measure& measure() const { return measure_; }
  const MendedRows& mended() const { return mended_; }
  // Shows rows that could not be written, and random games that go on from them: what is rare is so
  // together.
  void mend(const MendedRows& unwritable);
  // Tries again and again, mending codes by what could not be written; none if that came to
  // nothing. attempt(number) → Attempted<Result>.
  template <class Result, class Attempt>
  std::optional<Result> mend_until_it_fits(int most_attempts, Attempt&& attempt) {
    for (int number = 0; number < most_attempts; ++number) {
      Attempted<Result> one = attempt(number);
      if (one.result || one.given_up) return std::move(one.result);
      mend(one.unwritable);
    }
    return std::nullopt;
  }
  // Groups of fluents of which one holds at most, and the renamings that keep it.
  PositionCode apart() const { return finder_.code(); }
  Renamings renamings(const PositionCode& code) const {
    return keeps_code(code, renamings_) ? renamings_within(renamings_, code) : Renamings{};
  }
  // Groups that hang together.
  std::optional<PositionCode> joined(bool layers) const {
    return joiner_.joined(apart(), layers ? measure_ : Measure{});
  }

 private:
  void show(std::span<const std::uint64_t> row) {
    finder_.observe(row);
    for (const auto& renaming : renamings_) finder_.observe(renamed(row, renaming));
  }
  void sample(std::span<const std::uint64_t> start);
  void play(SampledGames& samples, std::size_t games, std::span<const std::uint64_t> start,
            std::uint64_t depth, Random& random, const SampledGames::Visit& visit);

  const LaneGame& game_;
  const Renamings renamings_;
  CodeFinder finder_;
  CodeJoiner joiner_;
  Measure measure_;
  MendedRows mended_;
  std::size_t seen_ = 0;  // rows
};

}  // namespace orchard::explore
