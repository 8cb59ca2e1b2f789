#include "orchard/mend.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "faults/edits.hpp"
#include "faults/examination.hpp"

namespace orchard {
namespace {

using faults::Edit;
using faults::Examination;

// Which kinds of slips are likelier, and so their repairs.
int rank_of(FaultKind kind) {
  switch (kind) {
    case FaultKind::negation_flipped:
    case FaultKind::goals_swapped:
    case FaultKind::condition_added:
      return 0;
    case FaultKind::constant_swapped:
    case FaultKind::arguments_swapped:
    case FaultKind::variable_confused:
    case FaultKind::range_off_by_one:
      return 1;
    case FaultKind::rule_added:
      return 2;
    default:  // leaving something out makes many cases pass
      return 3;
  }
}

struct Found {
  std::size_t edit = 0;
  std::size_t worse_questions = 0;
  std::size_t findings = 0;  // that the text did not have before
  int badness = 0;           // of the answers to all questions
};

class Mender {
 public:
  Mender(const std::string& path, const syntax::Source& source, const MendOptions& options)
      : path_(path), source_(source), options_(options) {
    constexpr std::uint64_t usual_positions = 20'000;
    examination_.cases = options.cases;
    examination_.claims = options.claims;
    examination_.reader = options.reader;
    examination_.positions = options.budget.positions.value_or(usual_positions);
  }

  Diagnostics prepare();
  Mending run(const std::function<void(std::size_t done)>& visit);

 private:
  std::optional<Found> tried(const Edit& edit) const;
  Repair repair_of(const Edit& edit, const Found& found) const;
  // The lines from the first to the last one of the stretches, before or after the edit.
  std::pair<std::string, std::string> lines_of(const Edit& edit, const std::string& text) const;

  std::string path_;
  syntax::Source source_;
  const MendOptions& options_;
  Examination examination_;
  std::optional<Game> game_;
  bool has_failed_case_ = false;
  faults::Verdicts questions_;
  std::set<std::string> findings_;
};

Diagnostics Mender::prepare() {
  auto game = Game::from_text(std::string(source_.text()), path_, options_.load);
  if (!game) return game.diagnostics();
  game_ = *game;
  has_failed_case_ = !examination_.failed_cases(*game).empty();
  const auto review = examination_.review(*game);
  if (!review) return review.diagnostics();
  questions_ = faults::verdicts_of(review->questions);
  findings_ = faults::findings_of(*game);
  const bool has_failed_claim = std::ranges::any_of(
      review->claims, [](const Answer& claim) { return claim.verdict == Verdict::fails; });
  if (has_failed_case_ || has_failed_claim) return {};
  Diagnostics nothing;
  Diagnostic fault = plain_error("nothing-fails", "every case and every claim passes",
                                 "write a case for what is wrong; it says what right would be");
  fault.place.file = path_;
  nothing.add(std::move(fault));
  return nothing;
}

std::optional<Found> Mender::tried(const Edit& edit) const {
  constexpr double seconds = 3;
  try {
    Budget patience;
    patience.seconds = seconds;
    const Interruption interruption(patience);
    const auto game = Game::from_text(faults::edited(source_.text(), edit), path_, options_.load);
    if (!game || !examination_.failed_cases(*game).empty()) return std::nullopt;
    const auto review = examination_.review(*game);
    if (!review) return std::nullopt;
    const bool fails = std::ranges::any_of(
        review->claims, [](const Answer& claim) { return claim.verdict == Verdict::fails; });
    if (fails) return std::nullopt;
    Found found;
    found.worse_questions = faults::worse(review->questions, questions_).size();
    for (const Answer& answer : review->questions) found.badness += faults::badness(answer.verdict);
    for (const std::string& finding : faults::findings_of(*game)) {
      found.findings += findings_.contains(finding) ? 0 : 1;
    }
    return found;
  } catch (const Interrupted&) {
  }
  end_if_interrupted();  // of all of them
  return std::nullopt;
}

std::pair<std::string, std::string> Mender::lines_of(const Edit& edit,
                                                     const std::string& text) const {
  const std::string_view own = source_.text();
  std::size_t first = own.size();
  std::size_t last = 0;
  for (const faults::Stretch& stretch : edit.stretches) {
    first = std::min<std::size_t>(first, stretch.begin);
    last = std::max<std::size_t>(last, stretch.end);
  }
  const std::size_t before = own.rfind('\n', first == 0 ? 0 : first - 1);
  const std::size_t begin = before == std::string_view::npos || first == 0 ? 0 : before + 1;
  const std::size_t end = std::min(own.find('\n', last), own.size());
  const std::size_t end_after = text.size() - (own.size() - end);
  return {std::string(own.substr(begin, end - begin)), text.substr(begin, end_after - begin)};
}

Repair Mender::repair_of(const Edit& edit, const Found& found) const {
  Repair repair;
  repair.kind = edit.kind;
  repair.place = edit.place;
  repair.change = edit.change;
  repair.text = faults::edited(source_.text(), edit);
  std::tie(repair.before, repair.after) = lines_of(edit, repair.text);
  repair.worse_questions = found.worse_questions;
  CompareOptions comparing;
  comparing.budget.positions = examination_.positions;
  comparing.budget.seconds = examination_.seconds;
  const auto game = Game::from_text(repair.text, path_, options_.load).value();
  auto compared = compare_games(*game_, game, comparing);
  if (compared) repair.compared = std::move(*compared);
  return repair;
}

Mending Mender::run(const std::function<void(std::size_t done)>& visit) {
  Mending result;
  const std::vector<Edit> edits = faults::repairs_of(source_);
  result.possible = edits.size();
  std::vector<std::optional<Found>> found(edits.size());
  const auto attempt = [&](std::size_t edit) {
    found[edit] = tried(edits[edit]);
    if (found[edit]) found[edit]->edit = edit;
  };
  const faults::Tried all = faults::try_each(edits.size(), options_.threads, attempt, visit);
  result.ending = all.ending;
  result.tried = all.done;
  std::vector<Found> repairs;
  for (const std::optional<Found>& one : found) {
    if (one) repairs.push_back(*one);
  }
  std::ranges::stable_sort(repairs, {}, [&](const Found& one) {
    return std::tuple(one.worse_questions, one.badness, one.findings,
                      rank_of(edits[one.edit].kind));
  });
  if (repairs.size() > options_.most) repairs.resize(options_.most);
  const LastWords words;
  for (const Found& one : repairs) result.repairs.push_back(repair_of(edits[one.edit], one));
  return result;
}

}  // namespace

Result<Mending> mend_rules(const std::string& path, const MendOptions& options,
                           const std::function<void(std::size_t done)>& visit) {
  const Interruption interruption(options.budget);
  const auto source = faults::source_to_edit(path);
  if (!source) return source.diagnostics();
  Mender mender(path, *source, options);
  Mending nothing;
  try {
    if (Diagnostics faults = mender.prepare(); !faults.empty()) return faults;
    return mender.run(visit);
  } catch (const Interrupted& interrupted) {
    nothing.ending = interrupted.ending;
  }
  return nothing;
}

}  // namespace orchard
