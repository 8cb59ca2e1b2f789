#include "cli/review_page.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "cli/call.hpp"
#include "cli/page.hpp"

namespace orchard::cli {
namespace {

constexpr std::size_t verdict_width = 12;

// Lines of at most `width` columns, broken at blanks; those after the first are indented.
std::string wrapped(const std::string& text, std::size_t indent, std::size_t width) {
  std::string result;
  std::size_t column = indent;
  std::size_t at = 0;
  while (at < text.size()) {
    if (text[at] == '\n') {
      result += "\n" + std::string(indent, ' ');
      column = indent;
      ++at;
      continue;
    }
    const std::size_t end = std::min({text.find(' ', at), text.find('\n', at), text.size()});
    const std::string word = text.substr(at, end - at);
    if (column > indent && column + word.size() > width) {
      if (result.ends_with(' ')) result.pop_back();
      result += "\n" + std::string(indent, ' ');
      column = indent;
    }
    result += word;
    column += word.size();
    at = end;
    if (at < text.size() && text[at] == ' ') {
      if (column + 1 < width) {
        result += ' ';
        ++column;
      }
      ++at;
    }
  }
  return result;
}

std::string_view colour_of(Verdict verdict) {
  switch (verdict) {
    case Verdict::holds:
      return "\x1b[34m";  // blue and orange stay apart for colour-blind eyes
    case Verdict::fails:
    case Verdict::suspicious:
      return "\x1b[1;38;5;166m";
    case Verdict::unknown:
      return "\x1b[2m";
    case Verdict::described:
      break;
  }
  return "";
}

std::string table(const std::vector<Answer>& answers, const TextStyle& style) {
  std::size_t longest = 0;
  for (const Answer& answer : answers) longest = std::max(longest, answer.id.size());
  constexpr std::size_t most = 40;
  longest = std::min(longest, most);
  const std::size_t indent = 3 + longest + 2 + verdict_width;
  std::string text;
  for (const Answer& answer : answers) {
    text += fmt::format("   {:<{}}", answer.id, longest + 2);
    if (answer.id.size() > most) text += "\n" + std::string(3 + longest + 2, ' ');
    const std::string verdict(name_of(answer.verdict));
    const std::string_view colour = style.colour ? colour_of(answer.verdict) : "";
    text += fmt::format("{}{}{}{}", colour, verdict, colour.empty() ? "" : "\x1b[0m",
                        std::string(verdict_width - verdict.size(), ' '));
    text += wrapped(answer.evidence, indent, static_cast<std::size_t>(style.width)) + "\n";
  }
  return text;
}

bool is_shown(const Answer& answer) {
  return answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
}

std::string shown(const Game& game, const Picture& picture, const Answer& answer,
                  const TextStyle& style) {
  std::string text =
      fmt::format("\n{}: {} — {}\n", name_of(answer.verdict), answer.id, answer.evidence);
  for (const Note& note : answer.places) {
    text += fmt::format("   {}:{}: {}\n", note.place.file, note.place.line, note.message);
    if (!note.place.source_line.empty()) text += fmt::format("      {}\n", note.place.source_line);
  }
  if (!answer.line) return text;
  const Line& line = *answer.line;
  text += fmt::format("{}:\n", answer.line_title);
  text += line_text(game, line);
  std::optional<JointMove> last;
  if (!line.joints.empty()) last = line.joints.back();
  text += page(game, picture, line.last(), line.joints.size(), style, false, last);
  return text;
}

Json to_json(const Game& game, const Answer& answer) {
  Json entry = {
      {"id", answer.id}, {"verdict", name_of(answer.verdict)}, {"evidence", answer.evidence}};
  if (answer.line) {
    entry["line"] = line_json(game, *answer.line);
    entry["position"] = fluents_json(answer.line->last());
  }
  if (answer.repeats_from) entry["repeats_from"] = *answer.repeats_from;
  if (!answer.places.empty()) {
    Json& places = entry["places"] = Json::array();
    for (const Note& note : answer.places) {
      places.push_back({{"file", note.place.file},
                        {"line", note.place.line},
                        {"column", note.place.column},
                        {"message", note.message}});
    }
  }
  return entry;
}

}  // namespace

std::string review_page(const Game& game, const Picture& picture, const Review& review,
                        const TextStyle& style, bool quiet) {
  std::string text;
  if (!quiet) {
    text +=
        fmt::format("{} positions up to depth {}{}\n\n", review.positions, review.depths.size() - 1,
                    review.complete() ? ", which are all"
                                      : fmt::format(" ({}), and {} random games",
                                                    remark_on(review.ending), review.random_games));
  }
  text += table(review.questions, style);
  if (!review.claims.empty()) text += "\nclaims:\n" + table(review.claims, style);
  for (const std::vector<Answer>* answers : {&review.questions, &review.claims}) {
    for (const Answer& answer : *answers) {
      if (is_shown(answer)) text += shown(game, picture, answer, style);
    }
  }
  return text;
}

void add_review(Json& document, const Game& game, const Review& review) {
  for (const auto& [name, answers] :
       {std::pair("questions", &review.questions), std::pair("claims", &review.claims)}) {
    Json& list = document[name] = Json::array();
    for (const Answer& answer : *answers) list.push_back(to_json(game, answer));
  }
  Json& depths = document["depths"] = Json::array();
  for (std::size_t depth = 0; depth < review.depths.size(); ++depth) {
    depths.push_back({{"depth", depth},
                      {"positions", review.depths[depth].positions},
                      {"terminal", review.depths[depth].ends}});
  }
  document["complete"] = review.complete();
  document["positions"] = review.positions;
  document["random_games"] = review.random_games;
  document["seconds"] = review.seconds;
}

}  // namespace orchard::cli
