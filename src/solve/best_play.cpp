#include "solve/best_play.hpp"

#include <algorithm>
#include <cmath>

#include "explore/sampling/joint_moves.hpp"
#include "solve/matrix_game.hpp"

namespace orchard::solve_inner {
namespace {

constexpr double same = 1e-9;

bool is_pure(const std::vector<double>& shares) {
  return std::ranges::any_of(shares, [](double share) { return share > 1 - same; });
}

// One position, looked at role by role.
class PlayFinder {
 public:
  PlayFinder(const Followers& followers, bool nearer)
      : at_(followers), nearer_(nearer), roles_(followers.choices.size()), stride_(roles_) {
    std::size_t all = 1;
    for (std::size_t role = 0; role < roles_; ++role) {
      const std::size_t choices = at_.choices[role];
      stride_[role] = all;
      all *= choices;
      play_.shares.emplace_back(choices, 1.0 / static_cast<double>(choices));
      if (role == at_.chance) {
        chances_ = choices;
        chance_stride_ = stride_[role];
      } else if (choices > 1) {
        choosers_.push_back(role);
      }
    }
    play_.values.assign(roles_, 0);
  }

  std::optional<Play> run() {
    if (choosers_.size() > 2) return std::nullopt;
    if (choosers_.size() == 2) return opposed();
    alone();
    return std::move(play_);
  }

 private:
  double value(std::size_t joint, std::size_t role) const {
    return at_.values[joint * roles_ + role];
  }
  // What a role gets where the choosers have chosen, chance averaged over.
  double expected(std::size_t base, std::size_t role) const {
    double sum = 0;
    for (std::size_t c = 0; c < chances_; ++c) sum += value(base + c * chance_stride_, role);
    return sum / static_cast<double>(chances_);
  }
  // What play goes on from for ever is nothing that can be had.
  bool ends(std::size_t base) const {
    for (std::size_t c = 0; c < chances_; ++c) {
      if (at_.solved[base + c * chance_stride_] == 0) return false;
    }
    return true;
  }

  void alone() {
    const std::size_t own = choosers_.empty() ? 0 : choosers_.front();
    const std::size_t choices = choosers_.empty() ? 1 : at_.choices[own];
    const auto base = [&](std::size_t choice) { return choice * stride_[own]; };
    const auto plies = [&](std::size_t choice) { return at_.plies[base(choice)]; };
    std::size_t best = 0;
    while (best + 1 < choices && !ends(base(best))) ++best;
    const auto better = [&](std::size_t a, std::size_t b) {
      if (!ends(base(a))) return false;
      const double of_a = expected(base(a), own);
      const double of_b = expected(base(b), own);
      if (of_a > of_b + same) return true;
      if (of_a < of_b - same || chances_ > 1) return false;
      return of_a > 0.5 ? plies(a) < plies(b) : plies(a) > plies(b);
    };
    for (std::size_t i = best + 1; i < choices; ++i) {
      if (better(i, best)) best = i;
    }
    play_.plies = 1 + plies(best);
    for (std::size_t role = 0; role < roles_; ++role) {
      play_.values[role] = expected(base(best), role);
    }
    if (choosers_.empty()) return;
    std::vector<std::size_t> good;
    for (std::size_t i = 0; i < choices; ++i) {
      if (ends(base(i)) && expected(base(i), own) >= play_.values[own] - same) good.push_back(i);
    }
    if (nearer_ && play_.values[own] >= 0.5 - same) {
      const std::size_t nearest = *std::ranges::min_element(good, {}, plies);
      std::erase_if(good, [&](std::size_t i) { return plies(i) > plies(nearest); });
    }
    std::ranges::fill(play_.shares[own], 0);
    for (const std::size_t i : good) {
      play_.shares[own][i] = 1.0 / static_cast<double>(good.size());
    }
  }

  std::optional<Play> opposed() {
    const std::size_t first = choosers_[0];
    const std::size_t second = choosers_[1];
    std::vector<std::vector<double>> gains(at_.choices[first]);
    std::optional<double> sum;
    for (std::size_t i = 0; i < gains.size(); ++i) {
      for (std::size_t j = 0; j < at_.choices[second]; ++j) {
        const std::size_t base = i * stride_[first] + j * stride_[second];
        gains[i].push_back(expected(base, first));
        const double both = gains[i].back() + expected(base, second);
        if (!sum) sum = both;
        if (std::abs(*sum - both) > 1e-6) return std::nullopt;
      }
    }
    const MixedPlay mixed = solve_matrix(gains);
    play_.shares[first] = mixed.rows;
    play_.shares[second] = mixed.columns;
    for (std::size_t i = 0; i < mixed.rows.size(); ++i) {
      for (std::size_t j = 0; j < mixed.columns.size(); ++j) {
        const double share = mixed.rows[i] * mixed.columns[j];
        if (share == 0) continue;
        for (std::size_t role = 0; role < roles_; ++role) {
          play_.values[role] += share * expected(i * stride_[first] + j * stride_[second], role);
        }
      }
    }
    play_.mixes = !is_pure(mixed.rows) || !is_pure(mixed.columns);
    return std::move(play_);
  }

  const Followers& at_;
  const bool nearer_;
  const std::size_t roles_;
  std::vector<std::size_t> stride_;  // of a role's choice among the joint moves
  std::vector<std::size_t> choosers_;
  std::size_t chances_ = 1;
  std::size_t chance_stride_ = 0;
  Play play_;
};

}  // namespace

std::optional<Play> best_play(const Followers& followers, bool nearer) {
  return PlayFinder(followers, nearer).run();
}

Play secured_play(const Followers& followers) {
  const std::size_t roles = followers.choices.size();
  const std::vector<std::size_t>& count = followers.choices;
  Play play;
  play.values.assign(roles, 0);
  for (std::size_t own = 0; own < roles; ++own) {
    play.shares.emplace_back(count[own], 1.0 / static_cast<double>(count[own]));
    if (own == followers.chance) continue;
    std::vector<std::vector<double>> gains(count[own]);
    for (std::size_t joint = 0; joint < followers.plies.size(); ++joint) {
      const auto choice = explore::choices_of_joint_move(
          joint, roles, [&](std::size_t role) { return count[role]; });
      std::size_t others = 0;  // what all the others choose, as one number
      std::size_t stride = 1;
      double likely = 1;
      for (std::size_t role = 0; role < roles; ++role) {
        if (role == own) continue;
        if (role == followers.chance) {
          likely = 1.0 / static_cast<double>(count[role]);
        } else {
          others += choice[role] * stride;
          stride *= count[role];
        }
      }
      std::vector<double>& of_move = gains[choice[own]];
      if (of_move.size() <= others) of_move.resize(others + 1, 0);
      of_move[others] += likely * followers.values[joint * roles + own];
    }
    const MixedPlay mixed = solve_matrix(gains);
    play.values[own] = mixed.value;
    play.shares[own] = mixed.rows;
    play.mixes = play.mixes || !is_pure(mixed.rows);
  }
  play.plies = 1 + *std::ranges::max_element(followers.plies);
  return play;
}

}  // namespace orchard::solve_inner
