// Records of matches: listed, shown, searched, counted, held against their rules: `orchard
// records`.
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/chart_files.hpp"
#include "cli/json.hpp"
#include "cli/line_pictures.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/record_files.hpp"
#include "cli/record_steps.hpp"
#include "orchard/cases.hpp"
#include "orchard/chart.hpp"
#include "orchard/formula_counts.hpp"
#include "orchard/openings.hpp"

namespace orchard::cli {
namespace {

Line line_of(const Match& match) {
  return {match.positions(), match.joints()};
}

// "east Ada (person), west random".
std::string players_in_words(const MatchRecord& record) {
  std::string text;
  for (const std::string& role : record.roles) {
    const auto player = record.players.find(role);
    const auto seat = record.seats.find(role);
    std::string who = player != record.players.end() ? player->second : "";
    if (seat != record.seats.end() && seat->second != who) {
      who += who.empty() ? seat->second : fmt::format(" ({})", seat->second);
    }
    if (who.empty()) continue;
    text += fmt::format("{}{} {}", text.empty() ? "" : ", ", role, who);
  }
  return text;
}

std::string ending_in_words(const FiledRecord& filed) {
  const MatchRecord& record = filed.record;
  if (!record.end) return record.cut ? "cut off" : "not ended";
  if (record.end->reason == "plies") return "broken off";
  if (record.end->reason == "stopped") return "stopped";
  if (record.end->reason == "forfeit") return "forfeited";
  if (filed.match && filed.match->over()) {
    return describe(*filed.game, outcome_of(*filed.game, filed.match->position()), record.players);
  }
  std::string text = "ended:";
  for (const auto& [role, goal] : record.end->goals) text += fmt::format(" {} {}", role, goal);
  return text;
}

void print_list(const std::vector<FiledRecord>& records) {
  for (std::size_t i = 0; i < records.size(); ++i) {
    const FiledRecord& filed = records[i];
    const std::string where =
        filed.record.line > 1 ? fmt::format("{}:{}", filed.file, filed.record.line) : filed.file;
    print("{:>5}  {}   {}   {}   {}", i + 1, where, filed.record.game,
          counted(filed.record.joints.size(), "ply", "plies"), ending_in_words(filed));
    for (const auto& [role, moves] : filed.record.replaced()) {
      print("; {} of {} made by the host", counted(moves, "move", "moves"), role);
    }
    if (!filed.game) print("   [rules not found]");
    if (!filed.faults.empty()) print("   [does not fit its rules]");
    print("\n");
  }
}

Json document_of_filed(const FiledRecord& filed) {
  Json result = {{"file", filed.file}, {"line", filed.record.line}};
  result.update(document_of(filed.record));
  result["verified"] = filed.game ? Json(filed.faults.empty()) : Json(nullptr);
  result["diagnostics"] = document_of(filed.faults);
  return result;
}

// The moves of a ply, with the time that they took and what the host did.
void print_plies(const FiledRecord& filed) {
  const MatchRecord& record = filed.record;
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    print("{:>5} ", ply + 1);
    std::set<std::string> movers(record.roles.begin(), record.roles.end());
    if (filed.match && ply < filed.match->joints().size()) {
      movers.clear();
      for (const Role& role : filed.game->to_move(filed.match->positions()[ply])) {
        movers.insert(role.name());
      }
    }
    const PlyNotes notes = ply < record.notes.size() ? record.notes[ply] : PlyNotes();
    for (std::size_t r = 0; r < record.roles.size(); ++r) {
      const std::string& role = record.roles[r];
      if (!movers.contains(role)) continue;
      print(" {} {}", role, record.joints[ply][r].to_string());
      if (const auto seconds = notes.seconds.find(role); seconds != notes.seconds.end()) {
        print(" {:.2f} s", seconds->second);
      }
      if (const auto replaced = notes.replaced.find(role); replaced != notes.replaced.end()) {
        print(" [{}{}; the host chose]", replaced->second.why,
              replaced->second.said.empty() ? "" : ": " + replaced->second.said);
      }
    }
    print("\n");
  }
}

// Of the call, but with the rules of a record, for the drawing beside them.
Call call_for(const Call& call, const FiledRecord& filed) {
  Call result = call;
  result.game = filed.rules_file.empty() ? filed.record.game : filed.rules_file;
  return result;
}

// The line of play up to --ply; nothing if there is no such ply.
std::optional<Line> line_to_ply(const Call& call, const FiledRecord& filed) {
  Line line = line_of(*filed.match);
  const std::uint64_t ply = call.number("ply").value_or(line.joints.size());
  if (ply > line.joints.size()) return std::nullopt;
  line.joints.erase(line.joints.begin() + static_cast<std::ptrdiff_t>(ply), line.joints.end());
  line.positions.erase(line.positions.begin() + static_cast<std::ptrdiff_t>(ply) + 1,
                       line.positions.end());
  return line;
}

Status show_one(const Call& call, const FiledRecord& filed) {
  const bool wants_play = call.flag("as-case") || call.flag("drawn") || call.flag("step") ||
                          call.text("ply") || wants_pictures(call);
  if (!filed.match) {
    if (wants_play) {
      return report(call,
                    plain_error("no-rules", fmt::format("the rules of {} are not here", filed.file),
                                "give them with --game " + filed.record.game));
    }
    print("{}   {}\n{}\n", filed.file, filed.record.game, players_in_words(filed.record));
    print_plies(filed);
    print(
        "{}\nthe rules were not found, so nothing was held against them; --game FILE names "
        "them\n",
        ending_in_words(filed));
    return Status::done;
  }
  const Game& game = *filed.game;
  const Call own = call_for(call, filed);
  const auto picture = load_picture(own, game);
  if (!picture) return report(call, picture.diagnostics());
  const auto line = line_to_ply(call, filed);
  if (!line) {
    return report(call, plain_error("wrong-call",
                                    fmt::format("{} has {}", filed.file,
                                                counted(filed.match->ply(), "ply", "plies")),
                                    "give a smaller --ply"));
  }
  Diagnostics unwritten;
  if (wants_pictures(call)) {
    std::vector<PictureFrame> frames;
    for (std::size_t ply = 0; ply < line->positions.size(); ++ply) {
      frames.push_back(frame_of(game, line->positions[ply], picture::step_to(*line, ply), false));
      frames.back().title = heading(game, line->positions[ply], ply);
      frames.back().title.pop_back();
    }
    unwritten = write_pictures(own, *picture, frames);
  }
  if (const auto name = call.text("as-case")) {
    print("{}", case_of_line(game, *name, *line));
  } else if (call.flag("drawn")) {
    print("{}", picture->drawn(line->last()));
  } else if (call.flag("step")) {
    step_through(own, game, *picture, line_of(*filed.match), filed.record);
  } else {
    print("{}   {}\n{}\n", filed.file, filed.record.game, players_in_words(filed.record));
    if (!call.flag("quiet")) print_plies(filed);
    print("\n{}", page(game, *picture, line->last(), line->joints.size(), PageStyle(own), false,
                       picture::last_step(*line)));
  }
  return after_side_files(Status::done, unwritten);
}

// In which of the matches a formula holds, and when.
Status search(const Call& call, const std::vector<FiledRecord>& records, Status status) {
  const std::string formula = *call.text("where");
  std::map<const Game*, std::vector<std::size_t>> by_game;
  std::uint64_t without_rules = 0;
  for (std::size_t i = 0; i < records.size(); ++i) {
    if (records[i].match) {
      by_game[records[i].game.get()].push_back(i);
    } else {
      ++without_rules;
    }
  }
  std::vector<std::vector<std::uint64_t>> plies(records.size());
  std::set<std::string> unfit;
  for (const auto& [game, numbers] : by_game) {
    std::vector<Line> lines;
    for (const std::size_t i : numbers) lines.push_back(line_of(*records[i].match));
    const auto found = plies_where(*game, formula, lines);
    if (!found) return report(call, found.diagnostics());
    unfit.insert(found->unfit.begin(), found->unfit.end());
    for (std::size_t n = 0; n < numbers.size(); ++n) plies[numbers[n]] = found->plies[n];
  }
  std::uint64_t matches = 0;
  for (const auto& one : plies) matches += one.empty() ? 0 : 1;
  if (call.json()) {
    Json list = Json::array();
    for (std::size_t i = 0; i < records.size(); ++i) {
      if (plies[i].empty()) continue;
      list.push_back(
          {{"file", records[i].file}, {"line", records[i].record.line}, {"plies", plies[i]}});
    }
    print_json({{"formula", formula},
                {"matches", matches},
                {"looked_at", records.size() - without_rules},
                {"without_rules", without_rules},
                {"unfit", unfit},
                {"found", std::move(list)}});
  } else {
    for (std::size_t i = 0; i < records.size(); ++i) {
      if (plies[i].empty()) continue;
      constexpr std::size_t most = 12;
      print("{:>5}  {}   ply", i + 1, records[i].file);
      for (std::size_t n = 0; n < std::min(most, plies[i].size()); ++n) print(" {}", plies[i][n]);
      print("{}\n", plies[i].size() > most ? fmt::format(" … ({} in all)", plies[i].size()) : "");
    }
    for (const std::string& literal : unfit) {
      print("nothing that the rules derive matches {}\n", literal);
    }
    print("holds in {} of {}\n", matches,
          counted(records.size() - without_rules, "match", "matches"));
    if (without_rules > 0) {
      print("not looked at, because the rules were not found or do not fit: {}\n", without_rules);
    }
  }
  if (status != Status::done) return status;
  return matches > 0 ? Status::done : Status::failed;
}

std::string results_in_words(const Game& game, const Opening& opening) {
  std::string text;
  for (const Role& role : game.roles()) {
    if (role.is_chance() || opening.results.empty()) continue;
    const Tally& tally = opening.results[role.index()];
    if (tally.results() == 0) continue;
    text += fmt::format("{}{} {:.1f}", text.empty() ? "" : ", ", role.name(), tally.mean_goal());
  }
  return text;
}

void print_opening(const Game& game, const Opening& opening, std::uint64_t all, std::size_t depth) {
  for (const Opening& next : opening.next) {
    const double share = static_cast<double>(next.matches) / static_cast<double>(all);
    print("{:>7}  {:>5.1f} %  {}{}{}\n", next.matches, 100 * share, std::string(2 * depth, ' '),
          next.moves, "   " + results_in_words(game, next));
    print_opening(game, next, all, depth + 1);
  }
}

// The mean goal of a role is the shade.
ChartPart part_of(const Game& game, const Role& role, const Opening& opening) {
  ChartPart part{opening.moves, static_cast<double>(opening.matches), {}, {}, {}};
  constexpr double most = 100;
  if (!opening.results.empty() && opening.results[role.index()].results() > 0) {
    const double mean = opening.results[role.index()].mean_goal();
    part.shade = std::clamp(mean / most, 0.0, 1.0);
    part.note = fmt::format("{}, mean {:.0f}", opening.matches, mean);
  } else {
    part.note = std::to_string(opening.matches);
  }
  for (const Opening& next : opening.next) part.parts.push_back(part_of(game, role, next));
  return part;
}

Status openings(const Call& call, const std::vector<FiledRecord>& records, Status status) {
  std::map<const Game*, std::vector<Match>> by_game;
  for (const FiledRecord& filed : records) {
    if (filed.match) by_game[filed.game.get()].push_back(*filed.match);
  }
  if (by_game.size() != 1) {
    return report(call, plain_error("wrong-call",
                                    by_game.empty() ? "the rules of these records are not here"
                                                    : "these are records of several games",
                                    by_game.empty() ? "give them with --game FILE"
                                                    : "name records of one game"));
  }
  const auto& [game, matches] = *by_game.begin();
  OpeningOptions options;
  options.plies = *call.number("openings");
  options.least_matches = call.number("least").value_or(1);
  const Opening tree = openings_of(*game, matches, options);
  const auto first =
      std::ranges::find_if(game->roles(), [](const Role& role) { return !role.is_chance(); });
  Diagnostics unwritten;
  if ((call.text("svg") || call.text("png")) && first != game->roles().end()) {
    unwritten = write_charts(
        call,
        tree_chart(fmt::format("{}: how {} began", game->name(),
                               counted(matches.size(), "match", "matches")),
                   fmt::format("darker: a higher mean goal of {}; beside the moves, how often "
                               "and that mean",
                               first->name()),
                   part_of(*game, *first, tree)));
  }
  if (call.json()) {
    print_json(document_of(*game, tree));
  } else {
    print("{}: how {} began; mean goals behind the moves\n\n", game->name(),
          counted(matches.size(), "match", "matches"));
    print_opening(*game, tree, tree.matches, 0);
    if (matches.size() < records.size()) {
      print("\nnot counted, because the rules were not found or do not fit: {}\n",
            records.size() - matches.size());
    }
  }
  return after_side_files(status, unwritten);
}

}  // namespace

Status records(const Call& call) {
  if (const Diagnostics faults = check_pictures(call); !faults.empty()) return report(call, faults);
  Diagnostics unreadable;
  std::vector<FiledRecord> found = filed_records(call, call.texts("arguments"), unreadable);
  if (found.empty()) return report(call, unreadable);
  if (const auto number = call.number("match")) {
    if (*number > found.size()) {
      return report(
          call, plain_error("wrong-call",
                            fmt::format("there are {}", counted(found.size(), "match", "matches")),
                            "give a smaller --match"));
    }
    found = {std::move(found[*number - 1])};
  }
  const bool json = call.json();
  Status status = unreadable.empty() ? Status::done : Status::failed;
  if (!json && !unreadable.empty()) remark("{}", unreadable.render());
  for (const FiledRecord& filed : found) {
    if (filed.record.cut) {
      status = Status::failed;
      if (!json) {
        remark("{}: the last line was cut off; the match is complete up to ply {}\n", filed.file,
               filed.record.joints.size());
      }
    }
    if (filed.faults.empty()) continue;
    status = Status::failed;
    if (!json) remark("{}", filed.faults.render());
  }
  if (call.text("where")) return search(call, found, status);
  if (call.text("openings")) return openings(call, found, status);
  if (json) {
    Json list = Json::array();
    for (const FiledRecord& filed : found) list.push_back(document_of_filed(filed));
    Json document = {{"records", std::move(list)}};
    document["diagnostics"] = document_of(unreadable);
    print_json(document);
    return status;
  }
  if (found.size() == 1) {
    const Status shown = show_one(call, found.front());
    return shown == Status::done ? status : shown;
  }
  if (call.flag("as-case") || call.flag("drawn") || call.flag("step") || call.text("ply") ||
      wants_pictures(call)) {
    return report(
        call, plain_error("wrong-call", "this is asked of one match", "choose one with --match N"));
  }
  print_list(found);
  std::uint64_t verified = 0;
  std::uint64_t without_rules = 0;
  for (const FiledRecord& filed : found) {
    verified += filed.game && filed.faults.empty() ? 1 : 0;
    without_rules += filed.game ? 0 : 1;
  }
  print("{}", counted(found.size(), "match", "matches"));
  if (without_rules < found.size()) {
    print("; every move, percept and result is right in {}", verified);
  }
  if (without_rules > 0) {
    print("; {} not held against rules, which were not found: --game FILE names them",
          without_rules);
  }
  print("\n");
  return status;
}

}  // namespace orchard::cli
