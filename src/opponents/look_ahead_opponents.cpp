#include "opponents/look_ahead_opponents.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>

#include "base/interruption.hpp"

namespace orchard::opponents {
namespace {

constexpr std::size_t most_positions = 300'000;  // to work out for one move
constexpr std::size_t most_leaves = 60'000;      // to judge by playouts for one move

// What `Features` says right after the move, for whatever the others do.
std::vector<float> greedy_values(GameTree& tree, const Features& features, const Row& row,
                                 std::size_t role) {
  LookAhead look(tree, role, [&](std::span<const Row> rows, std::span<const Node> nodes) {
    std::vector<float> worth;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      worth.push_back(features.judge(rows[i], nodes[i], role));
    }
    return worth;
  });
  return look.values(row, 1, most_positions);
}

}  // namespace

JudgingOpponent::Judgement GreedyOpponent::judge(const Row& row, std::size_t role, std::size_t) {
  return as_numbers(greedy_values(tree(), features(), row, role));
}

JudgingOpponent::Judgement CarefulOpponent::judge(const Row& row, std::size_t role,
                                                  std::size_t positions) {
  LookAhead look(tree(), role, [](std::span<const Row> rows, std::span<const Node>) {
    return std::vector<float>(rows.size(), 0.5F);
  });
  constexpr int plies = 3;
  std::vector<double> worth = looked_ahead(look, row, plies, most_positions / positions);
  if (worth.empty()) return {};
  const auto greedy = greedy_values(tree(), features(), row, role);
  constexpr double beside = 1e-6;
  for (std::size_t i = 0; i < greedy.size(); ++i) {
    worth[i] += beside * static_cast<double>(greedy[i]);
  }
  return worth;
}

// So many plies, or as many as there is room for; where the choice has a deadline, as there is time
// for.
std::vector<double> LookingOpponent::looked_ahead(LookAhead& look, const Row& row, int plies,
                                                  std::size_t most) const {
  if (most_seconds()) return in_time(look, row, *most_seconds(), plies, most);
  for (; plies > 0; --plies) {
    const auto values = look.values(row, plies, most);
    if (!values.empty()) return as_numbers(values);
  }
  return {};
}

std::string LookAheadOpponent::name() const {
  return seconds_ > 0 ? fmt::format("lookahead:{}s", seconds_)
                      : fmt::format("lookahead:{}", plies_);
}

JudgingOpponent::Judgement LookAheadOpponent::judge(const Row& row, std::size_t role,
                                                    std::size_t positions) {
  LookAhead look(tree(), role, [&](std::span<const Row> rows, std::span<const Node>) {
    return preferences() ? worth(rows, role) : likely(rows, role);
  });
  if (seconds_ == 0) return looked_ahead(look, row, plies_, most_leaves / positions);
  constexpr std::size_t most_in_time = 5'000'000;  // leaves
  constexpr int deepest = 60;
  double seconds = seconds_ / static_cast<double>(positions);
  if (most_seconds()) seconds = std::min(seconds, *most_seconds());
  return in_time(look, row, seconds, deepest, most_in_time);
}

std::vector<float> LookAheadOpponent::worth(std::span<const Row> rows, std::size_t role) {
  if (!worth_) worth_.emplace(preferences());
  std::vector<std::uint64_t> words;
  for (const Row& row : rows) words.insert(words.end(), row.begin(), row.end());
  std::vector<float> shares(rows.size() * tree().roles());
  worth_->read(words, rows.size(), shares.data());
  std::vector<float> result(rows.size());
  for (std::size_t i = 0; i < rows.size(); ++i) {
    result[i] = uncertain(shares[i * tree().roles() + role]);
  }
  return result;
}

std::vector<float> LookAheadOpponent::likely(std::span<const Row> rows, std::size_t role) {
  constexpr std::size_t games = 16;  // a leaf
  std::vector<Row> many;
  for (const Row& next : rows) many.insert(many.end(), games, next);
  const std::vector<float> shares = tree().play(many, random());
  std::vector<float> worth(rows.size(), 0);
  for (std::size_t i = 0; i < many.size(); ++i) {
    worth[i / games] += shares[i * tree().roles() + role] / games;
  }
  for (float& next : worth) next = uncertain(next);
  return worth;
}

// A ply deeper as long as there is time.
std::vector<double> LookingOpponent::in_time(LookAhead& look, const Row& row, double seconds,
                                             int deepest, std::size_t most) {
  const auto begun = std::chrono::steady_clock::now();
  const auto spent = [&] {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
  };
  std::vector<double> result;
  double last = 0;      // seconds of the last depth
  double growth = 4.0;  // of that from ply to ply
  for (int plies = 1; plies <= deepest; ++plies) {
    const double before = spent();
    if (plies > 1 && before + last * growth > seconds) break;
    std::vector<float> values;
    try {
      Budget left;
      if (plies > 1) left.seconds = seconds - before;  // one ply is looked ahead in any case
      const Interruption interruption(left);
      values = look.values(row, plies, most);
    } catch (const Interrupted&) {
      end_if_interrupted();  // by others
    }
    if (values.empty()) break;
    const bool same = plies > 2 && as_numbers(values) == result;
    result = as_numbers(values);
    const double took = spent() - before;
    if (last > 1e-4) growth = std::clamp(took / last, 1.5, 40.0);
    last = took;
    if (same && took < 1e-4) break;  // everything is known
  }
  return result;
}

}  // namespace orchard::opponents
