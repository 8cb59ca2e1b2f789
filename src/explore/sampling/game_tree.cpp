#include "explore/sampling/game_tree.hpp"

#include <algorithm>

#include "base/interruption.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/sampling/joint_moves.hpp"

namespace orchard::explore {

std::unique_ptr<GameTree> GameTree::make(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr) return nullptr;
  return std::unique_ptr<GameTree>(new GameTree(core, *lanes));
}

std::unique_ptr<GameTree> GameTree::make(const LaneGame& lanes) {
  return std::unique_ptr<GameTree>(new GameTree(lanes.core(), lanes));
}

GameTree::GameTree(const GameCore& core, const LaneGame& lanes)
    : core_(core), lanes_(lanes), evaluator_(lanes), games_(lanes), shares_(lanes) {
  for (const Role& role : core_.roles()) {
    if (role.is_chance()) chance_ = role.index();
  }
}

std::optional<Row> GameTree::row_of(const Position& position) const {
  const auto bits = lanes_.bits(GameAccess::state(position).fluents());
  return bits ? std::optional(lanes_.row(*bits)) : std::nullopt;
}

std::optional<std::uint32_t> GameTree::move_number(std::size_t role, const Move& move) const {
  return lanes_.move_number(role, GameAccess::id(move));
}

void GameTree::read_nodes(std::size_t count, std::vector<Node>& nodes) {
  for (std::size_t at = 0; at < count; ++at) {
    Node& node = nodes.emplace_back();
    node.over = evaluator_.terminal(at);
    node.legal.resize(roles());
    for (std::size_t role = 0; role < roles(); ++role) {
      node.shares.push_back(shares_.here(evaluator_, at, role));
      if (evaluator_.terminal(at)) continue;
      evaluator_.legal(at, role, node.legal[role]);
      if (node.legal[role].empty()) node.over = true;
    }
  }
}

std::vector<Node> GameTree::nodes(std::span<const Row> rows) {
  std::vector<Node> result;
  Row together;
  circuit::each_piece(rows.size(), [&](std::size_t first, std::size_t count) {
    together.clear();
    for (const Row& row : rows.subspan(first, count)) {
      together.insert(together.end(), row.begin(), row.end());
    }
    evaluator_.set_positions(together, count);
    read_nodes(count, result);
  });
  return result;
}

Node GameTree::node(const Row& row) {
  return std::move(nodes({&row, 1}).front());
}

std::vector<Row> GameTree::next(std::span<const Row> rows,
                                std::span<const std::vector<std::uint32_t>> joints) {
  std::vector<Row> result;
  Row together;
  circuit::each_piece(rows.size(), [&](std::size_t first, std::size_t count) {
    end_if_interrupted();
    together.clear();
    for (std::size_t at = 0; at < count; ++at) {
      together.insert(together.end(), rows[first + at].begin(), rows[first + at].end());
      evaluator_.set_joint(at, joints[first + at]);
    }
    evaluator_.load(together, count);
    evaluator_.step();
    for (std::size_t at = 0; at < count; ++at) {
      const auto row = evaluator_.next(at);
      result.emplace_back(row.begin(), row.end());
    }
  });
  return result;
}

const Children& GameTree::children(const Row& row, const Node& node) {
  if (const auto known = kept_.find(row); known != kept_.end()) return known->second;
  if (kept_.size() >= most_kept) kept_.clear();
  std::vector<std::vector<std::uint32_t>> joints;
  each_joint_move(node.legal, [&](const auto& joint) { joints.push_back(joint); });
  Children result;
  result.rows = next(std::vector<Row>(joints.size(), row), joints);
  result.nodes = nodes(result.rows);
  return kept_.emplace(row, std::move(result)).first->second;
}

std::vector<float> GameTree::play(std::span<const Row> rows, Random& random) {
  Row together;
  for (const Row& row : rows) together.insert(together.end(), row.begin(), row.end());
  return games_.play(together, rows.size(), random);
}

double GameTree::mean_plies(const Row& row, std::size_t games, Random& random) {
  (void)play(std::vector<Row>(games, row), random);
  return static_cast<double>(games_.plies()) / static_cast<double>(games);
}

}  // namespace orchard::explore
