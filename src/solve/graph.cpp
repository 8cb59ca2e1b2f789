#include "solve/graph.hpp"

#include <algorithm>

namespace orchard::solve_inner {

using explore::Node;

std::uint32_t Graph::add(Row row) {
  const auto [known, is_new] =
      numbers_.try_emplace(std::move(row), static_cast<std::uint32_t>(rows_.size()));
  if (is_new) rows_.push_back(std::make_shared<const Row>(known->first));
  return known->second;
}

Ending Graph::explore(const Row& from, const Budget& budget) {
  constexpr std::size_t at_once = 512;           // positions
  constexpr std::size_t most_joints = 1u << 16;  // joint moves that are made together
  Stopwatch clock(budget);
  add(from);
  first_next_.push_back(0);
  while (over_.size() < rows_.size()) {
    if (const auto end = clock.check(over_.size())) return *end;
    const std::size_t first = over_.size();
    const std::size_t count = std::min(at_once, rows_.size() - first);
    std::vector<Row> here;
    for (std::size_t i = 0; i < count; ++i) here.push_back(*rows_[first + i]);
    const std::vector<Node> nodes = tree_->nodes(here);
    std::vector<Row> sources;
    std::vector<std::vector<std::uint32_t>> joints;
    const auto make_steps = [&] {
      for (Row& row : tree_->next(sources, joints)) next_.push_back(add(std::move(row)));
      sources.clear();
      joints.clear();
    };
    for (std::size_t i = 0; i < count; ++i) {
      const Node& node = nodes[i];
      over_.push_back(node.over ? 1 : 0);
      for (std::size_t role = 0; role < roles(); ++role) {
        shares_.push_back(node.shares[role]);
        choices_.push_back(node.over ? 0 : static_cast<std::uint32_t>(node.legal[role].size()));
      }
      if (!node.over) {
        std::vector<std::size_t> choice(roles(), 0);
        const std::uint64_t all = GameTree::joint_count(node);
        for (std::uint64_t at = 0; at < all; ++at) {
          std::vector<std::uint32_t>& joint = joints.emplace_back();
          for (std::size_t role = 0; role < roles(); ++role) {
            joint.push_back(node.legal[role][choice[role]]);
          }
          sources.push_back(here[i]);
          for (std::size_t role = 0; role < roles(); ++role) {
            if (++choice[role] < node.legal[role].size()) break;
            choice[role] = 0;
          }
          if (joints.size() >= most_joints) make_steps();
        }
      }
      first_next_.push_back(next_.size() + joints.size());
    }
    make_steps();
  }
  return Ending::complete;
}

}  // namespace orchard::solve_inner
