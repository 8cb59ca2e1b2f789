#include "orchard/coverage.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <functional>

#include "base/interruption.hpp"
#include "coverage/probes.hpp"
#include "game/core.hpp"
#include "orchard/review.hpp"
#include "review/inquiry/meeting.hpp"

namespace orchard {
namespace {

using circuit::Signal;
using coverage::ClauseProbe;
using coverage::Probes;

// Where something is asked about: a clause, or a condition of it.
struct Asked {
  std::size_t clause = 0;  // of the coverage
  std::optional<std::size_t> condition{};
  std::string relation{};
};

class Examiner {
 public:
  Examiner(const Game& game, Probes probes, const CoverageOptions& options)
      : game_(game),
        probes_(std::move(probes)),
        options_(options),
        clock_(options.budget),
        description_(GameAccess::core(game)->program().description()),
        lanes_(*GameAccess::core(probes_.game)->lanes()),
        network_(lanes_.network().network) {
    name_clauses();
  }

  using RunCases = std::function<Result<std::vector<CaseResult>>(const CaseOptions&)>;
  Result<CaseCoverage> examine(const RunCases& run_cases);

 private:
  void name_clauses();
  Signal signal_of(const std::string& relation);
  Signal move_is_made();
  bool& shown_by_cases(const Asked& asked) {
    ClauseCoverage& clause = result_.clauses[asked.clause];
    return asked.condition ? clause.conditions[*asked.condition].by_cases : clause.by_cases;
  }
  bool& shown_in_play(const Asked& asked) {
    ClauseCoverage& clause = result_.clauses[asked.clause];
    return asked.condition ? clause.conditions[*asked.condition].in_play : clause.in_play;
  }
  // What is shown in a position, and by a joint move there if there is one; nothing if play knows
  // no position like it.
  std::optional<std::vector<bool>> shown_at(const Position& position, const JointMove* joint);
  Diagnostics look_at_play();
  void find_missing();
  std::string name_of(const Asked& asked) const;

  const Game& game_;
  Probes probes_;
  const CoverageOptions& options_;
  Stopwatch clock_;
  const rules::Description& description_;
  const LaneGame& lanes_;
  circuit::Network network_;
  std::vector<Asked> asked_;
  std::vector<Signal> signals_;  // one each
  std::unique_ptr<explore::Watch> watch_;
  CaseCoverage result_;
};

void Examiner::name_clauses() {
  for (const ClauseProbe& probe : probes_.clauses) {
    const rules::Clause& clause = description_.clauses()[probe.clause];
    ClauseCoverage& covered = result_.clauses.emplace_back();
    covered.place = description_.place(description_.rules()[clause.rule].node);
    covered.head = description_.text(clause.head, clause.rule);
    const std::size_t number = result_.clauses.size() - 1;
    asked_.push_back({number, {}, probe.relation});
    for (const coverage::ConditionProbe& condition : probe.conditions) {
      asked_.push_back({number, covered.conditions.size(), condition.relation});
      covered.conditions.push_back(
          {description_.place(clause.body[condition.literal].atom.node), condition.text});
    }
  }
  for (const Asked& asked : asked_) signals_.push_back(signal_of(asked.relation));
  watch_ = std::make_unique<explore::Watch>(lanes_, network_, signals_);
}

// What depends on moves is asked where one is made.
Signal Examiner::signal_of(const std::string& relation) {
  const ground::GroundProgram& ground = lanes_.ground();
  const auto id = ground.description().find(relation, 0);
  if (!id) return circuit::never;
  const auto instances = ground.instances(*id);
  if (instances.empty()) return circuit::never;
  const ground::AtomId atom = instances.front().atom;
  if (atom == ground::no_atom) return circuit::always;
  const Signal signal = lanes_.network().atoms[ground::index_of(atom)];
  if (ground.phase(atom) != rules::Phase::step) return signal;
  return network_.both(signal, move_is_made());
}

Signal Examiner::move_is_made() {
  return network_.any(lanes_.network().does.front());
}

std::optional<std::vector<bool>> Examiner::shown_at(const Position& position,
                                                    const JointMove* joint) {
  const auto same = probes_.game.position(position.fluents());
  if (!same) return std::nullopt;
  const auto bits = lanes_.bits(GameAccess::state(*same).fluents());
  if (!bits) return std::nullopt;
  std::vector<std::uint32_t> numbers;
  for (const Role& role : game_.roles()) {
    if (joint == nullptr) break;
    const TermId move = GameAccess::id(probes_.game.move((*joint)[role].term()));
    const auto number = lanes_.move_number(role.index(), move);
    if (!number) return std::nullopt;
    numbers.push_back(*number);
  }
  watch_->set_joint(0, numbers);
  watch_->look(lanes_.row(*bits), 1);
  std::vector<bool> shown;
  for (std::size_t s = 0; s < asked_.size(); ++s) shown.push_back(watch_->holds(s, 0));
  return shown;
}

Result<CaseCoverage> Examiner::examine(const RunCases& run_cases) {
  CaseOptions cases = options_.cases;
  cases.come_to = [&](const Position& position, const JointMove* joint) {
    end_if_interrupted();
    ++result_.positions;
    const auto shown = shown_at(position, joint);
    if (!shown) ++result_.unlike_play;
    for (std::size_t s = 0; shown && s < asked_.size(); ++s) {
      if ((*shown)[s]) shown_by_cases(asked_[s]) = true;
    }
  };
  const auto results = run_cases(cases);
  if (!results) return results.diagnostics();
  try {
    if (Diagnostics faults = look_at_play(); !faults.empty()) return faults;
    find_missing();
  } catch (const Interrupted& interrupted) {
    result_.ending = interrupted.ending;
  }
  result_.seconds = clock_.seconds();
  return std::move(result_);
}

Diagnostics Examiner::look_at_play() {
  constexpr std::uint64_t usual_positions = 100'000;
  review::Exploration exploration(game_, probes_.game, options_.seed);
  Budget budget = options_.budget;
  if (!budget.positions) budget.positions = usual_positions;
  if (Diagnostics faults =
          exploration.explore(budget, options_.threads, ReviewOptions::Symmetry::never);
      !faults.empty()) {
    return faults;
  }
  result_.played = exploration.positions();
  result_.ending = exploration.ending();
  const std::vector<bool> met = review::which_are_met(exploration, network_, signals_);
  for (std::size_t s = 0; s < asked_.size(); ++s) shown_in_play(asked_[s]) = met[s];
  return {};
}

std::string Examiner::name_of(const Asked& asked) const {
  const ClauseCoverage& clause = result_.clauses[asked.clause];
  const std::string where = fmt::format("line {}: {}", clause.place.line, clause.head);
  return asked.condition
             ? fmt::format("{} fails for {} alone", where, clause.conditions[*asked.condition].text)
             : where + " holds";
}

// Whole clauses first: a line to where one holds shows most.
void Examiner::find_missing() {
  std::vector<bool> shown(asked_.size());
  std::vector<std::size_t> open;
  for (const bool conditions : {false, true}) {
    for (std::size_t s = 0; s < asked_.size(); ++s) {
      shown[s] = shown_by_cases(asked_[s]);
      if (asked_[s].condition.has_value() == conditions && shown_in_play(asked_[s]) && !shown[s]) {
        open.push_back(s);
      }
    }
  }
  for (const std::size_t s : open) {
    if (shown[s]) continue;  // by a case before
    if (result_.missing.size() == options_.most_missing) return;
    end_if_interrupted();
    ReviewOptions options;
    options.budget = options_.budget;
    options.budget.positions = options_.budget.positions.value_or(20'000);
    options.seed = options_.seed;
    const auto found = find_position(probes_.game, asked_[s].relation, options);
    if (!found || !found->line) continue;
    const Line& line = *found->line;
    for (std::size_t at = 0; at < line.positions.size(); ++at) {
      const auto here =
          shown_at(line.positions[at], at < line.joints.size() ? &line.joints[at] : nullptr);
      for (std::size_t other = 0; here && other < shown.size(); ++other) {
        if ((*here)[other]) shown[other] = true;
      }
    }
    shown[s] = true;
    result_.missing.push_back({asked_[s].clause, asked_[s].condition,
                               case_of_line(probes_.game, name_of(asked_[s]), line)});
  }
}

Result<CaseCoverage> covered(const Game& game, const CoverageOptions& options,
                             const Examiner::RunCases& run) {
  const Interruption interruption(options.budget);
  try {
    auto probes = coverage::probes_of(game);
    if (!probes) return probes.diagnostics();
    const GameCore& core = *GameAccess::core(probes->game);
    if (core.lanes() == nullptr) return core.lanes_fault();
    return Examiner(game, std::move(*probes), options).examine(run);
  } catch (const Interrupted& interrupted) {
    Diagnostic fault = plain_error("interrupted", "the budget ended before the cases were run",
                                   "give it more seconds");
    fault.is_limit = true;
    return fault;
  }
}

template <class Of>
std::size_t count_conditions(const CaseCoverage& coverage, Of&& of) {
  std::size_t count = 0;
  for (const ClauseCoverage& clause : coverage.clauses) {
    count += static_cast<std::size_t>(std::ranges::count_if(clause.conditions, of));
  }
  return count;
}

}  // namespace

std::size_t CaseCoverage::clauses_by_cases() const {
  return static_cast<std::size_t>(std::ranges::count_if(clauses, &ClauseCoverage::by_cases));
}

std::size_t CaseCoverage::clauses_in_play() const {
  return static_cast<std::size_t>(std::ranges::count_if(
      clauses, [](const ClauseCoverage& clause) { return clause.by_cases || clause.in_play; }));
}

std::size_t CaseCoverage::conditions_by_cases() const {
  return count_conditions(*this, &ConditionCoverage::by_cases);
}

std::size_t CaseCoverage::conditions_in_play() const {
  return count_conditions(*this, [](const ConditionCoverage& condition) {
    return condition.by_cases || condition.in_play;
  });
}

Result<CaseCoverage> case_coverage(const Game& game, const std::string& path,
                                   const CoverageOptions& options) {
  return covered(game, options,
                 [&](const CaseOptions& cases) { return run_cases(game, path, cases); });
}

Result<CaseCoverage> case_coverage_of_text(const Game& game, std::string text,
                                           const CoverageOptions& options) {
  return covered(game, options,
                 [&](const CaseOptions& cases) { return run_cases_of_text(game, text, cases); });
}

}  // namespace orchard
