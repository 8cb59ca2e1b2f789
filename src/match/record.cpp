#include "orchard/record.hpp"

#include <fmt/core.h>

#include "base/json.hpp"
#include "syntax/source.hpp"

namespace orchard {
namespace {

Diagnostic fault_at(const syntax::Source& source, std::uint32_t begin, std::uint32_t end,
                    std::string message) {
  Diagnostic diagnostic = plain_error("bad-record", std::move(message),
                                      "a record is written by `save`; see docs/FORMATS.md");
  diagnostic.place = source.place(begin, end);
  return diagnostic;
}

std::vector<Term> terms_from(const Json& list) {
  std::vector<Term> terms;
  for (const Json& item : list) {
    auto term = Term::parse(item.get<std::string>());
    if (!term) throw std::invalid_argument(item.get<std::string>() + " is not a term");
    terms.push_back(*term);
  }
  return terms;
}

void read_head(const Json& line, MatchRecord& record) {
  if (line.value("record", "") != "orchard-match") {
    throw std::invalid_argument("this is not the head of a match record");
  }
  if (line.at("version").get<int>() != MatchRecord::version) {
    throw std::invalid_argument("this is a record of another version");
  }
  record.game = line.value("game", "");
  record.rules = line.value("rules", "");
  record.roles = line.at("roles").get<std::vector<std::string>>();
  record.players = line.value("players", std::map<std::string, std::string>{});
  record.seats = line.value("seats", std::map<std::string, std::string>{});
  record.seed = line.value("seed", std::uint64_t{1});
  if (line.contains("start")) record.start = terms_from(line["start"]);
  for (const Json& entry : line.value("score", Json::array())) {
    record.score.push_back({entry.at("wins").get<std::uint64_t>(),
                            entry.at("draws").get<std::uint64_t>(),
                            entry.at("losses").get<std::uint64_t>(),
                            entry.value("scored", std::uint64_t{0}),
                            entry.value("stuck", std::uint64_t{0}), entry.value("goals", 0.0)});
  }
}

void read_ply(const Json& line, MatchRecord& record) {
  Json moves = Json::array();
  if (line.at("ply").get<std::uint64_t>() != record.joints.size()) {
    throw std::invalid_argument(fmt::format("ply {} is missing", record.joints.size()));
  }
  for (const std::string& role : record.roles) moves.push_back(line.at("joint").at(role));
  record.joints.push_back(terms_from(moves));
}

// Calls visit(begin, end) for every line that is not empty.
template <class Visit>
void for_each_line(std::string_view text, Visit&& visit) {
  for (std::size_t begin = 0; begin < text.size();) {
    const std::size_t end = std::min(text.find('\n', begin), text.size());
    if (text.substr(begin, end - begin).find_first_not_of(" \t\r") != std::string_view::npos) {
      visit(begin, end);
    }
    begin = end + 1;
  }
}

}  // namespace

MatchRecord record_of(const Match& match) {
  MatchRecord record;
  const Game& game = match.game();
  record.game = game.name();
  record.rules = game.digest();
  for (const Role& role : game.roles()) record.roles.push_back(role.name());
  if (!(match.start() == game.initial())) record.start = match.start().fluents();
  for (const JointMove& joint : match.joints()) {
    std::vector<Term>& moves = record.joints.emplace_back();
    for (const Move& move : joint) moves.push_back(move.term());
  }
  return record;
}

std::string to_json_lines(const MatchRecord& record, const Match& match) {
  Json head = {{"record", "orchard-match"}, {"version", MatchRecord::version},
               {"game", record.game},       {"rules", record.rules},
               {"roles", record.roles},     {"players", record.players},
               {"seats", record.seats},     {"seed", record.seed}};
  if (!record.start.empty()) {
    head["start"] = Json::array();
    for (const Term& fluent : record.start) head["start"].push_back(fluent.to_string());
  }
  if (!record.score.empty()) {
    head["score"] = Json::array();
    for (const Tally& line : record.score) {
      head["score"].push_back({{"wins", line.wins},
                               {"draws", line.draws},
                               {"losses", line.losses},
                               {"scored", line.scored},
                               {"stuck", line.stuck},
                               {"goals", line.goals}});
    }
  }
  std::string text = json_text(head) + "\n";
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    Json joint;
    for (std::size_t r = 0; r < record.roles.size(); ++r) {
      joint[record.roles[r]] = record.joints[ply][r].to_string();
    }
    text += json_text(Json{{"ply", ply}, {"joint", joint}}) + "\n";
  }
  if (match.over()) {
    Json result = Json::object();
    for (const Role& role : match.game().roles()) {
      if (const auto value = match.game().goal(match.position(), role)) {
        result[role.name()] = *value;
      }
    }
    text += json_text(Json{{"result", result}}) + "\n";
  }
  return text;
}

namespace {

Result<MatchRecord> record_of(const syntax::Source& source) {
  MatchRecord record;
  Diagnostics faults;
  bool has_head = false;
  for_each_line(source.text(), [&](std::size_t begin, std::size_t end) {
    if (!faults.empty()) return;
    try {
      const Json line = Json::parse(source.text().substr(begin, end - begin));
      if (!has_head) {
        read_head(line, record);
        has_head = true;
      } else if (line.contains("ply")) {
        read_ply(line, record);
      }
    } catch (const std::exception& fault) {
      faults.add(fault_at(source, static_cast<std::uint32_t>(begin),
                          static_cast<std::uint32_t>(end),
                          fmt::format("this line cannot be read: {}", fault.what())));
    }
  });
  if (!has_head && faults.empty()) faults.add(fault_at(source, 0, 0, "the record is empty"));
  if (!faults.empty()) return faults;
  return record;
}

}  // namespace

Result<MatchRecord> read_record(const std::string& path) {
  const auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return record_of(*source);
}

Result<MatchRecord> record_from_text(std::string json_lines) {
  return record_of(syntax::Source("record", std::move(json_lines)));
}

Result<Match> replay(const Game& game, const MatchRecord& record) {
  std::vector<std::string> roles;
  for (const Role& role : game.roles()) roles.push_back(role.name());
  if (roles != record.roles) {
    return plain_error("record-mismatch", "the record is of a game with other roles",
                       "give the description it was played with: " + record.game);
  }
  std::optional<Position> start;
  if (!record.start.empty()) {
    auto position = game.position(record.start);
    if (!position) return position.diagnostics();
    start = *position;
  }
  Match match(game, start);
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    JointMove joint;
    for (const Term& move : record.joints[ply]) joint.add(game.move(move));
    if (auto faults = match.play(joint); !faults.empty()) {
      Diagnostics all;
      all.add(plain_error("record-mismatch",
                          fmt::format("ply {} of the record is not legal under these rules", ply),
                          "give the description it was played with: " + record.game));
      all.append(faults);
      return all;
    }
  }
  return match;
}

}  // namespace orchard
