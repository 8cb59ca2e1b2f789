// Whether two descriptions are the same game: `orchard compare`.
#include "orchard/compare.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/revision.hpp"
#include "cli/summary_text.hpp"
#include "orchard/explain.hpp"

namespace orchard::cli {
namespace {

// One of the two descriptions: its call, game and pictures.
struct Side {
  Call call;
  std::string name;
  Game game;
  Picture picture;
};

// `name`: how the file is called in what is printed.
std::optional<Side> open_side(const Call& call, const std::string& file, const std::string& name) {
  Call own = call;
  own.game = file;
  auto game = load_game(own);
  if (!game) return std::nullopt;
  auto picture = picture_of(own, *game);
  if (!picture) return std::nullopt;
  return Side{std::move(own), name, *game, std::move(*picture)};
}

// Characters that take a place on the terminal: escapes for colours take none.
std::size_t shown_width(std::string_view line) {
  std::size_t width = 0;
  for (std::size_t at = 0; at < line.size(); ++at) {
    if (line[at] == '\x1b') {
      at = std::min(line.find('m', at), line.size());
    } else if ((line[at] & '\xC0') != '\x80') {
      ++width;
    }
  }
  return width;
}

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    lines.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return lines;
}

// Two texts beside each other if they fit, else one below the other.
std::string side_by_side(const std::string& left, const std::string& right, int width) {
  constexpr std::size_t gap = 4;
  const std::vector<std::string> first = lines_of(left);
  const std::vector<std::string> second = lines_of(right);
  const auto widest = [](const std::vector<std::string>& lines) {
    std::size_t most = 0;
    for (const std::string& line : lines) most = std::max(most, shown_width(line));
    return most;
  };
  const std::size_t column = widest(first) + gap;
  if (column + widest(second) > static_cast<std::size_t>(width)) return left + "\n" + right;
  std::string text;
  for (std::size_t row = 0; row < std::max(first.size(), second.size()); ++row) {
    const std::string here = row < first.size() ? first[row] : std::string();
    text += here;
    if (row < second.size() && !second[row].empty()) {
      text += std::string(column - shown_width(here), ' ') + second[row];
    }
    text += "\n";
  }
  return text;
}

// "east: (tie 2 2) is legal in a.gdl only"
std::string sentence(const Difference& difference, const std::string& with,
                     const std::string& without) {
  switch (difference.kind) {
    case Difference::Kind::roles:
      return fmt::format("{} has a role {}, which {} does not have", with, difference.role,
                         without);
    case Difference::Kind::secrets:
      return fmt::format("{} tells each role what it sees; {} shows everybody every move", with,
                         without);
    case Difference::Kind::move:
      return fmt::format("{} may {} in {}, and may not in {}", difference.role, difference.term,
                         with, without);
    case Difference::Kind::end:
      return fmt::format("the game is over in {}, and goes on in {}", with, without);
    case Difference::Kind::goal:
      return fmt::format("{} gets {} in {}, and does not in {}", difference.role, difference.term,
                         with, without);
    case Difference::Kind::percept:
      return fmt::format("{} sees {} in {}, and does not in {}", difference.role, difference.term,
                         with, without);
  }
  return {};
}

// What the difference is about, as `why` asks it; nothing for what no position decides.
std::optional<std::string> question_of(const Difference& difference, const Renaming& other_names,
                                       bool in_own_words) {
  const auto role = [&] {
    return in_own_words ? difference.role : other_names.name_of_second(difference.role);
  };
  const auto term = [&](auto&& other) {
    return in_own_words ? difference.term : other(Term::parse(difference.term).value()).to_string();
  };
  switch (difference.kind) {
    case Difference::Kind::end:
      return "terminal";
    case Difference::Kind::goal:
      return fmt::format("goal {} {}", role(), difference.term);
    case Difference::Kind::move:
      return fmt::format("legal {} {}", role(),
                         term([&](const Term& move) { return other_names.move_of_second(move); }));
    case Difference::Kind::percept:
      return fmt::format("sees {} {}", role(),
                         term([&](const Term& told) { return other_names.term_of_second(told); }));
    default:
      return std::nullopt;
  }
}

std::string explained(const Side& side, const Line& line, const std::string& text, bool unicode) {
  const auto question = Question::parse(side.game, text);
  if (!question) return fmt::format("no rule of {} could give ({})\n", side.name, text);
  Circumstances here{line.last()};
  here.earlier.assign(line.positions.begin(), line.positions.end() - 1);
  here.joints = line.joints;
  if (text.starts_with("sees ")) {  // asked of the step that led here
    here.position = here.earlier.back();
    here.joint = here.joints.back();
  }
  const auto explanation = orchard::why(side.game, here, *question);
  if (!explanation) return explanation.diagnostics().render();
  return fmt::format("in {}:\n{}", side.name, explanation->text(unicode));
}

void print_difference(const Call& call, const Side& first, const Side& second,
                      const Comparison& compared) {
  const auto with = [&](const Difference& difference) {
    return difference.in_first ? first.name : second.name;
  };
  const auto without = [&](const Difference& difference) {
    return difference.in_first ? second.name : first.name;
  };
  print("{} and {} are different games\n", first.name, second.name);
  const bool verbose = call.flag("verbose");
  if (compared.first_line) {
    const std::size_t plies = compared.first_line->joints.size();
    if (plies == 0) {
      print("at the start:\n");
    } else {
      print("after {}{}:\n{}", counted(plies, "ply", "plies"),
            compared.shortest ? ", the shortest line" : ", a line that need not be the shortest",
            line_text(first.game, *compared.first_line));
    }
  }
  constexpr std::size_t most = 8;
  const std::size_t told =
      verbose ? compared.differences.size() : std::min(most, compared.differences.size());
  for (std::size_t at = 0; at < told; ++at) {
    const Difference& difference = compared.differences[at];
    print("   {}\n", sentence(difference, with(difference), without(difference)));
  }
  if (told < compared.differences.size()) {
    print("   … {} in all (--verbose lists them)\n", compared.differences.size());
  }
  const bool at_once = !compared.first_line || compared.first_line->joints.empty();
  if (at_once && compared.renaming.empty() && !call.flag("quiet")) {
    print("   if things only have other names: --find-names, or --renaming FILE\n");
  }
  if (!compared.first_line || call.flag("quiet")) return;
  const TextStyle style = call.style();
  const auto board = [&](const Side& side, const Line& line) {
    return fmt::format("{}\n{}", side.name,
                       page(side.game, side.picture, line.last(), line.joints.size(), style, false,
                            picture::last_step(line)));
  };
  print("\n{}", side_by_side(board(first, *compared.first_line),
                             board(second, *compared.second_line), style.width));
  const Difference& difference = compared.differences.front();
  const Renaming other_names =
      difference.in_first ? compared.renaming : compared.renaming.swapped();
  const auto ask = [&](const Side& side, const Line& line, bool in_own_words) {
    const auto question = question_of(difference, other_names, in_own_words);
    if (question) print("\n{}", explained(side, line, *question, style.unicode));
  };
  ask(first, *compared.first_line, difference.in_first);
  ask(second, *compared.second_line, !difference.in_first);
}

void print_text(const Call& call, const Side& first, const Side& second,
                const Comparison& compared) {
  if (compared.verdict == Comparison::Verdict::different) {
    print_difference(call, first, second, compared);
    return;
  }
  const std::string both = fmt::format("{} and {}", first.name, second.name);
  if (compared.verdict == Comparison::Verdict::same) {
    print("{} are the same game: {}\n", both,
          compared.same_rules                          ? "their rules are the same"
          : compared.proved && compared.positions == 0 ? "proved from the rules alone"
          : compared.proved                            ? "proved by induction over the plies"
                            : fmt::format("no line of play shows a difference, in all {} "
                                          "positions that can be reached",
                                          compared.positions));
    return;
  }
  print("not decided whether {} are the same game: ", both);
  if (!compared.no_circuit.empty()) {
    print("no difference in {} random games ({})\n", compared.random_games,
          counted(compared.positions, "position", "positions"));
    remark("there is no circuit for both of them, so not every position can be looked at:\n{}",
           compared.no_circuit.render());
    return;
  }
  print("no difference in {} ({}) or in random games\n",
        counted(compared.positions, "position", "positions"), remark_on(compared.ending));
}

}  // namespace

namespace {

// The two descriptions: two files, or one as it was and as it is.
struct Sides {
  std::optional<OldFile> old{};
  Side first;
  Side second;
};

std::optional<Sides> open_sides(const Call& call) {
  const auto other = call.text("question");
  const auto revision = call.text("since");
  if (other.has_value() == revision.has_value()) {
    report(call, plain_error("wrong-call",
                             other ? "--since stands for another description"
                                   : "there is nothing to compare with",
                             "write compare FIRST SECOND, or compare GAME --since REVISION"));
    return std::nullopt;
  }
  std::optional<OldFile> old;
  std::string first_file = call.game;
  std::string first_name = call.game;
  std::string second_file = other.value_or(call.game);
  if (revision) {
    auto found = file_at(call.game, *revision);
    if (!found) {
      report(call, found.diagnostics());
      return std::nullopt;
    }
    old.emplace(std::move(*found));
    first_file = old->path;
    first_name = fmt::format("{} at {}", call.game, *revision);
  }
  auto first = open_side(call, first_file, first_name);
  if (!first) return std::nullopt;
  auto second = open_side(call, second_file, second_file);
  if (!second) return std::nullopt;
  return Sides{std::move(old), std::move(*first), std::move(*second)};
}

Result<GameSummary> summary_of(const Call& call, const Side& side) {
  SummaryOptions options;
  options.budget = call.budget();
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.seed = *call.number("seed");
  options.claims = side.call.claims_file();
  return summarize(side.game, options);
}

}  // namespace

Status compare(const Call& call) {
  const auto sides = open_sides(call);
  if (!sides) return Status::wrong_call;
  const Side& first = sides->first;
  const Side& second = sides->second;
  CompareOptions options;
  options.budget = call.budget();
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.seed = *call.number("seed");
  if (const auto file = call.text("renaming")) {
    auto renaming = Renaming::load(*file);
    if (!renaming) return report(call, renaming.diagnostics());
    options.renaming = std::move(*renaming);
  }
  options.find_names = call.flag("find-names");
  const auto compared = compare_games(first.game, second.game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!compared) return report(call, compared.diagnostics());
  Json document = document_of(first.game, second.game, *compared);
  if (!call.json()) print_text(call, first, second, *compared);
  if (call.flag("find-names")) {
    document["names"] = compared->renaming.text();
    if (compared->renaming.empty() && compared->verdict == Comparison::Verdict::different &&
        !call.flag("quiet")) {
      remark("no names were found under which both could be the same game\n");
    }
    if (!call.json() && !compared->renaming.empty()) {
      print("\nnames in the first, and in the second:\n{}", compared->renaming.text());
    }
  }
  if (call.flag("summary")) {
    const auto of_first = summary_of(call, first);
    if (!of_first) return report(call, of_first.diagnostics());
    const auto of_second = summary_of(call, second);
    if (!of_second) return report(call, of_second.diagnostics());
    document["summary"] = {{"first", document_of(first.game, *of_first)},
                           {"second", document_of(second.game, *of_second)}};
    if (!call.json())
      print("{}", summary_text(*of_first, in_words_of_first(*of_second, compared->renaming),
                               first.name, second.name));
  }
  if (call.json()) print_json(document);
  switch (compared->verdict) {
    case Comparison::Verdict::same:
      return Status::done;
    case Comparison::Verdict::different:
      return Status::failed;
    case Comparison::Verdict::undecided:
      break;
  }
  return Status::unfinished;
}

}  // namespace orchard::cli
