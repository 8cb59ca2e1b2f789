#include "cli/review_page.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/page.hpp"

namespace orchard::cli {
namespace {

constexpr std::size_t verdict_width = 12;

// Lines of at most `width` columns, broken at blanks; those after the first are indented.
std::string wrapped(const std::string& text, std::size_t indent, std::size_t width) {
  std::string result;
  std::size_t column = indent;
  const auto break_line = [&] {
    result += "\n" + std::string(indent, ' ');
    column = indent;
  };
  for (std::size_t at = 0; at < text.size();) {
    if (text[at] == '\n') {
      break_line();
      ++at;
    } else if (text[at] == ' ') {  // more than one: an indented line of a list
      result += ' ';
      ++column;
      ++at;
    } else {
      const std::size_t end = std::min({text.find(' ', at), text.find('\n', at), text.size()});
      if (column > indent && column + (end - at) > width) {
        if (result.ends_with(' ')) result.pop_back();
        break_line();
      }
      result += text.substr(at, end - at);
      column += end - at;
      at = end;
    }
  }
  return result;
}

std::string_view colour_of(Verdict verdict) {
  switch (verdict) {
    case Verdict::holds:
      return "\x1b[38;5;74m";  // blue and orange stay apart for colour-blind eyes
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

std::string coloured(Verdict verdict, const TextStyle& style) {
  const std::string name(name_of(verdict));
  const std::string_view colour = style.colour ? colour_of(verdict) : "";
  return fmt::format("{}{}{}{}", colour, name, colour.empty() ? "" : "\x1b[0m",
                     std::string(verdict_width - name.size(), ' '));
}

std::string table(const std::vector<Answer>& answers, const TextStyle& style) {
  std::size_t longest = 0;
  for (const Answer& answer : answers) longest = std::max(longest, answer.id.size());
  const std::size_t indent = 3 + longest + 2 + verdict_width;
  std::string text;
  for (const Answer& answer : answers) {
    text +=
        fmt::format("   {:<{}}{}{}\n", answer.id, longest + 2, coloured(answer.verdict, style),
                    wrapped(answer.evidence.text(), indent, static_cast<std::size_t>(style.width)));
  }
  return text;
}

// Claims have long names: the verdict first, the evidence below.
std::string claim_table(const std::vector<Answer>& answers, const TextStyle& style) {
  const auto width = static_cast<std::size_t>(style.width);
  constexpr std::size_t indent = 3 + verdict_width;
  std::string text;
  for (const Answer& answer : answers) {
    text += fmt::format("   {}{}\n{}{}\n", coloured(answer.verdict, style),
                        wrapped(answer.id, indent, width), std::string(indent + 3, ' '),
                        wrapped(answer.evidence.text(), indent + 3, width));
  }
  return text;
}

bool is_shown(const Answer& answer, bool verbose) {
  const bool fails = answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
  return fails || (verbose && answer.line);
}

std::string shown(const Game& game, const Picture& picture, const Answer& answer,
                  const TextStyle& style) {
  std::string text =
      fmt::format("\n{}: {} — {}\n", name_of(answer.verdict), answer.id, answer.evidence.text());
  for (const Note& note : answer.places) {
    text += fmt::format("   {}:{}: {}\n", note.place.file, note.place.line, note.message);
    if (!note.place.source_line.empty()) text += fmt::format("      {}\n", note.place.source_line);
  }
  if (!answer.line) return text;
  const Line& line = *answer.line;
  text += fmt::format("{}:\n", answer.line_title);
  text += line_text(game, line);
  text +=
      page(game, picture, line.last(), line.joints.size(), style, false, picture::last_step(line));
  return text;
}

}  // namespace

std::string review_page(const Game& game, const Picture& picture, const Review& review,
                        const TextStyle& style, bool quiet, bool verbose) {
  if (!review.not_asked.empty()) {
    return "only the text was checked: no question and no claim was answered.\n" +
           review.not_asked.render();
  }
  std::string text;
  if (!quiet) {
    const std::string classes =
        review.classes < review.positions ? fmt::format(" in {} classes", review.classes) : "";
    const std::size_t depth = review.depths.size() - 1;
    const std::string games =
        review.random_games == 0
            ? ""
            : fmt::format(", and {}", counted(review.random_games, "random game", "random games"));
    if (review.complete()) {
      text += review.positions == 1 ? "the only reachable position\n\n"
                                    : fmt::format("all {} reachable positions{} (depth {})\n\n",
                                                  review.positions, classes, depth);
    } else if (review.looked_at) {
      text +=
          fmt::format("all {} {}positions{} looked at, {}{} of them with their successors{}\n\n",
                      *review.looked_at, review.looked_at_all ? "reachable " : "",
                      review.looked_at_all ? fmt::format(" (depth {})", depth)
                                           : fmt::format(" up to depth {}", depth),
                      review.positions, classes, review.looked_at_all ? "" : games);
    } else {
      text += fmt::format("{}{} explored, up to depth {} ({}){}\n\n",
                          counted(review.positions, "position", "positions"), classes, depth,
                          remark_on(review.ending), games);
    }
  }
  text += table(review.questions, style);
  if (!review.claims.empty()) text += "\nclaims:\n" + claim_table(review.claims, style);
  for (const std::vector<Answer>* answers : {&review.questions, &review.claims}) {
    for (const Answer& answer : *answers) {
      if (is_shown(answer, verbose)) text += shown(game, picture, answer, style);
    }
  }
  return text;
}

}  // namespace orchard::cli
