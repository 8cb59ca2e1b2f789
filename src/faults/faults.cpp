#include "orchard/faults.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <set>

#include "base/interruption.hpp"
#include "faults/edits.hpp"
#include "faults/examination.hpp"
#include "orchard/compare.hpp"
#include "orchard/random.hpp"

namespace orchard {
namespace {

using faults::Edit;
using Noticed = PlantedFault::Noticed;

constexpr std::size_t kinds = 8;

// Some of each kind, in the order of the text.
std::vector<Edit> chosen(std::vector<Edit> edits, std::size_t most, std::uint64_t seed) {
  if (edits.size() > most) {
    Random random(seed);
    for (std::size_t i = edits.size(); i > 1; --i) std::swap(edits[i - 1], edits[random.below(i)]);
    std::array<std::vector<Edit>, kinds> by_kind;
    for (Edit& edit : edits)
      by_kind[static_cast<std::size_t>(edit.kind)].push_back(std::move(edit));
    edits.clear();
    for (std::size_t round = 0; edits.size() < most; ++round) {
      for (std::vector<Edit>& of_kind : by_kind) {
        if (round < of_kind.size() && edits.size() < most) {
          edits.push_back(std::move(of_kind[round]));
        }
      }
    }
  }
  std::ranges::stable_sort(edits, {}, [](const Edit& edit) {
    return std::tuple(edit.place.line, edit.place.column, edit.kind);
  });
  return edits;
}

// What a description is like without any fault.
struct Baseline {
  Game game;
  std::set<std::string> findings;
  faults::Verdicts questions;
  faults::Verdicts claims;
};

std::string expected(const std::string& atom, bool holds) {
  return holds ? fmt::format("(expect {})", atom) : fmt::format("(expect (not {}))", atom);
}

std::string expectation_of(const Difference& difference) {
  const bool holds = difference.in_first;
  switch (difference.kind) {
    case Difference::Kind::move:
      return holds ? fmt::format("(expect (legal {} {}))", difference.role, difference.term)
                   : fmt::format("(refused {} {})", difference.role, difference.term);
    case Difference::Kind::end:
      return expected("terminal", holds);
    case Difference::Kind::goal:
      return expected(fmt::format("(goal {} {})", difference.role, difference.term), holds);
    case Difference::Kind::percept:
      return expected(fmt::format("(sees {} {})", difference.role, difference.term), holds);
    default:
      return "(expect (not terminal))";
  }
}

// The plies of a case, without the expectations that it ends with.
std::string case_of(const Game& game, const std::string& name, const Comparison& compared) {
  if (!compared.first_line) return {};
  std::string text = case_of_line(game, name, *compared.first_line);
  text.resize(text.rfind("(expect"));
  return text + expectation_of(compared.differences.front()) + ")\n";
}

class Trial {
 public:
  Trial(const std::string& path, const syntax::Source& source, const FaultOptions& options)
      : path_(path), source_(source), options_(options) {
    constexpr std::uint64_t usual_positions = 20'000;
    examination_.cases = options.cases;
    examination_.claims = options.claims;
    examination_.reader = options.reader;
    examination_.positions = options.budget.positions.value_or(usual_positions);
    examination_.seconds = options.fault_seconds / 2;
  }

  // Fails with what is wrong before any fault.
  Diagnostics prepare();
  PlantedFault plant(const Edit& edit) const;
  const std::vector<std::string>& case_names() const { return case_names_; }

 private:
  void look_further(const Game& game, PlantedFault& fault) const;  // than the cases

  std::string path_;
  syntax::Source source_;
  const FaultOptions& options_;
  faults::Examination examination_;
  std::optional<Baseline> baseline_;
  std::vector<std::string> case_names_;
};

Diagnostics Trial::prepare() {
  auto game = Game::from_text(std::string(source_.text()), path_, options_.load);
  if (!game) return game.diagnostics();
  const auto before = [&](std::string what) {
    Diagnostics faults;
    Diagnostic fault =
        plain_error("faults-before", std::move(what),
                    "mend it first: a fault must be told from what is wrong already");
    fault.place.file = path_;
    faults.add(std::move(fault));
    return faults;
  };
  const auto results = examination_.run(*game);
  if (!results) return results.diagnostics();
  for (const CaseResult& result : *results) {
    if (!result.passed()) return before(fmt::format("the case \"{}\" fails", result.name));
    case_names_.push_back(result.name);
  }
  const auto review = examination_.review(*game);
  if (!review) return review.diagnostics();
  for (const Answer& claim : review->claims) {
    if (claim.verdict == Verdict::fails) {
      return before(fmt::format("the claim \"{}\" fails", claim.id));
    }
  }
  baseline_.emplace(Baseline{*game, faults::findings_of(*game),
                             faults::verdicts_of(review->questions),
                             faults::verdicts_of(review->claims)});
  return {};
}

// Reading the rules and running the cases has a time of its own, and a long one: what a case
// notices should depend neither on the questions nor on how fast the machine is just now.
PlantedFault Trial::plant(const Edit& edit) const {
  PlantedFault fault{edit.kind, edit.place, edit.change};
  Budget for_cases;
  for_cases.seconds = 5 * options_.fault_seconds;
  Budget for_questions;
  for_questions.seconds = options_.fault_seconds;
  try {
    const auto game = [&] {
      const Interruption interruption(for_cases);
      auto read = Game::from_text(faults::edited(source_.text(), edit), path_, options_.load);
      if (read) fault.failed_cases = examination_.failed_cases(*read);
      return read;
    }();
    if (!game) {
      fault.noticed = Noticed::refused;
      fault.by = game.diagnostics().items().front().code;
    } else if (!fault.failed_cases.empty()) {
      fault.noticed = Noticed::cases;
      fault.by = fault.failed_cases.front();
    } else {
      const Interruption interruption(for_questions);
      look_further(*game, fault);
    }
    return fault;
  } catch (const Interrupted&) {
  }
  end_if_interrupted();  // of all of them
  fault.noticed = Noticed::undecided;
  return fault;
}

// In the order of asking: the first that notices is told.
void Trial::look_further(const Game& game, PlantedFault& fault) const {
  const auto noticed = [&](Noticed by_whom, std::string by) {
    fault.noticed = by_whom;
    fault.by = std::move(by);
  };
  const auto review = examination_.review(game);
  if (!review) return noticed(Noticed::claims, review.diagnostics().items().front().message);
  if (const auto claims = faults::worse(review->claims, baseline_->claims); !claims.empty()) {
    return noticed(Noticed::claims, claims.front());
  }
  const auto questions = faults::worse(review->questions, baseline_->questions);
  if (!questions.empty()) return noticed(Noticed::questions, questions.front());
  CompareOptions comparing;
  comparing.budget.positions = examination_.positions;
  comparing.budget.seconds = examination_.seconds;
  const auto compared = compare_games(baseline_->game, game, comparing);
  if (compared && compared->verdict == Comparison::Verdict::same) {
    return noticed(Noticed::same_game, compared->proved ? "proved" : "explored");
  }
  for (const std::string& finding : faults::findings_of(game)) {
    if (!baseline_->findings.contains(finding)) return noticed(Noticed::text, finding);
  }
  if (!compared || compared->verdict == Comparison::Verdict::undecided) {
    return noticed(Noticed::undecided, {});
  }
  noticed(Noticed::nobody, {});
  fault.missing_case = case_of(
      baseline_->game, fmt::format("line {}: {}", fault.place.line, fault.change), *compared);
}

Result<FaultTrial> planted(const std::string& path, const FaultOptions& options,
                           const std::function<void(std::size_t done)>& visit) {
  const Stopwatch clock(options.budget);
  const auto source = faults::source_to_edit(path);
  if (!source) return source.diagnostics();
  Trial trial(path, *source, options);
  FaultTrial result;
  try {
    if (Diagnostics faults = trial.prepare(); !faults.empty()) return faults;
    std::vector<Edit> edits = faults::edits_of(*source);
    result.possible = edits.size();
    edits = chosen(std::move(edits), options.most, options.seed);
    std::vector<std::optional<PlantedFault>> planted(edits.size());
    const auto plant = [&](std::size_t edit) { planted[edit] = trial.plant(edits[edit]); };
    result.ending = faults::try_each(edits.size(), options.threads, plant, visit).ending;
    for (std::optional<PlantedFault>& fault : planted) {
      if (fault) result.faults.push_back(std::move(*fault));
    }
    result.idle_cases = trial.case_names();
    std::erase_if(result.idle_cases, [&](const std::string& name) {
      return std::ranges::any_of(result.faults, [&](const PlantedFault& fault) {
        return std::ranges::find(fault.failed_cases, name) != fault.failed_cases.end();
      });
    });
  } catch (const Interrupted& interrupted) {
    result.ending = interrupted.ending;
  }
  result.seconds = clock.seconds();
  return result;
}

}  // namespace

std::string_view name_of(FaultKind kind) {
  switch (kind) {
    case FaultKind::condition_dropped:
      return "condition dropped";
    case FaultKind::negation_flipped:
      return "negation flipped";
    case FaultKind::constant_swapped:
      return "constant swapped";
    case FaultKind::arguments_swapped:
      return "arguments swapped";
    case FaultKind::variable_confused:
      return "variable confused";
    case FaultKind::rule_removed:
      return "rule removed";
    case FaultKind::range_off_by_one:
      return "range off by one";
    case FaultKind::goals_swapped:
      return "goals swapped";
    case FaultKind::condition_added:
      return "condition added";
    case FaultKind::rule_added:
      return "rule added";
  }
  return "";
}

std::string_view name_of(Noticed noticed) {
  switch (noticed) {
    case Noticed::refused:
      return "refused";
    case Noticed::cases:
      return "cases";
    case Noticed::claims:
      return "claims";
    case Noticed::questions:
      return "questions";
    case Noticed::text:
      return "text";
    case Noticed::nobody:
      return "nobody";
    case Noticed::same_game:
      return "same game";
    case Noticed::undecided:
      return "undecided";
  }
  return "";
}

std::size_t FaultTrial::count(Noticed noticed) const {
  return static_cast<std::size_t>(std::ranges::count(faults, noticed, &PlantedFault::noticed));
}

std::size_t FaultTrial::counted() const {
  return faults.size() - count(Noticed::refused) - count(Noticed::same_game);
}

std::size_t FaultTrial::noticed_by_cases_and_claims() const {
  return count(Noticed::cases) + count(Noticed::claims);
}

std::size_t FaultTrial::noticed_with_questions() const {
  return noticed_by_cases_and_claims() + count(Noticed::questions);
}

Result<FaultTrial> plant_faults(const std::string& path, const FaultOptions& options,
                                const std::function<void(std::size_t done)>& visit) {
  const Interruption interruption(options.budget);
  return planted(path, options, visit);
}

}  // namespace orchard
