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

// As a JSON document.
std::string to_json(const Diagnostics& diagnostics);
// As a JSON document.
std::string to_json(const Game& game, const Position& position, std::uint64_t ply);
// As a JSON document.
std::string to_json(const Game& game, const WalkStep& step);
// As a JSON document.
std::string to_json(const Question& question, const Explanation& explanation);
// As a JSON document.
std::string to_json(const Game& game, const Answer& answer);
// As a JSON document.
std::string to_json(const Game& game, const Review& review);
// As a JSON document.
std::string to_json(const Game& game, const Sought& sought);
// As a JSON document.
std::string to_json(const std::vector<CaseResult>& results);
// As a JSON document.
std::string to_json(const Census& census);
// As a JSON document.
std::string to_json(const Game& game, const PlayoutStatistics& result);
// As a JSON document.
std::string to_json(const Game& game, const Position& position, const Solution& solution);
// As a JSON document.
std::string to_json(const Game& game, const SeriesOptions& options, const SeriesResult& result);
// As a JSON document.
std::string to_json(const SeriesOptions& options, const RoundRobinResult& result);
// As a JSON document.
std::string to_json(const TokenTable& table, const LearningCurve& curve);
// As a JSON document.
std::string to_json(const ValueTable& table, const LearningCurve& curve);
// As a JSON document.
std::string to_json(const CircuitStatistics& statistics);
// As a JSON document.
std::string to_json(const std::vector<ArgumentDomain>& domains);

}  // namespace orchard
