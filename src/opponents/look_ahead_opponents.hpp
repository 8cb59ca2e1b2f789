// The rungs of the ladder that look at all moves: for their gain right away, exactly for three
// plies, or further with guesses by playouts.
#pragma once

#include "opponents/judging_opponent.hpp"
#include "opponents/look_ahead.hpp"

namespace orchard::opponents {

// The best goal right after the move, then the best features.
class GreedyOpponent : public JudgingOpponent {
 public:
  using JudgingOpponent::JudgingOpponent;
  std::string name() const override { return "greedy"; }

 protected:
  std::uint64_t plies_without_circuit() const override { return 500; }
  Judgement judge(const Row& row, std::size_t role, std::size_t positions) override;
};

// What looks ahead by plies.
class LookingOpponent : public JudgingOpponent {
 protected:
  using JudgingOpponent::JudgingOpponent;
  // The values of the moves; empty if there is no room even for one ply.
  std::vector<double> looked_ahead(LookAhead& look, const Row& row, int plies,
                                   std::size_t most) const;
  static std::vector<double> in_time(LookAhead& look, const Row& row, double seconds, int deepest,
                                     std::size_t most);
};

// Exact for three plies; what then looks alike is told apart as a greedy one would.
class CarefulOpponent : public LookingOpponent {
 public:
  explicit CarefulOpponent(std::uint64_t seed) : LookingOpponent(seed) {}
  std::string name() const override { return "careful"; }

 protected:
  Judgement judge(const Row& row, std::size_t role, std::size_t positions) override;
};

// As far as plies say, or as time lets it: a ply deeper again and again, as long as the next one is
// expected to end in time.
class LookAheadOpponent : public LookingOpponent {
 public:
  using Worth = std::shared_ptr<const Preferences>;
  // Leaves are judged by playouts, or by what rules say that they are worth.
  LookAheadOpponent(std::uint64_t seed, int plies, Worth worth = nullptr)
      : LookingOpponent(seed, std::move(worth)), plies_(plies) {}
  LookAheadOpponent(std::uint64_t seed, double seconds, Worth worth = nullptr)
      : LookingOpponent(seed, std::move(worth)), seconds_(seconds) {}
  std::string name() const override;

 protected:
  Judgement judge(const Row& row, std::size_t role, std::size_t positions) override;
  std::uint64_t plies_without_circuit() const override {
    return 1'000 * static_cast<std::uint64_t>(plies_);
  }
  std::optional<double> seconds_without_circuit() const override {
    return seconds_ > 0 ? std::optional(seconds_) : std::nullopt;
  }

 private:
  std::vector<float> worth(std::span<const Row> rows, std::size_t role);
  std::vector<float> likely(std::span<const Row> rows, std::size_t role);

  int plies_ = 3;
  double seconds_ = 0;  // instead, if not 0
  std::optional<WorthReader> worth_;
};

}  // namespace orchard::opponents
