// What random games have in common, whoever plays them: reference evaluator or circuit.
#pragma once

#include <algorithm>
#include <utility>

#include "orchard/playouts.hpp"

namespace orchard::explore {

// Statistics of the sums that a run has counted, all but the outcomes. `games`: how many it
// counted.
template <class Sums>
PlayoutStatistics statistics_of(Sums& sums, std::uint64_t games, std::size_t roles, double seconds,
                                Ending ending) {
  PlayoutStatistics result;
  result.playouts = games;
  result.plies = sums.plies;
  result.unfinished = sums.unfinished;
  result.stuck = sums.stuck;
  result.seconds = seconds;
  result.ending = ending;
  result.lengths = std::move(sums.lengths);
  sums.positions.resize(roles);
  sums.choices.resize(roles);
  for (std::size_t r = 0; r < roles; ++r) {
    const auto positions = static_cast<double>(std::max<std::uint64_t>(1, sums.positions[r]));
    result.branching.push_back(static_cast<double>(sums.choices[r]) / positions);
  }
  return result;
}

}  // namespace orchard::explore
