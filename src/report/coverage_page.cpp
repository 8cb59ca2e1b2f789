// What cases show of the rules, as a page of HTML.
#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "game/core.hpp"
#include "orchard/report.hpp"
#include "report/page.hpp"

namespace orchard {
namespace {

using pugi::xml_node;
using report::add_html;
using report::add_text;

// What is to be said of a line of the description.
struct LineMark {
  bool begins_clause = false;
  bool by_cases = true;  // every clause that begins here
  bool in_play = false;  // some clause does
  std::vector<std::string> never_alone{};
};

std::map<int, LineMark> marks_of(const CaseCoverage& coverage, const std::string& file) {
  std::map<int, LineMark> marks;
  for (const ClauseCoverage& clause : coverage.clauses) {
    if (clause.place.file != file) continue;
    LineMark& mark = marks[clause.place.line];
    mark.begins_clause = true;
    mark.by_cases = mark.by_cases && clause.by_cases;
    mark.in_play = mark.in_play || clause.in_play || clause.by_cases;
    for (const ConditionCoverage& condition : clause.conditions) {
      if (condition.by_cases || !condition.in_play) continue;
      marks[condition.place.line].never_alone.push_back(condition.text);
    }
  }
  return marks;
}

}  // namespace

std::string to_html(const Game& game, const CaseCoverage& coverage) {
  const syntax::Source& source = GameAccess::core(game)->program().description().tree().source();
  report::Page page(game.name() + ": what its cases show", game.name());
  add_html(
      page.body(), "p", {{"class", "lead"}},
      fmt::format("What its cases show of the rules: {} of {} clauses hold in a case, and {} of {} "
                  "conditions are the only reason against something in a case.",
                  coverage.clauses_by_cases(), coverage.clauses_in_play(),
                  coverage.conditions_by_cases(), coverage.conditions_in_play()));
  add_html(page.body(), "h2", {}, "The rules");
  add_html(
      page.body(), "p", {{"class", "lead"}},
      "A blue bar: holds in a case. An orange bar: holds in play, and in no case. A grey bar: held "
      "nowhere. Conditions named at the right are in no case the only reason against "
      "something, though they are in play.");
  const std::map<int, LineMark> marks = marks_of(coverage, source.name());
  const xml_node rules = add_html(page.body(), "pre", {{"class", "rules"}});
  int number = 0;
  std::string_view rest = source.text();
  std::string_view bar;
  int depth = 0;
  while (!rest.empty()) {
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    const std::string_view line = rest.substr(0, end);
    rest.remove_prefix(std::min(end + 1, rest.size()));
    ++number;
    const auto mark = marks.find(number);
    if (mark != marks.end() && mark->second.begins_clause) {
      bar = mark->second.by_cases ? "used" : mark->second.in_play ? "never" : "part";
    }
    const xml_node shown = add_html(rules, "span", {{"class", bar}});
    add_html(shown, "i", {}, std::to_string(number));
    add_text(shown, line);
    if (mark != marks.end()) {
      for (const std::string& condition : mark->second.never_alone) {
        add_html(shown, "b", {}, fmt::format("   ◁ never alone: {}", condition));
      }
    }
    for (const char c : line.substr(0, line.find(';'))) depth += c == '(' ? 1 : c == ')' ? -1 : 0;
    if (depth <= 0) bar = {};
  }
  if (!coverage.missing.empty()) {
    add_html(page.body(), "h2", {}, "Cases that would show more");
    std::string text;
    for (const MissingCase& missing : coverage.missing) text += missing.text + "\n";
    add_html(page.body(), "pre", {}, text);
  }
  return page.text();
}

}  // namespace orchard
