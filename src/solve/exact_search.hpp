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

#include "explore/sampling/goal_shares.hpp"
#include "orchard/budget.hpp"

namespace orchard::solve_inner {

class ExactSearch {
 public:
  using Row = std::vector<std::uint64_t>;

  explicit ExactSearch(const LaneGame& game);

  // What can make a game unsuited for such a search.
  enum class Unsuited { chance, many_roles, many_values, shared_interests, choices_at_once };
  // Why this one is, as far as is known: before a search, and better after one.
  std::optional<Unsuited> unsuited() const { return unsuited_; }

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
  struct Node {
    std::uint8_t over_class = open;  // of an end
    std::uint8_t chooser = 0;
    std::uint32_t first_move = 0;  // in Level::moves
    std::uint32_t moves = 0;
  };
  static constexpr std::uint8_t open = 0xFF;
  // The children of one position on the way down.
  struct Level {
    std::vector<std::uint64_t> rows;
    std::vector<Node> nodes;
    std::vector<std::uint32_t> moves;   // legal ones of the chooser, child by child
    std::vector<std::uint32_t> others;  // child × roles: the first legal move of each role
    std::vector<std::uint32_t> order;
  };
  struct Entry {
    std::uint8_t lower = 0;  // classes
    std::uint8_t upper = 0;
    std::uint8_t asked = 0;  // what was last asked without an answer
    std::uint8_t depth = 0;  // so many plies deep
    std::uint32_t best = none;
  };
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  static constexpr std::uint8_t unused = 0xFF;  // as an upper bound: no entry
  struct Question {
    std::span<const std::uint64_t> row;
    const Node* node = nullptr;
    const Level* in = nullptr;
    std::size_t number = 0;  // of the node in its level
  };

  Reply ask(const Question& at, int depth, std::uint8_t wanted);
  Reply ask_children(const Question& at, int depth, std::uint8_t wanted, std::uint32_t& best);
  Reply ask_grandchildren(const Question& at, const Level& children, std::uint8_t wanted);
  Reply look_at_ends(const Question& at, std::uint8_t wanted);
  void expand(const Question& at, Level& level);
  void read_nodes(std::size_t count, Level& level);
  std::uint8_t class_at(std::size_t at);
  std::uint8_t class_ahead(std::size_t at);
  template <class Share>
  std::uint8_t class_of(Share&& share);
  void put_joint(std::size_t at, const Level& level, std::size_t number, std::uint32_t move);
  std::size_t place_of(std::span<const std::uint64_t> row) const;
  Entry* find(std::span<const std::uint64_t> row);
  Entry& make(std::span<const std::uint64_t> row);
  void grow();
  bool spent();
  std::optional<bool> reaches(const Question& root, int wanted);
  std::optional<std::uint8_t> settle(const Question& root, std::uint8_t lower, std::uint8_t upper);
  std::optional<double> value_of(std::size_t role, std::uint8_t value_class) const;

  const LaneGame& game_;
  LaneEvaluator evaluator_;
  std::size_t words_;
  std::size_t roles_;
  GoalShares shares_;
  std::optional<Unsuited> unsuited_;
  std::size_t first_ = 0;  // the role whose value is asked for
  std::optional<std::size_t> second_;
  std::vector<float> classes_;  // values an end can have for the first role, ascending
  static constexpr float unknown_share = -1;   // not met
  static constexpr float several_shares = -2;  // met with different ones
  // By role, what it gets where the first gets a value, as met.
  std::vector<std::vector<float>> of_class_;
  std::vector<std::vector<std::uint32_t>> history_;  // by role and move
  std::vector<Level> levels_;
  Level root_;
  std::vector<std::uint64_t> keys_;  // of the table
  std::vector<Entry> table_;
  std::size_t kept_ = 0;  // entries of the table that are used
  std::vector<std::uint32_t> numbers_;
  std::vector<std::uint32_t> joint_;
  const Budget* budget_ = nullptr;
  std::optional<Stopwatch> stopwatch_;
  std::optional<Ending> ending_;
  std::uint64_t first_position_ = 0;
  std::uint64_t positions_ = 0;
  int depth_ = 0;
};

// "chance decides".
std::string_view name_of(ExactSearch::Unsuited reason);

}  // namespace orchard::solve_inner
