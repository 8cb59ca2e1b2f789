// A review as one page of HTML that needs nothing else: no script, no file, no network.
#include <absl/strings/escaping.h>
#include <fmt/core.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "game/core.hpp"
#include "orchard/report.hpp"
#include "picture/face/frames.hpp"
#include "picture/written/shapes.hpp"

namespace orchard {
namespace {

constexpr std::string_view style = R"(
:root{--ink:#1d2b24;--soft:#5c6b62;--line:#d5ded8;--paper:#fbfcfa;--good:#1f5fa8;--bad:#b4460f;--unknown:#6b6b6b;--shade:#eef3ef}
@media(prefers-color-scheme:dark){:root{--ink:#e3ebe5;--soft:#a3b3a9;--line:#38443d;--paper:#161c18;--good:#7db4ee;--bad:#f0985f;--unknown:#b0b0b0;--shade:#202823}}
*{box-sizing:border-box}
body{margin:0 auto;max-width:70rem;padding:1.2rem;background:var(--paper);color:var(--ink);font:16px/1.5 system-ui,"DejaVu Sans",sans-serif}
h1{font-size:1.6rem;margin:0 0 .2rem}h2{font-size:1.2rem;margin:2rem 0 .6rem;border-bottom:1px solid var(--line)}h3{font-size:1rem;margin:1.4rem 0 .3rem}
p.lead{color:var(--soft);margin:.1rem 0 1rem}
table{border-collapse:collapse;width:100%}td,th{text-align:left;vertical-align:top;padding:.3rem .6rem .3rem 0;border-bottom:1px solid var(--line)}
td.id{font-family:ui-monospace,"DejaVu Sans Mono",monospace;white-space:nowrap}td.claim{min-width:14rem}td.evidence{white-space:pre-wrap}
.v{font-weight:600;white-space:nowrap}.holds{color:var(--good)}.fails,.suspicious{color:var(--bad)}.unknown{color:var(--unknown)}.described{color:var(--soft);font-weight:400}
.count{display:inline-block;margin-right:1.2rem}.count b{font-size:1.3rem}
ol.line{font-family:ui-monospace,"DejaVu Sans Mono",monospace;font-size:.85rem;columns:18rem;margin:.4rem 0;padding-left:2.6rem}
.boards{display:flex;flex-wrap:wrap;gap:1rem}.boards figure{margin:0;max-width:100%}.boards img{max-width:100%;width:17rem;height:auto;border:1px solid var(--line);border-radius:4px}
figcaption{font-size:.85rem;color:var(--soft)}
pre.rules{font:12.5px/1.45 ui-monospace,"DejaVu Sans Mono",monospace;overflow-x:auto;margin:0;border:1px solid var(--line);border-radius:4px}
pre.rules span{display:block;padding:0 .6rem;border-left:4px solid transparent}pre.rules .used{border-color:var(--good)}pre.rules .never{border-color:var(--bad);background:var(--shade);font-weight:600}
pre.rules i{font-style:normal;color:var(--soft);display:inline-block;width:3.2em}
svg.chart{width:100%;height:auto;max-width:52rem}svg.chart text{fill:var(--soft);font:11px system-ui,"DejaVu Sans",sans-serif}
@media print{body{max-width:none}section{break-inside:avoid}}
@media(max-width:40rem){td,th{display:block;border:0;padding:.1rem 0}tr{display:block;border-bottom:1px solid var(--line);padding:.4rem 0}td.id{white-space:normal}}
)";

using picture::escaped;

class ReportWriter {
 public:
  ReportWriter(const Game& game, const Picture& picture, const Review& review)
      : game_(game), picture_(picture), review_(review) {}

  std::string run() {
    head();
    if (!review_.not_asked.empty()) {
      nothing_asked();
      return std::move(text_);
    }
    summary();
    answers("Questions", review_.questions, "id");
    if (!review_.claims.empty()) answers("Claims", review_.claims, "claim");
    shown_lines();
    depths();
    coverage();
    text_ += "</body>\n</html>\n";
    return std::move(text_);
  }

 private:
  void head() {
    const std::string name = escaped(game_.name());
    text_ += fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
        "<meta name=\"viewport\" content=\"width=device-width,initial-scale=1\">\n"
        "<title>{}: checked</title>\n<style>{}</style>\n</head>\n<body>\n<h1>{}</h1>\n",
        name, style, name);
  }

  void nothing_asked() {
    text_ += fmt::format(
        "<p>Only the text of the rules was checked. <strong>No question and no claim was "
        "answered</strong>, because the rules are too large to explore:</p>\n"
        "<pre>{}</pre>\n</body>\n</html>\n",
        escaped(review_.not_asked.render()));
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
    text_ += fmt::format("<p class=\"lead\">{}.</p>\n", reach);
    std::map<Verdict, std::size_t> counts;
    for (const auto* answers : {&review_.questions, &review_.claims}) {
      for (const Answer& answer : *answers) ++counts[answer.verdict];
    }
    text_ += "<p>";
    for (const Verdict verdict :
         {Verdict::fails, Verdict::suspicious, Verdict::unknown, Verdict::holds}) {
      if (counts[verdict] == 0) continue;
      text_ += fmt::format("<span class=\"count {}\"><b>{}</b> {}</span>", name_of(verdict),
                           counts[verdict], name_of(verdict));
    }
    text_ += "</p>\n";
  }

  void answers(std::string_view title, const std::vector<Answer>& answers, std::string_view kind) {
    text_ += fmt::format("<h2>{}</h2>\n<table>\n", title);
    for (const Answer& answer : answers) {
      text_ += fmt::format(
          "<tr><td class=\"{}\">{}</td><td class=\"v {}\">{}</td><td class=\"evidence\">{}</td>"
          "</tr>\n",
          kind, escaped(answer.id), name_of(answer.verdict), name_of(answer.verdict),
          escaped(answer.evidence.text()));
    }
    text_ += "</table>\n";
  }

  // Failures first, then what claims are witnessed by.
  void shown_lines() {
    bool any = false;
    const auto show = [&](const std::vector<Answer>& answers, bool failing) {
      for (const Answer& answer : answers) {
        const bool fails =
            answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
        if (fails != failing || !answer.line) continue;
        if (!any) text_ += "<h2>Lines of play</h2>\n";
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
    text_ += fmt::format("<section>\n<h3><span class=\"v {}\">{}</span> {}</h3>\n<p>{}; {}</p>\n",
                         name_of(answer.verdict), name_of(answer.verdict), escaped(answer.id),
                         escaped(answer.evidence.text()), escaped(answer.line_title));
    text_ += "<ol class=\"line\">\n";
    constexpr std::size_t most_plies = 200;
    for (std::size_t ply = 0; ply < std::min(line.joints.size(), most_plies); ++ply) {
      std::string moves;
      for (const Role& role : game_.to_move(line.positions[ply])) {
        moves += fmt::format("{}{} {}", moves.empty() ? "" : ", ", role.name(),
                             line.joints[ply][role].to_string());
      }
      text_ += fmt::format("<li>{}</li>\n", escaped(moves));
    }
    text_ += "</ol>\n<div class=\"boards\">\n";
    constexpr std::size_t most_boards = 6;
    const std::size_t count = line.positions.size();
    for (std::size_t at = count > most_boards ? count - most_boards : 0; at < count; ++at)
      board(line, at);
    text_ += "</div>\n</section>\n";
  }

  void board(const Line& line, std::size_t at) {
    std::optional<JointMove> last;
    if (at > 0) last = line.joints[at - 1];
    const std::string svg = picture_.svg({picture::frame_of(game_, line.positions[at], last)});
    std::string data;
    absl::Base64Escape(svg, &data);
    const std::string caption = at == 0 ? "start" : fmt::format("after ply {}", at);
    text_ += fmt::format(
        "<figure><img alt=\"the board {}\" src=\"data:image/svg+xml;base64,{}\">"
        "<figcaption>{}</figcaption></figure>\n",
        caption, data, caption);
  }

  // A bar a depth, its height by the logarithm.
  void depths() {
    const std::size_t count = review_.depths.size();
    double most = 1;
    for (const ReviewDepth& depth : review_.depths) {
      most = std::max(most, std::log10(static_cast<double>(depth.positions) + 1));
    }
    constexpr double width = 800;
    constexpr double height = 220;
    const double step = width / static_cast<double>(std::max<std::size_t>(count, 1));
    text_ += fmt::format(
        "<h2>Positions by depth</h2>\n<svg class=\"chart\" viewBox=\"-50 -18 870 280\" "
        "role=\"img\" "
        "aria-label=\"positions first reached at each depth, logarithmic\">\n");
    for (int power = 0; power <= static_cast<int>(most); ++power) {
      const double y = height - height * power / most;
      text_ += fmt::format(
          "<line x1=\"0\" x2=\"{0}\" y1=\"{1:.1f}\" y2=\"{1:.1f}\" stroke=\"var(--line)\"/>"
          "<text x=\"-6\" y=\"{2:.1f}\" text-anchor=\"end\">{3}</text>\n",
          width, y, y + 4, power_text(power));
    }
    const std::size_t every = count > 40 ? 10 : count > 20 ? 5 : 1;
    for (std::size_t d = 0; d < count; ++d) {
      const ReviewDepth& depth = review_.depths[d];
      const double x = step * static_cast<double>(d);
      const auto bar = [&](std::uint64_t number, std::string_view colour) {
        if (number == 0) return;
        const double tall =
            std::max(1.5, height * std::log10(static_cast<double>(number) + 1) / most);
        text_ += fmt::format(
            "<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" fill=\"var({})\">"
            "<title>depth {}: {} positions, {} ends</title></rect>\n",
            x + step * 0.1, height - tall, step * 0.8, tall, colour, d, depth.positions,
            depth.ends);
      };
      bar(depth.positions, "--good");
      bar(depth.ends, "--bad");
      if (d % every == 0) {
        text_ += fmt::format("<text x=\"{:.1f}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n",
                             x + step / 2, height + 16, d);
      }
    }
    text_ += fmt::format(
        "<text x=\"{}\" y=\"{}\" text-anchor=\"middle\">plies from the start</text>\n</svg>\n"
        "<p class=\"lead\">Blue: positions first reached there, on a logarithmic scale; orange: "
        "those of them that are ends.</p>\n",
        width / 2, height + 34);
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
    text_ += fmt::format(
        "<h2>The rules</h2>\n<p class=\"lead\">{} of {} rules took part in some position{}. A bar "
        "marks those that did; the others stand out.</p>\n<pre class=\"rules\">",
        used.size() - never, used.size(), review_.complete() ? "" : " that was looked at");
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
      text_ += fmt::format("<span class=\"{}\"><i>{}</i>{}</span>", marked, number, escaped(line));
      for (const char c : line.substr(0, line.find(';'))) {
        depth += c == '(' ? 1 : c == ')' ? -1 : 0;
      }
      if (depth <= 0) marked = {};
    }
    text_ += "</pre>\n";
  }

  const Game& game_;
  const Picture& picture_;
  const Review& review_;
  std::string text_;
};

}  // namespace

std::string to_html(const Game& game, const Picture& picture, const Review& review) {
  return ReportWriter(game, picture, review).run();
}

}  // namespace orchard
