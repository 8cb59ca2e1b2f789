#include "opponents/look_ahead.hpp"

#include <algorithm>
#include <limits>

#include "explore/sampling/joint_moves.hpp"

namespace orchard::opponents {
namespace {
constexpr float infinite = std::numeric_limits<float>::infinity();
}  // namespace

std::vector<float> LookAhead::values(const Row& row, int plies, std::size_t most_positions) {
  positions_ = 0;
  most_ = most_positions;
  const Node node = tree_.node(row);
  std::vector<float> result = by_own_move(row, node, plies, -infinite, infinite);
  if (positions_ > most_) result.clear();
  return result;
}

float LookAhead::value(const Row& row, const Node& node, int plies, float alpha, float beta) {
  const std::vector<float> mine = by_own_move(row, node, plies, alpha, beta);
  return *std::ranges::max_element(mine);
}

// For each own move: averaged over chance, the worst that others can choose.
std::vector<float> LookAhead::by_own_move(const Row& row, const Node& node, int plies, float alpha,
                                          float beta) {
  // Counted before they are made: a few roles that choose at once soon have millions.
  if (explore::count_of_joint_moves(node.legal) > most_ - std::min(most_, positions_)) {
    positions_ = most_ + 1;
    return std::vector<float>(node.legal[role_].size(), 0.5F);
  }
  // A copy: what the tree keeps may be forgotten while children are looked at.
  const Children children = tree_.children(row, node);
  positions_ += children.rows.size();
  const std::size_t count = children.rows.size();
  std::vector<float> worth(count, 0.5F);
  if (positions_ > most_) return std::vector<float>(node.legal[role_].size(), 0.5F);

  if (plies == 1) {
    std::vector<Row> leaves;
    std::vector<Node> leaf_nodes;
    std::vector<std::size_t> which;
    for (std::size_t at = 0; at < count; ++at) {
      if (children.nodes[at].over) {
        worth[at] = of_end(children.nodes[at].shares[role_], plies);
      } else {
        which.push_back(at);
        leaves.push_back(children.rows[at]);
        leaf_nodes.push_back(children.nodes[at]);
      }
    }
    const std::vector<float> judged = judge_(leaves, leaf_nodes);
    for (std::size_t i = 0; i < which.size(); ++i) worth[which[i]] = judged[i];
  } else {
    // Where one role alone chooses, the rest need not be looked at once it is too good.
    std::size_t choosers = 0;
    std::size_t chooser = 0;
    for (std::size_t role = 0; role < tree_.roles(); ++role) {
      if (node.legal[role].size() < 2) continue;
      ++choosers;
      chooser = role;
    }
    const bool cuts = choosers == 1 && !tree_.is_chance(chooser);
    const bool maximising = chooser == role_;
    float best = maximising ? -infinite : infinite;
    bool cut = false;
    for (std::size_t at = 0; at < count; ++at) {
      if (cut) {
        worth[at] = best;  // no better than what was found, for whoever chooses
        continue;
      }
      const Node& child = children.nodes[at];
      worth[at] = child.over ? of_end(child.shares[role_], plies)
                             : value(children.rows[at], child, plies - 1, cuts ? alpha : -infinite,
                                     cuts ? beta : infinite);
      if (!cuts) continue;
      if (maximising) {
        best = std::max(best, worth[at]);
        alpha = std::max(alpha, best);
      } else {
        best = std::min(best, worth[at]);
        beta = std::min(beta, best);
      }
      cut = alpha >
            beta;  // not at equality: moves that are worth the same stay apart from worse ones
    }
  }

  // The odometer of `children` taken apart: own move, chance, the others.
  std::vector<float> result(node.legal[role_].size(), 0);
  std::vector<std::vector<float>> by_chance;
  const std::size_t chances = [&] {
    for (std::size_t role = 0; role < tree_.roles(); ++role) {
      if (tree_.is_chance(role) && role != role_) return node.legal[role].size();
    }
    return std::size_t{1};
  }();
  by_chance.assign(result.size(), std::vector<float>(chances, infinite));
  std::vector<std::size_t> choice(tree_.roles(), 0);
  for (std::size_t at = 0; at < count; ++at) {
    std::size_t chance = 0;
    for (std::size_t role = 0; role < tree_.roles(); ++role) {
      if (tree_.is_chance(role) && role != role_) chance = choice[role];
    }
    float& worst = by_chance[choice[role_]][chance];
    worst = std::min(worst, worth[at]);
    for (std::size_t role = 0; role < tree_.roles(); ++role) {
      if (++choice[role] < node.legal[role].size()) break;
      choice[role] = 0;
    }
  }
  for (std::size_t own = 0; own < result.size(); ++own) {
    for (const float next : by_chance[own]) {
      result[own] += next / static_cast<float>(chances);
    }
  }
  return result;
}

}  // namespace orchard::opponents
