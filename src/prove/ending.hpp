// That every line of play ends, proved by a measure that every move makes grow.
//
// A *chain* is a proved group of fluents, or one fluent and its absence, whose value only ever
// moves forward in an order of its values. Where some chain moves with every joint move, play
// cannot last longer than all chains together are long. Steps at which none of them moves are
// looked at again: chains that move forward in these alone are a second level, and so on, as long
// as there are new ones (a lexicographic measure: passes are counted anew after every move). What
// looks like a chain in sampled steps is proved to be one by `Induction`'s solver.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "explore/sampling/sampled_games.hpp"
#include "prove/exclusive_groups.hpp"
#include "prove/induction.hpp"

namespace orchard::prove {

struct SampledStep {
  SampledStep(std::vector<bool> from, std::vector<bool> to)
      : before(std::move(from)), after(std::move(to)) {}
  std::vector<bool> before;  // by fluent
  std::vector<bool> after;
};

// Gathers the steps of sampled games, ply by ply, as `SampledGames` shows them.
class StepCollector {
 public:
  explicit StepCollector(std::size_t fluents) : fluents_(fluents) {}
  void look(std::span<const std::uint64_t> rows,
            std::span<const explore::SampledGames::Place> places);
  const std::vector<SampledStep>& steps() const { return steps_; }

 private:
  static constexpr std::size_t most = 20'000;

  std::size_t fluents_;
  std::vector<std::vector<bool>> last_;  // position, by game
  std::vector<SampledStep> steps_;
};

struct EndingProof {
  std::optional<std::uint64_t> most_plies;       // none if the bound does not fit
  std::vector<std::vector<std::string>> levels;  // the names of the fluents whose chains they are
  bool by_sums = false;                          // of weighted fluents, in place of chains
};

// `groups`: of which one fluent at most holds in every reachable position, by proof. None if no
// measure was found.
std::optional<EndingProof> prove_ending(Induction& induction, const ground::GroundProgram& ground,
                                        const circuit::GameNetwork& game,
                                        const std::vector<FluentGroup>& groups,
                                        const std::vector<SampledStep>& steps);

}  // namespace orchard::prove
