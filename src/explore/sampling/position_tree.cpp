#include "orchard/position_tree.hpp"

#include <bit>

#include "explore/sampling/game_tree.hpp"
#include "explore/sampling/joint_moves.hpp"

namespace orchard {

struct PositionTree::Inner {
  Game game;
  std::unique_ptr<explore::GameTree> tree;
};

PositionTree::PositionTree(std::unique_ptr<Inner> inner) : inner_(std::move(inner)) {}
PositionTree::PositionTree(PositionTree&&) noexcept = default;
PositionTree& PositionTree::operator=(PositionTree&&) noexcept = default;
PositionTree::~PositionTree() = default;

Result<PositionTree> PositionTree::make(const Game& game) {
  auto tree = explore::GameTree::make(game);
  if (!tree) return GameAccess::core(game)->lanes_fault();
  return PositionTree(std::make_unique<Inner>(Inner{game, std::move(tree)}));
}

std::optional<PositionTree::Row> PositionTree::row(const Position& position) const {
  return inner_->tree->row_of(position);
}

Result<Position> PositionTree::position(const Row& row) const {
  const auto& fluents = inner_->tree->lanes().ground().fluents();
  std::vector<Term> terms;
  for (std::size_t w = 0; w < row.size(); ++w) {
    for (std::uint64_t word = row[w]; word != 0; word &= word - 1) {
      const auto fluent = w * 64 + static_cast<std::size_t>(std::countr_zero(word));
      terms.push_back(GameAccess::core(inner_->game)->terms().term(fluents.at(fluent).term));
    }
  }
  return inner_->game.position(terms);
}

Move PositionTree::move(const Role& role, std::uint32_t number) const {
  const auto& moves = inner_->tree->lanes().ground().moves().at(role.index());
  return GameAccess::move(inner_->game, moves.at(number).term);
}

std::optional<std::uint32_t> PositionTree::number(const Role& role, const Move& move) const {
  return inner_->tree->move_number(role.index(), move);
}

PositionTree::Node PositionTree::node(const Row& row) {
  return std::move(nodes({&row, 1}).front());
}

std::vector<PositionTree::Node> PositionTree::nodes(std::span<const Row> rows) {
  std::vector<Node> result;
  for (explore::Node& node : inner_->tree->nodes(rows)) {
    if (node.over) node.legal.assign(node.legal.size(), {});
    result.push_back({node.over, std::move(node.shares), std::move(node.legal)});
  }
  return result;
}

std::vector<PositionTree::Row> PositionTree::next(std::span<const Row> rows,
                                                  std::span<const Joint> joints) {
  if (rows.size() != joints.size()) throw std::logic_error("a joint move for each position");
  return inner_->tree->next(rows, joints);
}

std::vector<PositionTree::Child> PositionTree::children(const Row& row) {
  const Node here = node(row);
  std::vector<Joint> joints;
  if (!here.over) {
    explore::each_joint_move(here.legal, [&](const Joint& joint) { joints.push_back(joint); });
  }
  std::vector<Row> rows = next(std::vector<Row>(joints.size(), row), joints);
  std::vector<Node> found = nodes(rows);
  std::vector<Child> result;
  for (std::size_t i = 0; i < joints.size(); ++i) {
    result.push_back({std::move(joints[i]), std::move(rows[i]), std::move(found[i])});
  }
  return result;
}

std::vector<float> PositionTree::play(std::span<const Row> rows, Random& random) {
  return inner_->tree->play(rows, random);
}

}  // namespace orchard
