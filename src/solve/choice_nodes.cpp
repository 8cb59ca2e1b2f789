#include "solve/choice_nodes.hpp"

#include <utility>

#include "circuit/lanes/pieces.hpp"

namespace orchard::solve_inner {

void NodeList::clear() {
  rows.clear();
  nodes.clear();
  moves.clear();
  others.clear();
}

ChoiceNodes::ChoiceNodes(const LaneGame& game, const GoalShares& shares, EndClasses classes,
                         std::size_t first)
    : evaluator_(game),
      shares_(shares),
      classes_(std::move(classes)),
      first_(first),
      roles_(game.ground().moves().size()),
      joint_(roles_) {}

bool ChoiceNodes::read(std::span<const std::uint64_t> row, NodeList& result) {
  result.clear();
  result.rows.assign(row.begin(), row.end());
  evaluator_.set_positions(row, 1);
  return add_nodes(1, result);
}

bool ChoiceNodes::expand(const NodeList& from, std::size_t number, NodeList& result) {
  result.clear();
  const auto moves = from.moves_of(number);
  const auto row = from.row_of(number);
  std::vector<std::uint64_t> rows;
  return circuit::each_piece(moves.size(), [&](std::size_t first, std::size_t count) {
    rows.clear();
    for (std::size_t i = 0; i < count; ++i) {
      rows.insert(rows.end(), row.begin(), row.end());
      put_joint(i, from, number, moves[first + i]);
    }
    evaluator_.load(rows, count);
    evaluator_.step();
    rows.clear();
    for (std::size_t i = 0; i < count; ++i) {
      const auto next = evaluator_.next(i);
      rows.insert(rows.end(), next.begin(), next.end());
    }
    result.rows.insert(result.rows.end(), rows.begin(), rows.end());
    evaluator_.set_positions(rows, count);
    return add_nodes(count, result);
  });
}

bool ChoiceNodes::gather(const NodeList& from, std::size_t number) {
  const auto moves = from.moves_of(number);
  if (gathered_count_ + moves.size() > circuit::lanes) return false;
  const auto row = from.row_of(number);
  for (const std::uint32_t move : moves) {
    put_joint(gathered_count_++, from, number, move);
    gathered_.insert(gathered_.end(), row.begin(), row.end());
  }
  return true;
}

std::size_t ChoiceNodes::make_gathered() {
  evaluator_.load(gathered_, gathered_count_);
  evaluator_.judge_next();
  gathered_.clear();
  return std::exchange(gathered_count_, 0);
}

std::optional<std::uint8_t> ChoiceNodes::end_class(std::size_t at) {
  if ((evaluator_.next_terminal().words[at / 64] >> at % 64 & 1) == 0) return std::nullopt;
  return classes_.of([&](std::size_t role) { return shares_.ahead(evaluator_, at, role); });
}

void ChoiceNodes::put_joint(std::size_t at, const NodeList& from, std::size_t number,
                            std::uint32_t move) {
  for (std::size_t role = 0; role < roles_; ++role) {
    joint_[role] = role == from.nodes[number].chooser ? move : from.others[number * roles_ + role];
  }
  evaluator_.set_joint(at, joint_);
}

// Of the positions that were set.
bool ChoiceNodes::add_nodes(std::size_t count, NodeList& result) {
  for (std::size_t at = 0; at < count; ++at) {
    ChoiceNode node;
    bool over = evaluator_.terminal(at);
    std::size_t choosers = 0;
    node.first_move = static_cast<std::uint32_t>(result.moves.size());
    for (std::size_t role = 0; role < roles_; ++role) {
      std::uint32_t first = 0;
      if (!over) {
        evaluator_.legal(at, role, numbers_);
        over = numbers_.empty();
        if (!over) first = numbers_.front();
        if (numbers_.size() > 1) {
          ++choosers;
          node.chooser = static_cast<std::uint8_t>(role);
          result.moves.insert(result.moves.end(), numbers_.begin(), numbers_.end());
        }
      }
      result.others.push_back(first);
    }
    if (over) {
      result.moves.resize(node.first_move);
      node.over_class =
          classes_.of([&](std::size_t role) { return shares_.here(evaluator_, at, role); });
    } else if (choosers == 0) {
      node.chooser = static_cast<std::uint8_t>(first_);
      result.moves.push_back(result.others[result.others.size() - roles_ + first_]);
    } else if (choosers > 1) {
      return false;
    }
    node.moves = static_cast<std::uint32_t>(result.moves.size()) - node.first_move;
    result.nodes.push_back(node);
  }
  return true;
}

}  // namespace orchard::solve_inner
