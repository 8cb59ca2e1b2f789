// Values by backward induction on the graph of positions; where positions come again, by retrograde
// analysis.
#pragma once

#include "explore/space/state_space.hpp"
#include "solve/best_play.hpp"
#include "solve/repeating.hpp"
#include "solve/solution_source.hpp"

namespace orchard {

class SolvedGraph : public SolutionSource {
 public:
  SolvedGraph(const Game& game, const LaneGame& lanes, Position from);

  // Once. Fails if the position, or a checkpoint, cannot be used.
  Diagnostics run(const Budget& budget, unsigned threads);

  bool complete() const override { return solved(0); }
  std::uint64_t positions() const override { return space_.size(); }
  std::optional<double> value(const Position& position, std::size_t role) const override;
  std::optional<std::uint64_t> plies(const Position& position) const override;
  std::vector<GoodMove> best(const Position& position, std::size_t role) const override;
  Diagnostics keep(const std::string& file) const override;

 private:
  using StateSpace = explore::StateSpace;
  std::optional<std::uint32_t> number(const Position& position) const;
  bool solved(std::uint32_t position) const {
    return position < known_.solved.size() && known_.solved[position] != 0;
  }
  bool over(std::uint32_t position) const {
    return space_.kind(position) != StateSpace::Kind::open;
  }
  std::optional<solve_inner::Play> play_at(std::uint32_t position) const;
  bool hand_back();

  Game game_;
  StateSpace space_;
  Position from_;
  std::optional<std::size_t> chance_;
  solve_inner::SolvedValues known_;
};

}  // namespace orchard
