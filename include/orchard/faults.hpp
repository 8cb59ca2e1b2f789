// Faults on purpose: who notices when a description is a little wrong?
//
//   auto tried = orchard::plant_faults("games/espalier.gdl").value();
//   std::cout << tried.noticed_by_cases_and_claims() << " of " << tried.counted() << "\n";
//
// Single small edits, of the kinds that people make, are planted one at a time. Those that change
// nothing are told apart by comparing the games (`compare_games`) and are not counted; of the
// others it is said who notices first: the cases, the claims, the questions of a review, or the
// text alone. What nobody notices comes with the shortest line of play that shows it, as a case
// that would fail.
//
// One fault after the other, or several at once in threads; the result is the same. Any thread may
// call.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/cases.hpp"
#include "orchard/game.hpp"

namespace orchard {

// A kind of fault.
enum class FaultKind {
  condition_dropped,  // one condition of a rule, or one way of an `or`, is missing
  negation_flipped,   // (not X) for X, or X for (not X)
  constant_swapped,   // another name, or the next number
  arguments_swapped,  // two neighbouring arguments
  variable_confused,  // another variable of the rule
  rule_removed,       // a rule or a fact is missing
  range_off_by_one,   // a #for begins one later, or ends one earlier
  goals_swapped,      // two goal rules have each other's values
  condition_added,    // a condition built like others: only to mend
  rule_added          // a rule built like another one: only to mend
};
// The words for a kind: "condition dropped" …
std::string_view name_of(FaultKind kind);

// A fault, and who noticed it.
struct PlantedFault {
  // Who noticed it first, in this order of asking.
  enum class Noticed {
    refused,    // the description does not read any more: no fault that could stay
    cases,      // a case fails
    claims,     // a claim fails that held
    questions,  // a question of the review is answered worse
    text,       // a new finding in the text
    nobody,     // the game is another one, and nothing tells
    same_game,  // the game is the same: no fault
    undecided   // nothing told within the budget, and it is not known whether the game is the same
  };

  // What kind of edit it is.
  FaultKind kind = FaultKind::condition_dropped;
  // Where it was made.
  Place place{};
  // What was done, in words: "(true (turn ?who)) is dropped".
  std::string change{};
  // Who noticed it first.
  Noticed noticed = Noticed::nobody;
  // The case, claim, question or finding that noticed it.
  std::string by{};
  // The names of all cases that fail.
  std::vector<std::string> failed_cases{};
  // Nobody noticed: a case that the faulty description fails, by the shortest line of play.
  std::string missing_case{};
};
// The word for who noticed a fault: "cases", "nobody" …
std::string_view name_of(PlantedFault::Noticed noticed);

// All that were planted.
struct FaultTrial {
  // In the order of the description.
  std::vector<PlantedFault> faults{};
  // The cases that no planted fault made fail: they may say nothing, or nothing that others do not.
  std::vector<std::string> idle_cases{};
  // How many single edits there are; `faults` has some of each kind where that is more than asked.
  std::size_t possible = 0;
  // Why planting ended.
  Ending ending = Ending::complete;
  // Seconds that it took, by the clock.
  double seconds = 0;

  // The number of faults that were noticed in this way first.
  std::size_t count(PlantedFault::Noticed noticed) const;
  // The number of faults that make another game, as far as that is known.
  std::size_t counted() const;
  // The number of faults that a case or a claim notices.
  std::size_t noticed_by_cases_and_claims() const;
  // The number of faults that a case, a claim or a question of the review notices.
  std::size_t noticed_with_questions() const;
};

// What is planted and who looks, and what it may cost.
struct FaultOptions {
  // How descriptions are read.
  LoadOptions load{};
  // The files of cases and claims; none asks without.
  std::optional<std::string> cases{};
  // The file of claims.
  std::optional<std::string> claims{};
  // Reads boards that are drawn in cases, by the game that they are for.
  std::function<DrawingReader(const Game&)> reader{};
  // How many faults to plant at most; some of each kind are taken.
  std::size_t most = 300;
  // Which ones are taken, if there are more.
  std::uint64_t seed = 1;
  // `positions`: that a review or a comparison looks at for one fault, 20 000 if not set.
  Budget budget{};
  // Seconds for all that is asked of a fault; five times as many for reading it and the cases.
  double fault_seconds = 3;
  // How many faults are looked at at once.
  unsigned threads = 1;
};

// Plants faults in the rules of a file; those of files that it includes stay as they are. Fails if
// the description, its cases or its claims do not read, with `faults-before` if a case or a claim
// fails without any fault, and with `not-prefix` for a description in the infix syntax. `visit` is
// called after each fault, on the thread of the call, with those that are done.
Result<FaultTrial> plant_faults(const std::string& path, const FaultOptions& options = {},
                                const std::function<void(std::size_t done)>& visit = {});

}  // namespace orchard
