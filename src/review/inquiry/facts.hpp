// What several questions need to know of a game, each worked out once, at the first call.
#pragma once

#include <optional>
#include <vector>

#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "orchard/solve.hpp"
#include "review/inquiry/end_order.hpp"
#include "review/inquiry/exploration.hpp"

namespace orchard::review {

class Facts {
 public:
  // `solution`: best play, if known. The exploration must outlive the facts.
  explicit Facts(Exploration& exploration, std::optional<Solution> solution = {})
      : exploration_(&exploration) {
    if (solution) best_play_ = std::move(solution);
  }

  // The clauses of the description, and which ever took part.
  const std::vector<ClauseUse>& clause_use();
  // Explored positions with followers first.
  const EndOrder& ends();
  // 10 000 random games.
  const Result<PlayoutStatistics>& random_play();
  // Best play, where that takes about a second or is known.
  const std::optional<Solution>& best_play();

 private:
  Exploration* exploration_;
  std::optional<std::vector<ClauseUse>> clause_use_;
  std::optional<EndOrder> ends_;
  std::optional<Result<PlayoutStatistics>> random_play_;
  std::optional<std::optional<Solution>> best_play_;
};

}  // namespace orchard::review
