// Every result as JSON, in one line: what the command prints with --json. docs/FORMATS.md has the
// names; positions, moves and other terms are strings.
#pragma once

#include <string>
#include <vector>

#include "orchard/cases.hpp"
#include "orchard/census.hpp"
#include "orchard/circuit.hpp"
#include "orchard/domains.hpp"
#include "orchard/explain.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "orchard/series.hpp"
#include "orchard/solve.hpp"

namespace orchard {

std::string to_json(const Diagnostics& diagnostics);
std::string to_json(const Game& game, const Position& position, std::uint64_t ply);
std::string to_json(const Game& game, const WalkStep& step);
std::string to_json(const Question& question, const Explanation& explanation);
std::string to_json(const Game& game, const Answer& answer);
std::string to_json(const Game& game, const Review& review);
std::string to_json(const Game& game, const Sought& sought);
std::string to_json(const std::vector<CaseResult>& results);
std::string to_json(const Census& census);
std::string to_json(const Game& game, const PlayoutStatistics& result);
std::string to_json(const Game& game, const Position& position, const Solution& solution);
std::string to_json(const Game& game, const SeriesOptions& options, const SeriesResult& result);
std::string to_json(const SeriesOptions& options, const RoundRobinResult& result);
std::string to_json(const TokenTable& table, const LearningCurve& curve);
std::string to_json(const ValueTable& table, const LearningCurve& curve);
std::string to_json(const CircuitStatistics& statistics);
std::string to_json(const std::vector<ArgumentDomain>& domains);

}  // namespace orchard
