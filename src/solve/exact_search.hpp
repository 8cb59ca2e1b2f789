// The exact value of one position by searching to the ends, where there are too many positions to
// keep them all: games in which one role at a time chooses, nothing is left to chance, and at most
// two roles choose, with opposed interests.
//
// "Is it worth at least so much to the first of them?" is asked ply by ply deeper, for every value
// an end can have that is still open, until all is answered. An answer given before the ends rests
// on ends alone, so it holds. What is known of a position, bounds of its value, is kept in a table
// of bounded size, by the whole position; moves that answered before are tried first (history
// heuristic, Schaeffer 1989). All children of a position are worked out at once on the circuit, and
// near the bottom all children of all children, of which only ends matter.
//
// One thread at a time; the game must outlive it.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "solve/bounds_table.hpp"
#include "solve/choice_nodes.hpp"

namespace orchard::solve_inner {

class ExactSearch {
 public:
  using Row = std::vector<std::uint64_t>;

  explicit ExactSearch(const LaneGame& game);

  // What can make a game unsuited for such a search.
  enum class Unsuited { chance, many_roles, many_values, shared_interests, choices_at_once };
  // Why this one is, as far as is known: before a search, and better after one.
  std::optional<Unsuited> unsuited() const;

  struct Answer {
    // Of each role, 0 to 100; empty if not answered. None for a role without choices whose value
    // differs among ends that are the same to those who choose.
    std::vector<std::optional<double>> value;
    std::vector<std::uint32_t> best;  // numbers of the chooser's best moves, ascending
    std::size_t chooser = 0;          // meaningful if there are best moves
    bool all_best = false;            // `best` is complete
    Ending ending = Ending::complete;
  };
  // With `budget.positions` positions looked at in this call. `want_all`: whether to go on until
  // all best moves are known, not only one.
  Answer solve(const Row& row, const Budget& budget, bool want_all = true);

  // Since it was made.
  std::uint64_t positions() const { return positions_; }
  int depth() const { return depth_; }  // plies that the last call looked ahead

 private:
  enum class Reply : std::uint8_t { no, yes, unknown };
  static constexpr Reply reply(bool yes) { return yes ? Reply::yes : Reply::no; }
  static constexpr Reply opposite(Reply one) { return reply(one == Reply::no); }
  // The children of one position on the way down, and the order in which they are asked.
  struct Level {
    NodeList children;
    std::vector<std::uint32_t> order;
  };
  struct Question {
    const NodeList& in;
    std::size_t number = 0;  // of the node in it
    const ChoiceNode& node() const { return in.nodes[number]; }
    std::span<const std::uint64_t> row() const { return in.row_of(number); }
    std::span<const std::uint32_t> moves() const { return in.moves_of(number); }
  };

  // The reply of a child that answers by itself.
  Reply decisive(const ChoiceNode& node) const { return reply(node.chooser == first_); }
  Reply ask(const Question& at, int depth, std::uint8_t wanted);
  Reply ask_children(const Question& at, int depth, std::uint8_t wanted, std::uint32_t& best);
  Reply ask_in_order(const Question& at, Level& level, int depth, std::uint8_t wanted,
                     std::uint32_t& best);
  Reply ask_grandchildren(const Question& at, const NodeList& children, std::uint8_t wanted);
  Reply look_at_ends(const Question& at, std::uint8_t wanted);
  Reply reply_of_ends(const Question& at, const NodeList& children, std::uint8_t wanted,
                      std::uint32_t& best) const;
  Reply reply_of_gathered(const ChoiceNode& child, std::size_t& at, std::uint8_t wanted);
  void put_in_order(const Question& at, Level& level, std::uint32_t best) const;
  void remember(std::size_t role, std::uint32_t move, int depth);
  bool expand(const Question& at, NodeList& children);
  bool spent();
  std::optional<bool> reaches(const Question& root, int wanted);
  std::optional<std::uint8_t> settle(const Question& root);
  void find_best(const Question& root, std::uint8_t worth, bool want_all, Answer& answer);

  std::size_t roles_;
  std::optional<Unsuited> unsuited_;
  std::size_t first_ = 0;  // the role whose value is asked for
  GoalShares shares_;
  std::optional<ChoiceNodes> nodes_;
  BoundsTable table_;
  std::vector<std::vector<std::uint32_t>> history_;  // by role and move
  std::vector<Level> levels_;
  std::optional<Stopwatch> stopwatch_;
  std::optional<Ending> ending_;
  std::uint64_t first_position_ = 0;
  std::uint64_t positions_ = 0;
  int depth_ = 0;
};

// "chance decides".
std::string_view name_of(ExactSearch::Unsuited reason);

}  // namespace orchard::solve_inner
