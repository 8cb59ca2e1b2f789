#include "cli/fault_text.hpp"

#include <fmt/core.h>

#include <set>

#include "base/counted.hpp"
#include "cli/call.hpp"

namespace orchard::cli {
namespace {

using Noticed = PlantedFault::Noticed;

std::string score(std::string_view who, std::size_t noticed, std::size_t all) {
  const double share =
      all == 0 ? 0 : 100.0 * static_cast<double>(noticed) / static_cast<double>(all);
  return fmt::format("   {:<34} {:>4} of {}   {:.0f} %\n", who, noticed, all, share);
}

std::string noticed_text(const PlantedFault& fault) {
  if (fault.noticed == Noticed::nobody) return "nobody notices";
  if (fault.noticed == Noticed::same_game) return fmt::format("the same game ({})", fault.by);
  if (fault.noticed == Noticed::undecided) return "not decided";
  if (fault.noticed == Noticed::refused) return fmt::format("does not read [{}]", fault.by);
  return fmt::format("{}: {}", name_of(fault.noticed), fault.by);
}

// The lines of a text, each behind a mark.
std::string marked(const std::string& text, std::string_view mark) {
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    result += fmt::format("      {} {}\n", mark, text.substr(at, end - at));
    at = end + 1;
  }
  return result;
}

// What is the first thing that is otherwise then.
std::string effect_of(const Comparison& compared) {
  if (compared.verdict == Comparison::Verdict::same) return "the game stays the same";
  if (compared.differences.empty()) return "what it changes in play was not found out";
  const Difference& difference = compared.differences.front();
  const std::string after =
      compared.first_line
          ? fmt::format(" after {}", counted(compared.first_line->joints.size(), "ply", "plies"))
          : std::string();
  const bool goes = difference.in_first;  // the first is the description as it is
  switch (difference.kind) {
    case Difference::Kind::end:
      return fmt::format("{} the game is {}over", after.empty() ? "then" : after.substr(1),
                         goes ? "no longer " : "");
    case Difference::Kind::move:
      return fmt::format("{} {} may {}{}", after.empty() ? "then" : after.substr(1),
                         difference.role, goes ? "no longer " : "", difference.term);
    case Difference::Kind::goal:
      return fmt::format("{} {} {} {}", after.empty() ? "then" : after.substr(1), difference.role,
                         goes ? "no longer gets" : "gets", difference.term);
    case Difference::Kind::percept:
      return fmt::format("{} {} {} {}", after.empty() ? "then" : after.substr(1), difference.role,
                         goes ? "no longer sees" : "sees", difference.term);
    default:
      return "other roles play, or secrets are kept otherwise";
  }
}

}  // namespace

std::string mend_text(const Mending& mending, const std::string& file) {
  std::string text =
      fmt::format("\n{} of {} small edits of {} tried", mending.tried, mending.possible, file);
  if (mending.ending != Ending::complete) text += fmt::format(" ({})", remark_on(mending.ending));
  if (mending.repairs.empty()) {
    return text + ": after none of them do all cases and claims pass\n";
  }
  text += "; all cases and claims pass after\n";
  for (std::size_t number = 0; number < mending.repairs.size(); ++number) {
    const Repair& repair = mending.repairs[number];
    text += fmt::format("\n   {}  line {}, {}: {}\n", number + 1, repair.place.line,
                        name_of(repair.kind), repair.change);
    text += marked(repair.before, "-") + marked(repair.after, "+");
    text += fmt::format("      {}\n", effect_of(repair.compared));
    if (repair.worse_questions > 0) {
      text += fmt::format("      {} of check {} answered worse then\n",
                          counted(repair.worse_questions, "question", "questions"),
                          repair.worse_questions == 1 ? "is" : "are");
    }
  }
  return text + "\n--write N writes the Nth of them to the file\n";
}

std::string fault_text(const FaultTrial& trial, const std::string& file, bool in_full) {
  const std::size_t refused = trial.count(Noticed::refused);
  const std::size_t same = trial.count(Noticed::same_game);
  std::string text = fmt::format("\n{} on purpose in {}, of {} that there are, in {:.1f} s",
                                 counted(trial.faults.size(), "fault", "faults"), file,
                                 trial.possible, trial.seconds);
  if (trial.ending != Ending::complete) text += fmt::format(" ({})", remark_on(trial.ending));
  text += fmt::format("\n   not counted: {} that do not read, {} that change nothing in play\n",
                      refused, same);
  const std::size_t all = trial.counted();
  const std::size_t with_questions = trial.noticed_with_questions();
  text += score("noticed by the cases", trial.count(Noticed::cases), all);
  text += score("by the cases or the claims", trial.noticed_by_cases_and_claims(), all);
  text += score("or by the questions of check", with_questions, all);
  text += score("or by the text alone", with_questions + trial.count(Noticed::text), all);
  if (const std::size_t open = trial.count(Noticed::undecided); open > 0) {
    text += fmt::format("   {} not decided: whether the game is another one is not known\n", open);
  }
  if (in_full) text += "\n";
  for (const PlantedFault& fault : trial.faults) {
    if (in_full) {
      text += fmt::format("   line {}, {}: {}\n      {}\n", fault.place.line, name_of(fault.kind),
                          fault.change, noticed_text(fault));
    }
  }
  std::string open;
  std::string cases;
  std::set<std::string> known;  // one line of play often shows several
  for (const PlantedFault& fault : trial.faults) {
    if (fault.noticed != Noticed::nobody) continue;
    open +=
        fmt::format("   line {}, {}: {}\n", fault.place.line, name_of(fault.kind), fault.change);
    const std::string& one = fault.missing_case;
    if (!one.empty() && known.insert(one.substr(one.find('\n'))).second) cases += "\n" + one;
  }
  if (!trial.idle_cases.empty()) {
    text += "\ncases that notice none of them:\n";
    for (const std::string& name : trial.idle_cases) text += fmt::format("   {}\n", name);
  }
  if (!open.empty()) text += "\nnobody notices:\n" + open;
  if (!cases.empty()) text += "\ncases that would notice them:\n" + cases;
  return text;
}

}  // namespace orchard::cli
