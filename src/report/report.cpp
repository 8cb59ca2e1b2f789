// A review as one page of HTML that needs nothing else: no script, no file, no network.
#include <absl/strings/escaping.h>
#include <fmt/core.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/markup.hpp"
#include "game/core.hpp"
#include "orchard/report.hpp"
#include "picture/face/frames.hpp"
#include "report/page.hpp"

namespace orchard {
namespace {

using pugi::xml_node;
using report::add_html;
using report::add_text;

class ReportWriter {
 public:
  ReportWriter(const Game& game, const Picture& picture, const Review& review)
      : game_(game),
        picture_(picture),
        review_(review),
        page_(game.name() + ": checked", game.name()),
        body_(page_.body()) {}

  std::string run() {
    if (review_.not_asked.empty()) {
      summary();
      answers("Questions", review_.questions, "id");
      if (!review_.claims.empty()) answers("Claims", review_.claims, "claim");
      shown_lines();
      depths();
      coverage();
    } else {
      nothing_asked();
    }
    return page_.text();
  }

 private:
  void nothing_asked() {
    const xml_node words = add_html(body_, "p", {}, "Only the text of the rules was checked. ");
    add_html(words, "strong", {}, "No question and no claim was answered");
    add_text(words, ":");
    add_html(body_, "pre", {}, review_.not_asked.render());
  }

  void summary() {
    const std::size_t depth = review_.depths.size() - 1;
    const std::string explored =
        fmt::format(", {} of them with their successors", review_.positions);
    const std::string ended =
        fmt::format("; the exploration stopped ({}), and {} random games were looked at",
                    name_of(review_.ending), review_.random_games);
    std::string reach;
    if (review_.complete()) {
      reach = fmt::format("All {} reachable positions (depth {})", review_.positions, depth);
    } else if (review_.looked_at) {
      reach = fmt::format("All {} {}positions up to depth {} looked at{}{}", *review_.looked_at,
                          review_.looked_at_all ? "reachable " : "", depth, explored,
                          review_.looked_at_all ? "" : ended);
    } else {
      reach =
          fmt::format("{} positions explored, up to depth {}{}", review_.positions, depth, ended);
    }
    add_html(body_, "p", {{"class", "lead"}}, reach + ".");
    std::map<Verdict, std::size_t> counts;
    for (const auto* answers : {&review_.questions, &review_.claims}) {
      for (const Answer& answer : *answers) ++counts[answer.verdict];
    }
    const xml_node tally = add_html(body_, "p", {});
    for (const Verdict verdict :
         {Verdict::fails, Verdict::suspicious, Verdict::unknown, Verdict::holds}) {
      if (counts[verdict] == 0) continue;
      const xml_node count =
          add_html(tally, "span", {{"class", fmt::format("count {}", name_of(verdict))}});
      add_html(count, "b", {}, std::to_string(counts[verdict]));
      add_text(count, fmt::format(" {}", name_of(verdict)));
    }
  }

  static std::string verdict_class(const Answer& answer) {
    return fmt::format("v {}", name_of(answer.verdict));
  }

  void answers(std::string_view title, const std::vector<Answer>& answers, std::string_view kind) {
    add_html(body_, "h2", {}, title);
    const xml_node table = add_html(body_, "table", {});
    for (const Answer& answer : answers) {
      const xml_node row = add_html(table, "tr", {});
      add_html(row, "td", {{"class", kind}}, answer.id);
      add_html(row, "td", {{"class", verdict_class(answer)}}, name_of(answer.verdict));
      add_html(row, "td", {{"class", "evidence"}}, answer.evidence.text());
    }
  }

  // Failures first, then the lines that bear out claims.
  void shown_lines() {
    bool any = false;
    const auto show = [&](const std::vector<Answer>& answers, bool failing) {
      for (const Answer& answer : answers) {
        const bool fails =
            answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
        if (fails != failing || !answer.line) continue;
        if (!any) add_html(body_, "h2", {}, "Lines of play");
        any = true;
        shown_line(answer);
      }
    };
    show(review_.questions, true);
    show(review_.claims, true);
    show(review_.claims, false);
  }

  void shown_line(const Answer& answer) {
    const Line& line = *answer.line;
    const xml_node section = add_html(body_, "section", {});
    const xml_node title = add_html(section, "h3", {});
    add_html(title, "span", {{"class", verdict_class(answer)}}, name_of(answer.verdict));
    add_text(title, " " + answer.id);
    add_html(section, "p", {}, answer.evidence.text() + "; " + answer.line_title);
    const xml_node list = add_html(section, "ol", {{"class", "line"}});
    constexpr std::size_t most_plies = 200;
    for (std::size_t ply = 0; ply < std::min(line.joints.size(), most_plies); ++ply) {
      std::string moves;
      for (const Role& role : game_.to_move(line.positions[ply])) {
        moves += fmt::format("{}{} {}", moves.empty() ? "" : ", ", role.name(),
                             line.joints[ply][role].to_string());
      }
      add_html(list, "li", {}, moves);
    }
    if (line.joints.size() > most_plies) {
      add_html(
          section, "p", {{"class", "lead"}},
          fmt::format("… and {} more plies, not listed here.", line.joints.size() - most_plies));
    }
    const xml_node boards = add_html(section, "div", {{"class", "boards"}});
    constexpr std::size_t most_boards = 6;
    const std::size_t count = line.positions.size();
    for (std::size_t at = count > most_boards ? count - most_boards : 0; at < count; ++at)
      board(boards, line, at);
  }

  void board(xml_node boards, const Line& line, std::size_t at) {
    const std::string svg =
        picture_.svg({picture::frame_of(game_, line.positions[at], picture::step_to(line, at))});
    std::string data;
    absl::Base64Escape(svg, &data);
    const std::string caption = at == 0 ? "start" : fmt::format("after ply {}", at);
    const xml_node figure = add_html(boards, "figure", {});
    add_element(figure, "img",
                {{"alt", "the board " + caption}, {"src", "data:image/svg+xml;base64," + data}});
    add_html(figure, "figcaption", {}, caption);
  }

  // A bar for each depth, its height by the logarithm.
  void depths() {
    const std::size_t count = review_.depths.size();
    double most = 1;
    for (const ReviewDepth& depth : review_.depths) {
      most = std::max(most, std::log10(static_cast<double>(depth.positions) + 1));
    }
    constexpr double width = 800;
    constexpr double height = 220;
    const double step = width / static_cast<double>(std::max<std::size_t>(count, 1));
    add_html(body_, "h2", {}, "Positions by depth");
    const xml_node chart =
        add_element(body_, "svg",
                    {{"class", "chart"},
                     {"viewBox", "-50 -18 870 280"},
                     {"role", "img"},
                     {"aria-label", "positions first reached at each depth, logarithmic"}});
    for (int power = 0; power <= static_cast<int>(most); ++power) {
      const double y = height - height * power / most;
      add_element(chart, "line",
                  {{"x1", 0}, {"x2", width}, {"y1", y}, {"y2", y}, {"stroke", "var(--line)"}});
      add_element(chart, "text", {{"x", -6}, {"y", y + 4}, {"text-anchor", "end"}},
                  power_text(power));
    }
    const std::size_t every = count > 40 ? 10 : count > 20 ? 5 : 1;
    for (std::size_t d = 0; d < count; ++d) {
      const ReviewDepth& depth = review_.depths[d];
      const double x = step * static_cast<double>(d);
      const auto bar = [&](std::uint64_t number, const char* colour) {
        if (number == 0) return;
        const double tall =
            std::max(1.5, height * std::log10(static_cast<double>(number) + 1) / most);
        const xml_node rectangle = add_element(chart, "rect",
                                               {{"x", x + step * 0.1},
                                                {"y", height - tall},
                                                {"width", step * 0.8},
                                                {"height", tall},
                                                {"fill", colour}});
        add_element(rectangle, "title", {},
                    fmt::format("depth {}: {} positions, {} ends", d, depth.positions, depth.ends));
      };
      bar(depth.positions, "var(--good)");
      bar(depth.ends, "var(--bad)");
      if (d % every == 0) {
        add_element(chart, "text",
                    {{"x", x + step / 2}, {"y", height + 16}, {"text-anchor", "middle"}},
                    std::to_string(d));
      }
    }
    add_element(chart, "text", {{"x", width / 2}, {"y", height + 34}, {"text-anchor", "middle"}},
                "plies from the start");
    add_html(body_, "p", {{"class", "lead"}},
             "Blue: positions first reached there, on a logarithmic scale; orange: those of them "
             "that are ends.");
  }

  static std::string power_text(int power) {
    constexpr int spelled_out = 3;
    std::string text = "1";
    if (power > spelled_out) return fmt::format("10^{}", power);
    return text + std::string(static_cast<std::size_t>(power), '0');
  }

  // The text of the description, each rule marked by whether it ever took part.
  void coverage() {
    const syntax::Source& source = GameAccess::core(game_)->program().description().tree().source();
    std::map<int, bool> used;  // by line where a rule begins; false if some clause of it is never
    for (const ClauseUse& clause : review_.clauses) {
      if (clause.place.file != source.name() || clause.place.line == 0) continue;
      const auto [known, is_new] = used.try_emplace(clause.place.line, clause.used);
      if (!is_new) known->second = known->second && clause.used;
    }
    const auto never = static_cast<std::size_t>(
        std::ranges::count_if(used, [](const auto& entry) { return !entry.second; }));
    add_html(body_, "h2", {}, "The rules");
    add_html(body_, "p", {{"class", "lead"}},
             fmt::format("{} of {} rules took part in some position{}. A bar marks those that did; "
                         "the others stand out.",
                         used.size() - never, used.size(),
                         review_.complete() ? "" : " that was looked at"));
    const xml_node rules = add_html(body_, "pre", {{"class", "rules"}});
    int number = 0;
    int depth = 0;
    std::string_view marked;
    std::string_view rest = source.text();
    while (!rest.empty()) {
      const std::size_t end = std::min(rest.find('\n'), rest.size());
      const std::string_view line = rest.substr(0, end);
      rest.remove_prefix(std::min(end + 1, rest.size()));
      ++number;
      if (const auto rule = used.find(number); rule != used.end()) {
        marked = rule->second ? "used" : "never";
      }
      const xml_node shown = add_html(rules, "span", {{"class", marked}});
      add_html(shown, "i", {}, std::to_string(number));
      add_text(shown, line);
      for (const char c : line.substr(0, line.find(';'))) {
        depth += c == '(' ? 1 : c == ')' ? -1 : 0;
      }
      if (depth <= 0) marked = {};
    }
  }

  const Game& game_;
  const Picture& picture_;
  const Review& review_;
  report::Page page_;
  xml_node body_;
};

}  // namespace

std::string to_html(const Game& game, const Picture& picture, const Review& review) {
  return ReportWriter(game, picture, review).run();
}

}  // namespace orchard
