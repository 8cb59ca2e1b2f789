// Positions of a game in which one role at a time chooses, and what follows from them, worked out
// together on the circuit.
//
// Belongs to one thread; the game must outlive it.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "game/lane_evaluator.hpp"
#include "solve/end_classes.hpp"

namespace orchard::solve_inner {

struct ChoiceNode {
  static constexpr std::uint8_t open = 0xFF;
  std::uint8_t over_class = open;  // of an end
  std::uint8_t chooser = 0;
  std::uint32_t first_move = 0;  // in NodeList::moves
  std::uint32_t moves = 0;
};

struct NodeList {
  std::vector<std::uint64_t> rows;
  std::vector<ChoiceNode> nodes;
  std::vector<std::uint32_t> moves;   // legal ones of the chooser, node by node
  std::vector<std::uint32_t> others;  // node × roles: the first legal move of each role

  void clear();
  std::span<const std::uint32_t> moves_of(std::size_t number) const {
    return std::span(moves).subspan(nodes[number].first_move, nodes[number].moves);
  }
  std::span<const std::uint64_t> row_of(std::size_t number) const {
    const std::size_t words = rows.size() / nodes.size();
    return std::span(rows).subspan(number * words, words);
  }
};

class ChoiceNodes {
 public:
  // `first`: the role whose value is asked for, which chooses where nobody has a choice.
  ChoiceNodes(const LaneGame& game, const GoalShares& shares, EndClasses classes,
              std::size_t first);

  // False where several roles choose at once; then `result` is of no use.
  [[nodiscard]] bool read(std::span<const std::uint64_t> row, NodeList& result);
  // What follows from a position, in the order of its moves. False as with `read`.
  [[nodiscard]] bool expand(const NodeList& from, std::size_t number, NodeList& result);

  // What follows from nodes, for which ends alone count: moves gathered, made, and asked about.
  // False if there is no room for all moves of the node; then none of them is added.
  bool gather(const NodeList& from, std::size_t number);
  std::size_t make_gathered();  // how many moves that were
  // By move, in the order in which they were gathered.
  std::optional<std::uint8_t> end_class(std::size_t at);

  const EndClasses& classes() const { return classes_; }

 private:
  bool add_nodes(std::size_t count, NodeList& result);
  void put_joint(std::size_t at, const NodeList& from, std::size_t number, std::uint32_t move);

  LaneEvaluator evaluator_;
  const GoalShares& shares_;
  EndClasses classes_;
  std::size_t first_;
  std::size_t roles_;
  std::vector<std::uint64_t> gathered_;  // rows
  std::size_t gathered_count_ = 0;
  std::vector<std::uint32_t> numbers_;  // scratch
  std::vector<std::uint32_t> joint_;
};

}  // namespace orchard::solve_inner
