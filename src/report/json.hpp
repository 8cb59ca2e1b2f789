// Results as JSON documents, for whoever adds to them before they become text: orchard/json.hpp has
// the texts.
#pragma once

#include "base/json.hpp"
#include "orchard/cases.hpp"
#include "orchard/census.hpp"
#include "orchard/circuit.hpp"
#include "orchard/compare.hpp"
#include "orchard/coverage.hpp"
#include "orchard/domains.hpp"
#include "orchard/explain.hpp"
#include "orchard/faults.hpp"
#include "orchard/formula_counts.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/mend.hpp"
#include "orchard/openings.hpp"
#include "orchard/playouts.hpp"
#include "orchard/record.hpp"
#include "orchard/review.hpp"
#include "orchard/series.hpp"
#include "orchard/solve.hpp"
#include "orchard/summary.hpp"
#include "orchard/view.hpp"

namespace orchard::report {

// In one line; invalid UTF-8 in names is replaced.
std::string text_of(const Json& document);

// Parts.
Json document_of(const Diagnostics& diagnostics);
Json line_json(const Game& game, const Line& line);  // joint moves: [{role: move, …}, …]
Json fluents_json(const Position& position);
Json legal_json(const Game& game, const Position& position);  // role → moves
// Role → value; an array if several are derived, absent if none is. Chance has no goal.
Json goals_json(const Game& game, const std::vector<std::vector<Term>>& values);
Json goals_json(const Game& game, const Position& position);
// Leaves in a document of a position what a role was told or, deduced, can know, and says so in
// "view". At an end all stays.
void narrow_to_view(Json& document, const View& view, bool deduced);

// Results.
Json document_of(const Game& game, const Position& position, std::uint64_t ply);
Json document_of(const Game& game, const WalkStep& step);
Json document_of(const Game& first, const Game& second, const Comparison& comparison);
Json document_of(const Question& question, const Explanation& explanation);
Json document_of(const Game& game, const Answer& answer);
Json document_of(const Game& game, const Review& review);
Json document_of(const Game& game, const Sought& sought);
Json document_of(const std::vector<CaseResult>& results);
Json document_of(const Game& game, const GameSummary& summary);
Json document_of(const CaseCoverage& coverage);
Json document_of(const FaultTrial& trial);
Json document_of(const Mending& mending);
Json document_of(const Census& census);
Json document_of(const Game& game, const PlayoutStatistics& result);
Json document_of(const FormulaCounts& counts);
Json document_of(const Game& game, const Position& position, const Solution& solution);
// Every position that somebody chooses in, as a list; `ending` as of csv_of.
Json choices_of(const Game& game, const Solution& solution, const Budget& budget, Ending& ending);
Json document_of(const Game& game, const SeriesOptions& options, const SeriesResult& result);
Json document_of(const SeriesOptions& options, const RoundRobinResult& result);
Json document_of(const MatchRecord& record);
Json document_of(const Game& game, const Opening& opening);
Json document_of(const TokenTable& table, const LearningCurve& curve);
Json document_of(const ValueTable& table, const LearningCurve& curve);
Json document_of(const CircuitStatistics& statistics);
Json document_of(const std::vector<ArgumentDomain>& domains);

}  // namespace orchard::report
