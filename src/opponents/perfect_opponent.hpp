// The top of the ladder: best play where it can be worked out from here; tree search where it
// cannot.
#pragma once

#include <optional>

#include "opponents/playouts_opponent.hpp"
#include "orchard/solve.hpp"

namespace orchard::opponents {

class PerfectOpponent : public Opponent {
 public:
  explicit PerfectOpponent(std::uint64_t seed)
      : random_(seed), otherwise_(random_.below(~0ULL), SearchLimit{}) {}
  // Plays by what was solved before, where it says something.
  PerfectOpponent(std::uint64_t seed, Solution solution) : PerfectOpponent(seed) {
    solution_ = std::move(solution);
  }
  std::string name() const override { return "perfect"; }
  Move choose(const Situation& situation) override;

 private:
  bool too_large(const Situation& situation) const;
  std::vector<GoodMove> solved_from(const Situation& situation);
  Move hardest(const Situation& situation, const std::vector<GoodMove>& best);

  Random random_;
  PlayoutsOpponent otherwise_;
  std::optional<Solution> solution_;
  std::optional<std::uint64_t> failed_at_;  // ply
};

}  // namespace orchard::opponents
