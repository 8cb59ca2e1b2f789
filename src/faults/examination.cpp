#include "faults/examination.hpp"

#include <fmt/core.h>

#include "base/interruption.hpp"
#include "orchard/circuit.hpp"

namespace orchard::faults {

int badness(Verdict verdict) {
  switch (verdict) {
    case Verdict::fails:
      return 2;
    case Verdict::suspicious:
      return 1;
    default:
      return 0;
  }
}

Verdicts verdicts_of(const std::vector<Answer>& answers) {
  Verdicts verdicts;
  for (const Answer& answer : answers) verdicts.emplace(answer.id, answer.verdict);
  return verdicts;
}

std::vector<std::string> worse(const std::vector<Answer>& answers, const Verdicts& before) {
  std::vector<std::string> result;
  for (const Answer& answer : answers) {
    const auto known = before.find(answer.id);
    const int was = known == before.end() ? 0 : badness(known->second);
    if (badness(answer.verdict) > was) result.push_back(answer.id);
  }
  return result;
}

std::set<std::string> findings_of(const Game& game) {
  std::set<std::string> findings;
  for (const Diagnostic& finding : game.findings()) {
    findings.insert(fmt::format("{} [{}]", finding.message, finding.code));
  }
  return findings;
}

Result<std::vector<CaseResult>> Examination::run(const Game& game) const {
  if (!cases) return std::vector<CaseResult>();
  CaseOptions options;
  if (reader) options.reader = reader(game);
  auto results = run_cases(game, *cases, options);
  end_if_interrupted();  // a case that was not solved in time says nothing
  return results;
}

std::vector<std::string> Examination::failed_cases(const Game& game) const {
  const auto results = run(game);
  if (!results) return {results.diagnostics().items().front().message};
  std::vector<std::string> failed;
  for (const CaseResult& result : *results) {
    if (!result.passed()) failed.push_back(result.name);
  }
  return failed;
}

Result<Review> Examination::review(const Game& game) const {
  ReviewOptions options;
  options.budget.positions = positions;
  options.budget.seconds = seconds;
  options.claims = claims;
  // Descriptions cannot be worse than others.
  options.allow = {"turns", "draws", "balance", "alike", "symmetry", "sum", "outcomes"};
  if (!has_circuit(game)) {
    const auto reached = with_reached_circuit(game, options.budget);
    if (reached) return review_rules(*reached, options);
  }
  return review_rules(game, options);
}

}  // namespace orchard::faults
