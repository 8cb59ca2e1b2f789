// Values by backward induction on the graph of positions; where positions come again, or not all of
// them could be looked at, by retrograde analysis.
#pragma once

#include "solve/best_play.hpp"
#include "solve/explored_positions.hpp"
#include "solve/repeating.hpp"
#include "solve/solution_source.hpp"

namespace orchard {

class SolvedGraph : public SolutionSource {
 public:
  SolvedGraph(const Game& game, Position from,
              std::unique_ptr<solve_inner::ExploredPositions> explored);

  // Finds the positions; as `ExploredPositions::explore`.
  Diagnostics explore(const Budget& budget, unsigned threads);
  // Then works out what those that were found are worth.
  void work_out();

  bool complete() const override { return solved(0); }
  std::uint64_t positions() const override { return graph_.size(); }
  std::optional<double> value(const Position& position, std::size_t role) const override;
  std::optional<std::uint64_t> plies(const Position& position) const override;
  std::vector<GoodMove> best(const Position& position, std::size_t role) const override;
  Diagnostics keep(const std::string& file) const override;

 private:
  bool solved(std::uint32_t position) const {
    return position < known_.solved.size() && known_.solved[position] != 0;
  }
  std::optional<solve_inner::Play> play_at(std::uint32_t position) const;
  bool hand_back();

  Game game_;
  std::unique_ptr<solve_inner::ExploredPositions> explored_;
  solve_inner::PositionGraph graph_;
  Position from_;
  std::optional<std::size_t> chance_;
  solve_inner::SolvedValues known_;
};

}  // namespace orchard
