#include "opponents/judging_opponent.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "base/interruption.hpp"
#include "opponents/evaluator_opponent.hpp"

namespace orchard::opponents {
namespace {

Budget patience_of(const Situation& situation) {
  Budget budget;
  budget.stop = situation.stop;
  if (situation.deadline) {
    const std::chrono::duration<double> left =
        *situation.deadline - std::chrono::steady_clock::now();
    budget.seconds = left.count();
  }
  return budget;
}

}  // namespace

Move JudgingOpponent::choose(const Situation& situation) {
  if (situation.legal.size() == 1) return situation.legal.front();
  prepare(situation.game);
  if (!tree_) return choose_without_circuit(situation);
  std::vector<Opinion> opinions(situation.legal.size());
  draws_ = false;
  most_bytes_ = situation.memory_bytes;
  bool any = false;
  try {
    const Interruption interruption(patience_of(situation));
    const std::vector<Row> rows = rows_to_look_at(situation);
    look_over(rows, situation.role.index());
    for (std::size_t i = 0; i < rows.size(); ++i) {
      share_of_time(situation, rows.size() - i);
      any = judge_position(situation, rows[i], rows.size(), opinions) || any;
    }
  } catch (const Interrupted&) {
    // By the situation: of what is known the best. Else by whoever waits for more than a move.
    end_if_interrupted();
  }
  if (!any) return situation.legal[random_.below(situation.legal.size())];
  const std::vector<double> worth = worth_by(opinions);
  if (draws_) return situation.legal[drawn(worth)];
  constexpr double same = 1e-12;
  const double best = *std::ranges::max_element(worth);
  std::vector<std::size_t> equals;
  for (std::size_t i = 0; i < worth.size(); ++i) {
    if (worth[i] >= best - same) equals.push_back(i);
  }
  return situation.legal[equals[random_.below(equals.size())]];
}

Move JudgingOpponent::choose_without_circuit(Situation situation) {
  if (!without_circuit_) {
    without_circuit_ = evaluator_opponent(random_.below(~0ULL), plies_without_circuit());
  }
  if (const auto seconds = seconds_without_circuit()) {
    const auto until = std::chrono::steady_clock::now() +
                       std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                           std::chrono::duration<double>(*seconds));
    if (!situation.deadline || until < *situation.deadline) situation.deadline = until;
  }
  return without_circuit_->choose(situation);
}

void JudgingOpponent::think_ahead(const Situation& situation) {
  if (situation.view != nullptr) return;
  prepare(situation.game);
  if (!tree_) return;
  const Interruption interruption(patience_of(situation));
  const std::vector<Row> rows = rows_to_look_at(situation);
  share_of_time(situation, 1);
  most_bytes_ = situation.memory_bytes;
  if (!rows.empty()) judge_ahead(rows.front(), situation.role.index());
}

// Of the time that is left, for one of so many positions; something stays for what comes after.
void JudgingOpponent::share_of_time(const Situation& situation, std::size_t positions) {
  constexpr double used = 0.9;
  most_seconds_.reset();
  if (!situation.deadline) return;
  const std::chrono::duration<double> left = *situation.deadline - std::chrono::steady_clock::now();
  most_seconds_ = std::max(1e-3, used * left.count() / static_cast<double>(positions));
}

void JudgingOpponent::prepare(const Game& played) {
  if (preferences_ && GameAccess::core(played) != GameAccess::core(preferences_->game())) {
    throw std::logic_error("the rules of this opponent are of another game");
  }
  const Game& game = preferences_ ? preferences_->extended() : played;
  const GameCore* const core = GameAccess::core(game).get();
  if (core == game_.get()) return;
  forget_tree();
  tree_.reset();
  game_ = GameAccess::core(game);
  tree_ = GameTree::make(game);
}

// What is certain counts as it is. Guesses are drawn to the mean of all guesses by as much as they
// differ between positions, compared with how much moves differ (James and Stein 1961): a lucky
// game does not outweigh a danger that is certain in other positions.
std::vector<double> JudgingOpponent::worth_by(const std::vector<Opinion>& opinions) const {
  const auto mean_of = [](const std::vector<double>& values) {
    double sum = 0;
    for (const double value : values) sum += value;
    return values.empty() ? 0 : sum / static_cast<double>(values.size());
  };
  std::vector<double> means;  // of moves with guesses
  double within = 0;          // sum of squares, and what it is to be divided by
  double freedom = 0;
  double few = 0;  // sum of one by the number of guesses
  for (const Opinion& opinion : opinions) {
    if (opinion.guesses.empty()) continue;
    means.push_back(mean_of(opinion.guesses));
    for (const double guess : opinion.guesses) {
      within += (guess - means.back()) * (guess - means.back());
    }
    freedom += static_cast<double>(opinion.guesses.size() - 1);
    few += 1 / static_cast<double>(opinion.guesses.size());
  }
  const double usual = mean_of(means);
  double between = 0;
  for (const double mean : means) between += (mean - usual) * (mean - usual);
  const auto moves = static_cast<double>(means.size());
  within = freedom > 0 ? within / freedom : 0;
  between = moves > 1 ? between / (moves - 1) - within * few / moves : 0;
  constexpr double least = 1e-12;
  // Of the mean of all, in guesses. Shares to draw by are kept as they are.
  const double weight = draws_ ? 0 : within / std::max(between, least);

  std::vector<double> worth;
  for (const Opinion& opinion : opinions) {
    const auto count = static_cast<double>(opinion.guesses.size());
    const double guess =
        count + weight > 0 ? (mean_of(opinion.guesses) * count + usual * weight) / (count + weight)
                           : usual;
    worth.push_back(opinion.certain + static_cast<double>(opinion.open) * guess);
  }
  return worth;
}

// Drawn in proportion; what is hardly ever to be made is not made at all.
std::size_t JudgingOpponent::drawn(std::vector<double> shares) {
  constexpr double hardly = 0.02;  // of the whole
  double all = 0;
  for (const double share : shares) all += share;
  double kept = 0;
  for (double& share : shares) {
    if (share < hardly * all) share = 0;
    kept += share;
  }
  constexpr std::uint64_t fine = 1u << 30;
  double draw = kept * static_cast<double>(random_.below(fine)) / fine;
  std::size_t last = 0;
  for (std::size_t i = 0; i < shares.size(); ++i) {
    if (shares[i] == 0) continue;
    last = i;
    if (draw < shares[i]) break;
    draw -= shares[i];
  }
  return last;
}

std::vector<Row> JudgingOpponent::rows_to_look_at(const Situation& situation) {
  std::vector<Row> rows;
  // The rules' game numbers its terms for itself.
  const auto row_of = [&](const Position& position) {
    return tree_->row_of(preferences_ ? preferences_->in_extended(position) : position);
  };
  if (situation.view == nullptr) {
    if (auto row = row_of(situation.position)) rows.push_back(std::move(*row));
    return rows;
  }
  for (const Position& position : situation.view->some(positions_to_draw(), random_.below(~0ULL))) {
    if (auto row = row_of(position)) rows.push_back(std::move(*row));
  }
  return rows;
}

bool JudgingOpponent::judge_position(const Situation& situation, const Row& row,
                                     std::size_t positions, std::vector<Opinion>& opinions) {
  const std::size_t role = situation.role.index();
  const Node node = tree_->node(row);
  if (node.over) return false;
  const Judgement judged = judge(row, role, positions);
  if (judged.worth.empty()) return false;
  for (std::size_t i = 0; i < situation.legal.size(); ++i) {
    const Move& move = situation.legal[i];
    const auto number =
        preferences_ ? preferences_->number_of(role, move) : tree_->move_number(role, move);
    if (!number) continue;
    const auto at = std::ranges::find(node.legal[role], *number);
    if (at == node.legal[role].end()) continue;
    const auto number_here = static_cast<std::size_t>(at - node.legal[role].begin());
    const double worth = judged.worth[number_here];
    if (!judged.certain.empty() && judged.certain[number_here]) {
      opinions[i].certain += worth;
      continue;
    }
    ++opinions[i].open;
    if (!std::isnan(worth)) opinions[i].guesses.push_back(worth);
  }
  return true;
}

}  // namespace orchard::opponents
