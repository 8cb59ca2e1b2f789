// Every position that can follow from one, with what follows from each joint move.
//
// Positions are numbered in the order of their finding, so a position's depth never falls.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <optional>
#include <vector>

#include "explore/game_tree.hpp"
#include "orchard/budget.hpp"

namespace orchard::solve_inner {

using explore::GameTree;
using explore::Row;

class Graph {
 public:
  explicit Graph(std::unique_ptr<GameTree> tree) : tree_(std::move(tree)) {}

  // Explores from a position until the budget ends.
  Ending explore(const Row& from, const Budget& budget);

  std::size_t size() const { return over_.size(); }
  std::size_t roles() const { return tree_->roles(); }
  GameTree& tree() const { return *tree_; }
  std::optional<std::uint32_t> number(const Row& row) const {
    const auto known = numbers_.find(row);
    return known == numbers_.end() ? std::nullopt : std::optional(known->second);
  }
  const Row& row(std::uint32_t position) const { return *rows_[position]; }
  bool over(std::uint32_t position) const { return over_[position] != 0; }
  float share(std::uint32_t position, std::size_t role) const {
    return shares_[position * roles() + role];
  }
  // How many legal moves a role has; 0 at an end.
  std::uint32_t choices(std::uint32_t position, std::size_t role) const {
    return choices_[position * roles() + role];
  }
  // The positions that follow, for each joint move, the first role's choice changing fastest.
  std::span<const std::uint32_t> next(std::uint32_t position) const {
    return std::span(next_).subspan(first_next_[position],
                                    first_next_[position + 1] - first_next_[position]);
  }

 private:
  std::uint32_t add(Row row);

  std::unique_ptr<GameTree> tree_;
  absl::flat_hash_map<Row, std::uint32_t> numbers_;
  std::vector<std::shared_ptr<const Row>> rows_;
  std::vector<std::uint8_t> over_;
  std::vector<float> shares_;
  std::vector<std::uint32_t> choices_;
  std::vector<std::uint64_t> first_next_;
  std::vector<std::uint32_t> next_;
};

}  // namespace orchard::solve_inner
