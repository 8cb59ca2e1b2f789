#include "opponents/perfect_opponent.hpp"

#include <algorithm>
#include <chrono>

namespace orchard::opponents {
namespace {

// As many as a few seconds allow: fewer where the rules are large.
std::uint64_t most_worth_solving(const Game& game) {
  constexpr std::uint64_t most = 300'000;
  constexpr std::uint64_t usual_gates = 5'000;
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  const std::uint64_t gates = lanes == nullptr ? 0 : lanes->network().network.gates();
  return most * usual_gates / std::max(usual_gates, gates);
}

}  // namespace

Move PerfectOpponent::choose(const Situation& situation) {
  if (situation.legal.size() == 1) return situation.legal.front();
  if (situation.view != nullptr) return otherwise_.choose(situation);
  std::vector<GoodMove> best;
  if (solution_) best = solution_->best(situation.position, situation.role);
  if (best.empty() && !too_large(situation)) best = solved_from(situation);
  if (best.empty()) return otherwise_.choose(situation);
  if (best.size() > 1 && !solution_->mixes()) return hardest(situation, best);
  constexpr std::uint64_t fine = 1u << 30;
  double draw = static_cast<double>(random_.below(fine)) / fine;
  for (const GoodMove& move : best) {
    draw -= move.share;
    if (draw < 0) return move.move;
  }
  return best.back().move;
}

// Tried again only when the game has come some way.
bool PerfectOpponent::too_large(const Situation& situation) const {
  constexpr std::uint64_t some_way = 4;  // plies
  return failed_at_ && situation.ply >= *failed_at_ && situation.ply < *failed_at_ + some_way;
}

std::vector<GoodMove> PerfectOpponent::solved_from(const Situation& situation) {
  SolveOptions options;
  options.from = situation.position;
  options.budget.positions = most_worth_solving(situation.game);
  options.budget.stop = situation.stop;
  if (situation.deadline) {
    constexpr double for_solving = 0.5;  // of the time: where it fails there must be some left
    const std::chrono::duration<double> left =
        *situation.deadline - std::chrono::steady_clock::now();
    options.budget.seconds = std::max(1e-3, for_solving * left.count());
  }
  const auto solution = solve(situation.game, options);
  if (!solution || !solution->complete()) {
    failed_at_ = situation.ply;
    return {};
  }
  solution_ = *solution;
  failed_at_.reset();
  return solution_->best(situation.position, situation.role);
}

// Of moves that are worth the same under best play, the one after which random play goes best: it
// gives the others the most chances to go wrong.
Move PerfectOpponent::hardest(const Situation& situation, const std::vector<GoodMove>& best) {
  const auto tree = GameTree::make(situation.game);
  std::vector<Row> rows;
  constexpr std::size_t games = 64;  // a move
  for (const GoodMove& good : best) {
    const auto joint = situation.game.joint_move(situation.position, situation.role, good.move);
    const auto next = joint ? situation.game.next(situation.position, *joint)
                            : Result<Position>(joint.diagnostics());
    const auto row = next ? tree->row_of(*next) : std::nullopt;
    if (!row) return best[random_.below(best.size())].move;
    rows.insert(rows.end(), games, *row);
  }
  const std::vector<float> shares = tree->play(rows, random_);
  std::vector<double> worth(best.size(), 0);
  for (std::size_t i = 0; i < rows.size(); ++i) {
    worth[i / games] += static_cast<double>(shares[i * tree->roles() + situation.role.index()]);
  }
  return best[static_cast<std::size_t>(std::ranges::max_element(worth) - worth.begin())].move;
}

}  // namespace orchard::opponents
