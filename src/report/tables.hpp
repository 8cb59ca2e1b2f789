// Tables of series as CSV (RFC 4180), and what they share with other forms.
#pragma once

#include <string>
#include <vector>

#include "orchard/series.hpp"
#include "orchard/solve.hpp"

namespace orchard::report {

// The roles that somebody sits in: all but chance.
std::vector<std::string> seat_names(const Game& game);
// Whether one role alone chooses and gets goals, chance left out.
bool plays_alone(const Game& game);
// Wins, and draws as halves, of the matches with a result; with their interval.
Share score_of(const SeriesTally& tally);
// Players from the strongest to the weakest.
std::vector<std::size_t> by_rating(const RoundRobinResult& result);

std::string csv_of(const Game& game, const SeriesOptions& options, const SeriesResult& result);
std::string csv_of(const SeriesOptions& options, const RoundRobinResult& result);

// Every position that somebody chooses in: its fluents, the role, the value, its best moves. As far
// as the budget lets it; `ending` says whether that was all.
std::string csv_of(const Game& game, const Solution& solution, const Budget& budget,
                   Ending& ending);

}  // namespace orchard::report
