#include "desk/answers.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "editing/relation_rows.hpp"
#include "game/changes.hpp"
#include "game/core.hpp"
#include "orchard/cases.hpp"
#include "orchard/explain.hpp"

namespace orchard::desk {

namespace {

constexpr std::size_t most_rows = 2000;  // of a relation

Circumstances circumstances_of(const Line& line) {
  Circumstances here{line.last()};
  here.earlier.assign(line.positions.begin(), line.positions.end() - 1);
  here.joints = line.joints;
  return here;
}

Json places_of(const Explanation& explanation) {
  Json places = Json::array();
  std::set<int> lines;
  for (const Reason& reason : explanation.reasons) {
    if (reason.place.line > 0 && lines.insert(reason.place.line).second) {
      places.push_back(reason.place.line);
    }
  }
  return places;
}

}  // namespace

Json why(const Asked& here, const Json& request) {
  const auto question = Question::parse(here.game(), text_of(request, "question"));
  if (!question) return error(question.diagnostics().items().front().message);
  Circumstances around = circumstances_of(here.line);
  auto explanation = orchard::why(here.game(), around, *question);
  const bool needs_move =
      !explanation && explanation.diagnostics().items().front().code == "needs-a-move";
  if (needs_move && !here.line.joints.empty()) {
    // Asked of the step that led here.
    around.position = around.earlier.back();
    around.joint = around.joints.back();
    explanation = orchard::why(here.game(), around, *question);
  }
  if (!explanation) return error(explanation.diagnostics().items().front().message);
  return {{"holds", explanation->holds},
          {"text", explanation->text()},
          {"in_one_line", explanation->in_one_line()},
          {"lines", places_of(*explanation)}};
}

namespace {

// Whether the words stand behind one another in a move.
bool mentions(const std::vector<std::string>& move, const std::vector<std::string>& words) {
  return std::search(move.begin() + 1, move.end(), words.begin(), words.end()) != move.end();
}

std::vector<std::string> split(const std::string& words) {
  std::vector<std::string> result;
  for (std::size_t at = 0; at < words.size();) {
    const std::size_t end = std::min(words.find(' ', at), words.size());
    if (end > at) result.push_back(words.substr(at, end - at));
    at = end + 1;
  }
  return result;
}

}  // namespace

Json refusal(const Asked& here, const Json& request) {
  const Game& game = here.game();
  const Position& position = here.position();
  if (game.terminal(position)) return {{"sentence", "The game is over."}};
  const auto role = game.role(text_of(request, "role"));
  if (!role) return error("there is no such role");
  std::vector<std::vector<std::string>> places;
  const auto named = request.find("places");
  if (named != request.end() && named->is_array()) {
    for (const Json& place : *named) {
      if (place.is_string()) places.push_back(split(place.get<std::string>()));
    }
  }
  const auto at_places = [&](const Term& move) {
    std::vector<std::string> words;
    add_words(move, words);
    return std::ranges::all_of(
        places, [&](const std::vector<std::string>& place) { return mentions(words, place); });
  };
  // Of very many moves the page has not all.
  for (const Move& move : game.legal(position, *role)) {
    if (!at_places(move.term())) continue;
    return {{"sentence", move.to_string() + " is legal, but there are too many moves to list."}};
  }
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr) return {{"sentence", "No move is legal there."}};
  std::vector<Term> foreseen;
  for (const auto& named_move : lanes->ground().moves()[role->index()]) {
    const Term move = lanes->ground().terms().term(named_move.term);
    if (at_places(move)) foreseen.push_back(move);
  }
  constexpr std::size_t few = 8;
  if (foreseen.empty()) return {{"sentence", "No rule makes a move there."}};
  if (foreseen.size() > few) {
    return {{"sentence", "No legal move there now; choose a second place to ask why not."}};
  }
  for (const Term& move : foreseen) {
    const std::string text = fmt::format("(legal {} {})", role->name(), move.to_string());
    const auto question = Question::parse(game, text);
    if (!question) continue;
    const auto explanation = orchard::why(game, circumstances_of(here.line), *question);
    if (!explanation || explanation->holds) continue;
    return {{"sentence",
             fmt::format("{} is not legal: {}", move.to_string(), explanation->in_one_line())},
            {"question", text},
            {"lines", places_of(*explanation)}};
  }
  return {{"sentence", "No legal move there now."}};
}

Json relation(const Asked& here, const Json& request) {
  const Game& game = here.game();
  const std::string name = text_of(request, "name");
  const std::size_t slash = name.rfind('/');
  const auto arity =
      slash == std::string::npos ? std::nullopt : Term::constant(name.substr(slash + 1)).number();
  if (!arity || *arity < 0) return error("name a relation and its arguments, as in line/2");
  const auto found = editing::rows_of(game, here.position(), name.substr(0, slash),
                                      static_cast<std::uint32_t>(*arity), most_rows);
  if (!found) return error(found.diagnostics().items().front().message);
  Json rows = Json::array();
  for (const std::vector<Term>& row : found->rows) {
    std::vector<std::string> words;
    for (const Term& term : row) add_words(term, words);
    rows.push_back(words);
  }
  return {{"rows", rows}, {"all", found->all}};
}

Json cases(const Asked& here, const Json& request) {
  const Picture& picture = here.reading->picture();
  const auto results =
      run_cases_of_text(here.game(), text_of(request, "cases"), here.reading->case_options());
  if (!results) return {{"findings", findings_json(results.diagnostics())}};
  Json list = Json::array();
  for (const CaseResult& result : *results) {
    Json& entry = list.emplace_back();
    entry = {{"name", result.name}, {"line", result.place.line}, {"passed", result.passed()}};
    for (const CaseFailure& failure : result.failures) {
      entry["failures"].push_back(
          {{"line", failure.place.line}, {"expected", failure.expected}, {"found", failure.found}});
    }
    if (!result.passed() && result.position) {
      PictureFrame frame{*result.position};
      entry["svg"] = picture.svg({frame});
    }
  }
  return {{"cases", list}};
}

Json effect(const Asked& here, const Json& request) {
  const Game& game = here.game();
  const Position& position = here.position();
  const auto role = game.role(text_of(request, "role"));
  const auto term = Term::parse(text_of(request, "move"));
  if (!role || !term) return error("name a role and a move");
  const Move move = game.move(*term);
  if (!game.joint_move(position, *role, move)) return error("it depends on what the others do");
  const auto changes = changes_of(game, position, *role, move);
  if (!changes) return error(changes.diagnostics().items().front().message);
  Json gone = Json::array();
  Json come = Json::array();
  for (const Term& fluent : changes->gone) gone.push_back(fluent.to_string());
  for (const Term& fluent : changes->come) come.push_back(fluent.to_string());
  return {{"gone", gone}, {"new", come}};
}

Json position_text(const Asked& here, const Json&) {
  std::string formula = "(and";
  for (const Term& fluent : here.position().fluents())
    formula += " (true " + fluent.to_string() + ")";
  return {{"form", here.reading->picture().drawn(here.position())}, {"formula", formula + ")"}};
}

}  // namespace orchard::desk
