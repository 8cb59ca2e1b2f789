#include "cli/fault_text.hpp"

#include <fmt/core.h>

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

}  // namespace

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
  for (const PlantedFault& fault : trial.faults) {
    if (fault.noticed != Noticed::nobody) continue;
    open +=
        fmt::format("   line {}, {}: {}\n", fault.place.line, name_of(fault.kind), fault.change);
    if (!fault.missing_case.empty()) cases += "\n" + fault.missing_case;
  }
  if (!open.empty()) text += "\nnobody notices:\n" + open;
  if (!cases.empty()) text += "\ncases that would notice them:\n" + cases;
  return text;
}

}  // namespace orchard::cli
