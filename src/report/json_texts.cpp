#include "orchard/json.hpp"

#include "report/json.hpp"

namespace orchard {

using report::document_of;
using report::text_of;

std::string to_json(const Diagnostics& diagnostics) {
  return text_of(document_of(diagnostics));
}
std::string to_json(const Game& game, const Position& position, std::uint64_t ply) {
  return text_of(document_of(game, position, ply));
}
std::string to_json(const Game& game, const WalkStep& step) {
  return text_of(document_of(game, step));
}
std::string to_json(const Game& first, const Game& second, const Comparison& comparison) {
  return report::text_of(report::document_of(first, second, comparison));
}
std::string to_json(const Question& question, const Explanation& explanation) {
  return text_of(document_of(question, explanation));
}
std::string to_json(const Game& game, const Answer& answer) {
  return text_of(document_of(game, answer));
}
std::string to_json(const Game& game, const Review& review) {
  return text_of(document_of(game, review));
}
std::string to_json(const Game& game, const Sought& sought) {
  return text_of(document_of(game, sought));
}
std::string to_json(const std::vector<CaseResult>& results) {
  return text_of(document_of(results));
}
std::string to_json(const CaseCoverage& coverage) {
  return report::text_of(report::document_of(coverage));
}
std::string to_json(const FaultTrial& trial) {
  return report::text_of(report::document_of(trial));
}
std::string to_json(const Mending& mending) {
  return report::text_of(report::document_of(mending));
}
std::string to_json(const Game& game, const GameSummary& summary) {
  return report::text_of(report::document_of(game, summary));
}
std::string to_json(const Census& census) {
  return text_of(document_of(census));
}
std::string to_json(const MatchRecord& record) {
  return text_of(document_of(record));
}
std::string to_json(const Game& game, const Opening& opening) {
  return text_of(document_of(game, opening));
}
std::string to_json(const FormulaCounts& counts) {
  return text_of(document_of(counts));
}
std::string to_json(const Game& game, const PlayoutStatistics& result) {
  return text_of(document_of(game, result));
}
std::string to_json(const Game& game, const Position& position, const Solution& solution) {
  return text_of(document_of(game, position, solution));
}
std::string to_json(const Game& game, const SeriesOptions& options, const SeriesResult& result) {
  return text_of(document_of(game, options, result));
}
std::string to_json(const SeriesOptions& options, const RoundRobinResult& result) {
  return text_of(document_of(options, result));
}
std::string to_json(const TokenTable& table, const LearningCurve& curve) {
  return text_of(document_of(table, curve));
}
std::string to_json(const ValueTable& table, const LearningCurve& curve) {
  return text_of(document_of(table, curve));
}
std::string to_json(const CircuitStatistics& statistics) {
  return text_of(document_of(statistics));
}
std::string to_json(const std::vector<ArgumentDomain>& domains) {
  return text_of(document_of(domains));
}

}  // namespace orchard
