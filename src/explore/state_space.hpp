// Every position that can follow from one, with what follows from each of its joint moves.
//
// Positions are numbered in the order of their finding, breadth first: a position's depth, the
// length of the shortest line to it, never falls with its number, and numbers do not depend on
// anything but the game. A position of the last depth may not have been looked at yet if a budget
// ended the exploration: those below `expanded()` have been.
//
// One owner while it explores; then any number of readers. Memory a position: its bits, about 20
// bytes, 2 a role, and 4 a joint move. The game must outlive it.
#pragma once

#include <absl/container/flat_hash_set.h>

#include <optional>
#include <span>
#include <vector>

#include "explore/block_expander.hpp"
#include "orchard/budget.hpp"
#include "orchard/result.hpp"

namespace orchard::explore {

class StateSpace {
 public:
  using Kind = explore::Kind;
  using Number = std::uint32_t;
  using Row = std::span<const std::uint64_t>;  // a bit for each fluent of the ground program

  explicit StateSpace(const LaneGame& game);
  StateSpace(const StateSpace&) = delete;

  // Explores from a position until the budget ends; once. The budget counts positions found. What
  // is found does not depend on the number of threads, nor on whether the checkpoint was gone on
  // from. Fails if that cannot be read or written.
  Result<Ending> explore(Row from, const Budget& budget, unsigned threads = 1);

  const LaneGame& game() const { return game_; }
  std::size_t roles() const { return roles_; }
  std::size_t words() const { return words_; }  // of a row
  Number size() const { return static_cast<Number>(rows_.size() / words_); }
  Number expanded() const { return static_cast<Number>(kinds_.size()); }
  bool complete() const { return expanded() == size(); }
  std::uint64_t bytes() const;

  Row row(Number position) const { return Row(rows_).subspan(position * words_, words_); }
  Row rows(Number first, std::size_t count) const {
    return Row(rows_).subspan(first * words_, count * words_);
  }
  std::optional<Number> find(Row row) const;
  // The first position of each depth; the last one or two may be incomplete.
  const std::vector<Number>& depths() const { return depths_; }
  std::uint32_t depth(Number position) const;

  // Of expanded positions:
  Kind kind(Number position) const { return kinds_[position]; }
  std::uint32_t choices(Number position, std::size_t role) const {
    return choices_[position * roles_ + role];
  }
  // What follows, for each joint move, the first role's choice changing fastest; nothing where the
  // game does not go on.
  std::span<const Number> steps(Number position) const {
    return std::span(steps_).subspan(first_step_[position],
                                     first_step_[position + 1] - first_step_[position]);
  }
  std::uint64_t first_step(Number position) const { return first_step_[position]; }
  std::uint64_t step_count() const { return steps_.size(); }

  // What is derived for the roles where play does not go on: the numbers of goal values by role.
  using Outcome = std::vector<std::vector<std::uint32_t>>;
  const std::vector<Outcome>& outcomes() const { return outcomes_; }
  std::uint16_t outcome(Number position) const { return outcome_of_[position]; }
  static constexpr std::uint16_t no_outcome = 0xFFFF;  // play goes on

  // The positions of a shortest line from the first one. O(steps of the depths before it).
  std::vector<Number> line_to(Number position) const;

 private:
  struct Hash {
    using is_transparent = void;
    const StateSpace* space;
    std::size_t operator()(Number position) const { return (*this)(space->row(position)); }
    std::size_t operator()(Row row) const;
  };
  struct Equal {
    using is_transparent = void;
    const StateSpace* space;
    bool operator()(Number a, Number b) const { return a == b; }
    bool operator()(Number a, Row b) const { return std::ranges::equal(space->row(a), b); }
    bool operator()(Row a, Number b) const { return (*this)(b, a); }
  };

  Number add(Row row);
  Result<Ending> explore_depths(Row from, const Budget& budget, unsigned threads);
  Diagnostics save(Row from, const std::string& folder) const;
  Result<bool> load(Row from, const std::string& folder);
  void add_outcome(Outcome outcome);
  void add_block(ExpandedBlock& block);

  const LaneGame& game_;
  std::size_t roles_;
  std::size_t words_;
  std::vector<std::uint64_t> rows_;
  absl::flat_hash_set<Number, Hash, Equal> known_;
  std::vector<Number> depths_;
  std::vector<Kind> kinds_;
  std::vector<std::uint16_t> choices_;
  std::vector<std::uint64_t> first_step_{0};
  std::vector<Number> steps_;
  std::vector<std::uint16_t> outcome_of_;
  std::vector<Outcome> outcomes_;
  absl::flat_hash_map<Outcome, std::uint16_t> outcome_numbers_;
  bool too_wide_ = false;  // a position has more moves, or there are more outcomes, than is kept
};

}  // namespace orchard::explore
