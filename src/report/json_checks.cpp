#include "report/json.hpp"

namespace orchard::report {

namespace {

// The parts of the evidence, for programs; the whole is its text.
Json parts_of(const Evidence& evidence) {
  Json parts = {{"finding", evidence.finding}};
  for (const Choice& one : evidence.choice) parts["choice"][one.variable] = one.value;
  if (evidence.count) parts["count"] = *evidence.count;
  if (evidence.of_ends) parts["of_ends"] = *evidence.of_ends;
  Json& reach = parts["reach"] = {{"kind", name_of(evidence.reach.kind)}};
  if (evidence.reach.positions > 0) reach["positions"] = evidence.reach.positions;
  if (evidence.reach.kind == Reach::Kind::depths) reach["depth"] = evidence.reach.depth;
  if (evidence.reach.joint_moves) reach["joint_moves"] = true;
  if (!evidence.remarks.empty()) parts["remarks"] = evidence.remarks;
  return parts;
}

}  // namespace

Json document_of(const Game& game, const Answer& answer) {
  Json entry = {{"id", answer.id},
                {"verdict", name_of(answer.verdict)},
                {"evidence", answer.evidence.text()},
                {"parts", parts_of(answer.evidence)}};
  if (answer.line) {
    entry["line"] = line_json(game, *answer.line);
    entry["position"] = fluents_json(answer.line->last());
  }
  if (answer.repeats_from) entry["repeats_from"] = *answer.repeats_from;
  if (!answer.places.empty()) {
    Json& places = entry["places"] = Json::array();
    for (const Note& note : answer.places) {
      places.push_back({{"file", note.place.file},
                        {"line", note.place.line},
                        {"column", note.place.column},
                        {"message", note.message}});
    }
  }
  return entry;
}

Json document_of(const Game& game, const Review& review) {
  Json document = Json::object();
  for (const auto& [name, answers] :
       {std::pair("questions", &review.questions), std::pair("claims", &review.claims)}) {
    Json& list = document[name] = Json::array();
    for (const Answer& answer : *answers) list.push_back(document_of(game, answer));
  }
  if (review.proofs) {
    document["proofs"] = {{"answers", review.proofs->answers},
                          {"invariants", review.proofs->invariants},
                          {"queries", review.proofs->queries},
                          {"left_out", review.proofs->left_out},
                          {"cut_short", review.proofs->cut_short}};
  }
  if (!review.not_asked.empty()) document["not_asked"] = document_of(review.not_asked);
  Json& depths = document["depths"] = Json::array();
  for (std::size_t depth = 0; depth < review.depths.size(); ++depth) {
    depths.push_back({{"depth", depth},
                      {"positions", review.depths[depth].positions},
                      {"terminal", review.depths[depth].ends}});
  }
  document["complete"] = review.complete();
  document["positions"] = review.positions;
  document["classes"] = review.classes;
  if (review.looked_at) document["looked_at"] = *review.looked_at;
  document["looked_at_all"] = review.looked_at_all;
  document["random_games"] = review.random_games;
  document["seconds"] = review.seconds;
  return document;
}

Json document_of(const Game& game, const Sought& sought) {
  Json result = {{"found", sought.line.has_value()}};
  if (sought.line) {
    result["line"] = line_json(game, *sought.line);
    result["position"] = fluents_json(sought.line->last());
    result["shortest"] = sought.shortest;
  }
  if (!sought.choice.empty()) result["about"] = text_of(sought.choice);
  if (!sought.line) result["proved"] = sought.proved;
  result["complete"] = sought.ending == Ending::complete;
  result["positions"] = sought.positions;
  result["seconds"] = sought.seconds;
  return result;
}

Json document_of(const Game& first, const Game& second, const Comparison& comparison) {
  Json result = {{"verdict", name_of(comparison.verdict)},
                 {"same_rules", comparison.same_rules},
                 {"proved", comparison.proved},
                 {"complete", comparison.ending == Ending::complete},
                 {"positions", comparison.positions}};
  if (comparison.random_games > 0) result["random_games"] = comparison.random_games;
  if (!comparison.no_circuit.empty()) result["no_circuit"] = document_of(comparison.no_circuit);
  if (comparison.verdict == Comparison::Verdict::different) {
    Json& list = result["differences"] = Json::array();
    for (const Difference& difference : comparison.differences) {
      Json entry = {{"kind", name_of(difference.kind)},
                    {"in", difference.in_first ? "first" : "second"}};
      if (!difference.role.empty()) entry["role"] = difference.role;
      if (!difference.term.empty()) entry["term"] = difference.term;
      list.push_back(std::move(entry));
    }
  }
  if (comparison.first_line) {
    result["shortest"] = comparison.shortest;
    result["first"] = {{"line", line_json(first, *comparison.first_line)},
                       {"position", fluents_json(comparison.first_line->last())}};
    result["second"] = {{"line", line_json(second, *comparison.second_line)},
                        {"position", fluents_json(comparison.second_line->last())}};
  }
  result["seconds"] = comparison.seconds;
  return result;
}

Json document_of(const std::vector<CaseResult>& results) {
  Json cases = Json::array();
  std::size_t failed = 0;
  for (const CaseResult& result : results) {
    failed += result.passed() ? 0 : 1;
    Json failures = Json::array();
    for (const CaseFailure& failure : result.failures) {
      failures.push_back({{"line", failure.place.line},
                          {"column", failure.place.column},
                          {"expected", failure.expected},
                          {"found", failure.found}});
    }
    Json entry = {{"name", result.name},
                  {"line", result.place.line},
                  {"passed", result.passed()},
                  {"failures", failures}};
    if (!result.passed() && result.position) entry["position"] = fluents_json(*result.position);
    cases.push_back(std::move(entry));
  }
  return {{"cases", cases}, {"passed", results.size() - failed}, {"failed", failed}};
}

Json document_of(const std::vector<ArgumentDomain>& domains) {
  Json list = Json::array();
  for (const ArgumentDomain& domain : domains) {
    list.push_back({{"kind", name_of(domain.kind)},
                    {"name", domain.name},
                    {"arity", domain.arity},
                    {"argument", domain.argument},
                    {"values", domain.values}});
  }
  return list;
}

Json document_of(const CaseCoverage& coverage) {
  const auto at = [](const Place& place) {
    return Json{{"file", place.file}, {"line", place.line}, {"column", place.column}};
  };
  Json clauses = Json::array();
  for (const ClauseCoverage& clause : coverage.clauses) {
    Json entry = at(clause.place);
    entry.update({{"head", clause.head}, {"cases", clause.by_cases}, {"play", clause.in_play}});
    Json& conditions = entry["conditions"] = Json::array();
    for (const ConditionCoverage& condition : clause.conditions) {
      Json one = at(condition.place);
      one.update({{"condition", condition.text},
                  {"cases", condition.by_cases},
                  {"play", condition.in_play}});
      conditions.push_back(std::move(one));
    }
    clauses.push_back(std::move(entry));
  }
  Json missing = Json::array();
  for (const MissingCase& one : coverage.missing) {
    Json entry = {{"clause", one.clause}, {"case", one.text}};
    if (one.condition) entry["condition"] = *one.condition;
    missing.push_back(std::move(entry));
  }
  return {{"clauses", std::move(clauses)},
          {"missing", std::move(missing)},
          {"clauses_by_cases", coverage.clauses_by_cases()},
          {"clauses_in_play", coverage.clauses_in_play()},
          {"conditions_by_cases", coverage.conditions_by_cases()},
          {"conditions_in_play", coverage.conditions_in_play()},
          {"positions", coverage.positions},
          {"unlike_play", coverage.unlike_play},
          {"played", coverage.played},
          {"complete", coverage.ending == Ending::complete},
          {"seconds", coverage.seconds}};
}

Json document_of(const FaultTrial& trial) {
  Json faults = Json::array();
  for (const PlantedFault& fault : trial.faults) {
    Json entry = {{"line", fault.place.line},
                  {"column", fault.place.column},
                  {"kind", name_of(fault.kind)},
                  {"change", fault.change},
                  {"noticed", name_of(fault.noticed)}};
    if (!fault.by.empty()) entry["by"] = fault.by;
    if (!fault.missing_case.empty()) entry["case"] = fault.missing_case;
    faults.push_back(std::move(entry));
  }
  return {{"faults", std::move(faults)},
          {"idle_cases", trial.idle_cases},
          {"possible", trial.possible},
          {"counted", trial.counted()},
          {"noticed_by_cases_and_claims", trial.noticed_by_cases_and_claims()},
          {"noticed_with_questions", trial.noticed_with_questions()},
          {"complete", trial.ending == Ending::complete},
          {"seconds", trial.seconds}};
}

Json document_of(const Mending& mending) {
  Json repairs = Json::array();
  for (const Repair& repair : mending.repairs) {
    repairs.push_back({{"line", repair.place.line},
                       {"column", repair.place.column},
                       {"kind", name_of(repair.kind)},
                       {"change", repair.change},
                       {"before", repair.before},
                       {"after", repair.after},
                       {"worse_questions", repair.worse_questions},
                       {"game", name_of(repair.compared.verdict)}});
  }
  return {{"repairs", std::move(repairs)},
          {"tried", mending.tried},
          {"possible", mending.possible},
          {"complete", mending.ending == Ending::complete}};
}

Json document_of(const Game& game, const GameSummary& summary) {
  Json result = {{"rules", summary.rules},
                 {"roles", summary.roles},
                 {"moves", summary.moves},
                 {"games", summary.games},
                 {"mean_length", summary.mean_length},
                 {"least_length", summary.least_length},
                 {"most_length", summary.most_length},
                 {"mean_goals", summary.mean_goals},
                 {"stuck", summary.stuck},
                 {"legal_moves", summary.branching},
                 {"depth", summary.depth},
                 {"positions_to_depth", summary.positions_to_depth}};
  if (summary.positions) result["positions"] = *summary.positions;
  for (const auto& [name, answers] :
       {std::pair("questions", &summary.questions), std::pair("claims", &summary.claims)}) {
    Json& list = result[name] = Json::array();
    for (const Answer& answer : *answers) list.push_back(document_of(game, answer));
  }
  return result;
}

}  // namespace orchard::report
