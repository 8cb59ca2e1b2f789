// The rung that searches a tree with playouts; where time is given and the ends are near, it first
// tries to search to them.
#pragma once

#include <algorithm>
#include <optional>

#include "opponents/judging_opponent.hpp"
#include "opponents/tree_search.hpp"
#include "solve/exact_search.hpp"

namespace orchard::opponents {

class PlayoutsOpponent : public JudgingOpponent {
 public:
  // Leaves are judged by playouts, or by what rules say that they are worth.
  PlayoutsOpponent(std::uint64_t seed, SearchLimit limit,
                   std::shared_ptr<const Preferences> worth = nullptr)
      : JudgingOpponent(seed, std::move(worth)), limit_(limit) {}
  std::string name() const override;

 protected:
  Judgement judge(const Row& row, std::size_t role, std::size_t positions) override;
  void judge_ahead(const Row& row, std::size_t role) override;
  std::size_t positions_to_draw() const override;
  void look_over(const std::vector<Row>& rows, std::size_t role) override;
  void forget_tree() override;
  std::uint64_t plies_without_circuit() const override {
    return std::min<std::uint64_t>(limit_.playouts, 10'000);
  }
  std::optional<double> seconds_without_circuit() const override {
    return limit_.seconds > 0 ? std::optional(limit_.seconds) : std::nullopt;
  }

 private:
  TreeSearch& search();
  std::vector<double> exactly(const Row& row, std::size_t role, double seconds);

  std::unique_ptr<TreeSearch> search_;  // of the last move, if the position was known
  std::unique_ptr<solve_inner::ExactSearch> exact_;
  SearchLimit limit_;
  bool count_length_ = false;
};

}  // namespace orchard::opponents
