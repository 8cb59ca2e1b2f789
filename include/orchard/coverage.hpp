// What the cases of a description show of its rules.
//
//   auto shown = orchard::case_coverage(game, "games/espalier.cases").value();
//   for (const orchard::ClauseCoverage& clause : shown.clauses)
//     if (!clause.by_cases && clause.in_play) std::cout << clause.place.line << " " << clause.head
//     << "\n";
//
// A clause is *shown* by a case if some instance of it holds in a position of the case, or at a
// joint move of it. A condition is shown if in some such place it is the only reason why an
// instance of its clause does not hold: without it, or with another one there, the case could come
// out differently. Both are asked of all play too, so that what no case could show is not missed.
// Rules that never change during play (facts, and what follows from facts alone) are left out, and
// so are conditions that only say what their variables range over.
//
// The questions are rules added to those of the game, on one circuit. Any thread may call; the game
// may be shared.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/cases.hpp"
#include "orchard/game.hpp"

namespace orchard {

// A condition of a clause.
struct ConditionCoverage {
  // Where it stands in the description.
  Place place{};
  // The condition as it is written: "(not (true (turn ?who)))".
  std::string text{};
  // Whether in some case it is the only reason why the clause does not hold.
  bool by_cases = false;
  // The same in play: in positions that can be reached, as far as they were looked at.
  bool in_play = false;
};

// A clause: a rule, or one way to satisfy the `or`s of a rule.
struct ClauseCoverage {
  // Where its rule stands in the description.
  Place place{};
  // The head as it is written.
  std::string head{};
  // Whether it holds in some case.
  bool by_cases = false;
  // Whether it holds in play, as far as that was looked at.
  bool in_play = false;
  // Its conditions that could be asked about.
  std::vector<ConditionCoverage> conditions{};
};

// Something that happens in play and in no case, and a case that would show it.
struct MissingCase {
  // The number of the clause in `CaseCoverage::clauses`.
  std::size_t clause = 0;
  // The number of the condition that fails; none if the whole clause is to hold.
  std::optional<std::size_t> condition{};
  // A case that shows it, with its end as the expectation; to be completed by hand.
  std::string text{};
};

// What the cases show.
struct CaseCoverage {
  // In the order of the description.
  std::vector<ClauseCoverage> clauses{};
  // Cases for what is missing; a case often shows several of them, and then stands here once.
  std::vector<MissingCase> missing{};
  // The number of positions that the cases come to.
  std::size_t positions = 0;
  // Of these, such that no line of play could lead to anything like them; they are left out.
  std::size_t unlike_play = 0;
  // The number of positions of play that were looked at, if all there are, or else the first ones
  // and some of random games.
  std::uint64_t played = 0;
  // Why looking at play ended.
  Ending ending = Ending::complete;
  // Seconds that it took, by the clock.
  double seconds = 0;

  // How many clauses some case shows, and how many hold in play or in a case.
  std::size_t clauses_by_cases() const;
  // The number of clauses that hold in play or in a case.
  std::size_t clauses_in_play() const;
  // How many conditions some case shows.
  std::size_t conditions_by_cases() const;
  // The number of conditions that play or a case shows.
  std::size_t conditions_in_play() const;
};

// What to look at, and what it may cost.
struct CoverageOptions {
  // How cases are read.
  CaseOptions cases{};
  // `positions`: of play, 100 000 if not set.
  Budget budget{};
  // For exploring; what is found does not depend on it.
  unsigned threads = 1;
  // Of the random games.
  std::uint64_t seed = 1;
  // The most missing cases that are worked out.
  std::size_t most_missing = 20;
};

// Runs the cases of a file and says what they show. Fails as `run_cases` does, and with the reasons
// why there is no circuit.
Result<CaseCoverage> case_coverage(const Game& game, const std::string& path,
                                   const CoverageOptions& options = {});
// The same of the cases in a text.
Result<CaseCoverage> case_coverage_of_text(const Game& game, std::string text,
                                           const CoverageOptions& options = {});

}  // namespace orchard
