// Every result as JSON, in one line: what the command prints with --json. docs/FORMATS.md has the
// names; positions, moves and other terms are strings. Any thread may call.
#pragma once

#include <string>
#include <vector>

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

namespace orchard {

// Diagnostics with their places, as a JSON array.
std::string to_json(const Diagnostics& diagnostics);
// A position: its fluents, whose turn it is, legal moves, goals if it is terminal.
std::string to_json(const Game& game, const Position& position, std::uint64_t ply);
// One step of a walk: the joint move and the position after it.
std::string to_json(const Game& game, const WalkStep& step);
// A comparison of two games, with the line of play in both.
std::string to_json(const Game& first, const Game& second, const Comparison& comparison);
// A question and the whole tree of its explanation.
std::string to_json(const Question& question, const Explanation& explanation);
// One answer of a review, with its evidence taken apart.
std::string to_json(const Game& game, const Answer& answer);
// A whole review: questions, claims, depths, use of the rules.
std::string to_json(const Game& game, const Review& review);
// The result of `find_position`, with its line of play.
std::string to_json(const Game& game, const Sought& sought);
// The results of cases, with each failed expectation.
std::string to_json(const std::vector<CaseResult>& results);
// What a game is like.
std::string to_json(const Game& game, const GameSummary& summary);
// What cases show of the rules.
std::string to_json(const CaseCoverage& coverage);
// Faults on purpose, and who noticed each.
std::string to_json(const FaultTrial& trial);
// Proposed repairs.
std::string to_json(const Mending& mending);
// A census, depth by depth.
std::string to_json(const Census& census);
// The statistics of random games.
std::string to_json(const Game& game, const PlayoutStatistics& result);
// What was counted of formulas in random games.
std::string to_json(const FormulaCounts& counts);
// The value of a position and the best moves in it.
std::string to_json(const Game& game, const Position& position, const Solution& solution);
// A series: the score of each seat and each player.
std::string to_json(const Game& game, const SeriesOptions& options, const SeriesResult& result);
// A round robin: every pairing and the ratings.
std::string to_json(const SeriesOptions& options, const RoundRobinResult& result);
// What a record tells of its match, without the moves.
std::string to_json(const MatchRecord& record);
// Openings, each with what follows it.
std::string to_json(const Game& game, const Opening& opening);
// A learning curve, and the size of the table that was learnt.
std::string to_json(const TokenTable& table, const LearningCurve& curve);
// A learning curve, and the size of the table that was learnt.
std::string to_json(const ValueTable& table, const LearningCurve& curve);
// The size of a circuit and the time that making it took.
std::string to_json(const CircuitStatistics& statistics);
// The values that every argument can have.
std::string to_json(const std::vector<ArgumentDomain>& domains);

}  // namespace orchard
