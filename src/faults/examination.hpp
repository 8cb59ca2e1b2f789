// Whether a description does what its cases and claims say, and how it answers the questions of a
// review: what faults on purpose and repairs are judged by.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "orchard/cases.hpp"
#include "orchard/game.hpp"
#include "orchard/review.hpp"

namespace orchard::faults {

using Verdicts = std::map<std::string, Verdict>;

// How bad an answer is: 2 for what fails, 1 for what is suspicious.
int badness(Verdict verdict);
Verdicts verdicts_of(const std::vector<Answer>& answers);
// The answers that are worse than before.
std::vector<std::string> worse(const std::vector<Answer>& answers, const Verdicts& before);
// Messages and codes, without places.
std::set<std::string> findings_of(const Game& game);

// Who is asked. Cheap to copy; any thread may ask.
struct Examination {
  std::optional<std::string> cases;
  std::optional<std::string> claims;
  std::function<DrawingReader(const Game&)> reader;
  std::uint64_t positions = 20'000;
  double seconds = 1.5;  // of a review

  // Of all cases; none if there are no cases. Leaves by `Interrupted` where there was no time for
  // one.
  Result<std::vector<CaseResult>> run(const Game& game) const;
  // The names of those that fail; the reason, if the cases do not read.
  std::vector<std::string> failed_cases(const Game& game) const;
  // The questions that can be answered badly, and the claims.
  Result<Review> review(const Game& game) const;
};

}  // namespace orchard::faults
