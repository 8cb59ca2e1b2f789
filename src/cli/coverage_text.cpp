#include "cli/coverage_text.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>
#include <map>

#include "base/counted.hpp"
#include "cli/call.hpp"

namespace orchard::cli {
namespace {

std::string file_name(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

// What no case shows of a clause, though play does.
std::vector<std::string> gaps_of(const ClauseCoverage& clause) {
  std::vector<std::string> gaps;
  if (!clause.by_cases && clause.in_play) {
    gaps.emplace_back("holds in no case");
    return gaps;
  }
  for (const ConditionCoverage& condition : clause.conditions) {
    if (condition.by_cases || !condition.in_play) continue;
    gaps.push_back(fmt::format("in no case the only reason against it: {}", condition.text));
  }
  return gaps;
}

std::string list_of_gaps(const CaseCoverage& coverage) {
  std::string text;
  for (const ClauseCoverage& clause : coverage.clauses) {
    const std::vector<std::string> gaps = gaps_of(clause);
    if (gaps.empty()) continue;
    text +=
        fmt::format("   {}:{}: {}\n", file_name(clause.place.file), clause.place.line, clause.head);
    for (const std::string& gap : gaps) text += fmt::format("      {}\n", gap);
  }
  return text;
}

// Every line of the description: + shown, - not shown, . not in play.
std::string marked_lines(const CaseCoverage& coverage, const std::string& file,
                         const std::string& text) {
  std::map<int, char> marks;
  const auto mark = [&](const Place& place, bool by_cases, bool in_play) {
    if (place.file != file || place.line == 0) return;
    const char own = by_cases ? '+' : in_play ? '-' : '.';
    const auto [known, is_new] = marks.try_emplace(place.line, own);
    if (is_new || own == known->second) return;
    // Of several on a line, what is to be done counts.
    known->second = own == '-' || known->second == '-' ? '-' : '+';
  };
  for (const ClauseCoverage& clause : coverage.clauses) {
    mark(clause.place, clause.by_cases, clause.in_play);
    for (const ConditionCoverage& condition : clause.conditions) {
      mark(condition.place, condition.by_cases, condition.in_play);
    }
  }
  std::string result;
  int number = 0;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const auto known = marks.find(++number);
    result += fmt::format("{:>5} {} {}\n", number, known == marks.end() ? ' ' : known->second,
                          text.substr(at, end - at));
    at = end + 1;
  }
  return result +
         "\n+ shown by a case   - in play, and shown by no case   . not in play, as far as it was "
         "looked at\n";
}

}  // namespace

std::string coverage_text(const CaseCoverage& coverage, const std::string& file,
                          const std::string& text) {
  std::string result = fmt::format(
      "\nwhat they show of the rules, in {}:\n"
      "   {} of {} clauses hold in a case\n"
      "   {} of {} conditions are the only reason against something in a case\n",
      counted(coverage.positions, "position", "positions"), coverage.clauses_by_cases(),
      coverage.clauses_in_play(), coverage.conditions_by_cases(), coverage.conditions_in_play());
  result +=
      coverage.ending == Ending::complete
          ? fmt::format("   (counted is what can be so in some of all {} positions of play)\n",
                        coverage.played)
          : fmt::format(
                "   (counted is what can be so in {} positions of play, {}, or in "
                "random games)\n",
                coverage.played, remark_on(coverage.ending));
  if (coverage.unlike_play > 0) {
    result +=
        fmt::format("   {} of the cases' positions {} like no position of play, and {} left out\n",
                    coverage.unlike_play, coverage.unlike_play == 1 ? "is" : "are",
                    coverage.unlike_play == 1 ? "is" : "are");
  }
  if (!text.empty()) result += "\n" + marked_lines(coverage, file, text);
  if (const std::string gaps = list_of_gaps(coverage); !gaps.empty()) {
    result += "\nnot shown:\n" + gaps;
  }
  if (!coverage.missing.empty()) {
    result += "\ncases that would show more; say what you expect of them:\n";
    for (const MissingCase& missing : coverage.missing) result += "\n" + missing.text;
  }
  return result;
}

}  // namespace orchard::cli
