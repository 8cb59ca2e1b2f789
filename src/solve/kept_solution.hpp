// A solved game in a file: what every position is worth, so that best moves are found by looking at
// what follows.
//
// Positions are sorted by their rows and looked up by halving; a position takes its row, two bytes
// and, where they are needed, four for the plies to the end. Immutable once read; safe to share.
#pragma once

#include <memory>
#include <mutex>
#include <string>

#include "explore/sampling/game_tree.hpp"
#include "explore/space/state_space.hpp"
#include "solve/best_play.hpp"
#include "solve/repeating.hpp"
#include "solve/solution_source.hpp"

namespace orchard {

class KeptSolution : public SolutionSource {
 public:
  // Fails with `cannot-write`.
  static Diagnostics write(const std::string& file, const explore::StateSpace& space,
                           const solve_inner::SolvedValues& known, const Facts& facts);
  // Fails with `cannot-read`, `other-state` if it is of other rules, `damaged-state`.
  static Result<std::shared_ptr<const KeptSolution>> read(const std::string& file,
                                                          const Game& game);

  bool complete() const override { return value(first_, 0).has_value(); }
  std::uint64_t positions() const override { return worth_.size(); }
  std::optional<double> value(const Position& position, std::size_t role) const override;
  std::optional<std::uint64_t> plies(const Position& position) const override;
  std::vector<GoodMove> best(const Position& position, std::size_t role) const override;
  Diagnostics keep(const std::string& file) const override;

 private:
  explicit KeptSolution(const Game& game) : game_(game), first_(game.initial()) {}
  std::optional<std::uint64_t> find(std::span<const std::uint64_t> row) const;
  std::optional<std::uint64_t> find(const Position& position) const;

  Game game_;
  Position first_;
  std::size_t words_ = 0;
  std::size_t roles_ = 0;
  std::vector<std::uint64_t> rows_;   // position × words, sorted
  std::vector<std::uint16_t> worth_;  // by position: number of its values; none if unsolved
  std::vector<std::uint32_t> plies_;  // by position
  std::vector<double> values_;        // number × roles, 0 to 1
  static constexpr std::uint16_t none = 0xFFFF;
  // Works out what follows; one thread at a time.
  mutable std::mutex mutex_;
  mutable std::unique_ptr<explore::GameTree> tree_;
};

}  // namespace orchard
