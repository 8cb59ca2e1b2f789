#include "match/record_lines.hpp"

#include <fmt/core.h>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <stdexcept>

namespace orchard {
namespace {

constexpr std::string_view seal_begins = ",\"seal\":\"";
constexpr std::size_t seal_length = 16;

Json texts_of(const std::vector<Term>& terms) {
  Json list = Json::array();
  for (const Term& term : terms) list.push_back(term.to_string());
  return list;
}

std::vector<Term> terms_from(const Json& list) {
  if (!list.is_array()) throw std::invalid_argument("a list of terms was expected");
  std::vector<Term> terms;
  for (const Json& item : list) {
    auto term = Term::parse(item.get<std::string>());
    if (!term || !term->is_ground()) {
      throw std::invalid_argument(item.get<std::string>() + " is not a term without variables");
    }
    terms.push_back(*term);
  }
  return terms;
}

// A line has these members and no others.
template <std::size_t count>
void allow_only(const Json& line, const std::array<std::string_view, count>& names) {
  for (const auto& [name, value] : line.items()) {
    if (name == "seal" || std::ranges::find(names, name) != names.end()) continue;
    throw std::invalid_argument("it has a member that no such line has: " + name);
  }
}

void check_roles(const Json& by_role, const MatchRecord& record) {
  for (const auto& [name, value] : by_role.items()) {
    if (std::ranges::find(record.roles, name) == record.roles.end())
      throw std::invalid_argument(name + " is no role of this record");
  }
}

}  // namespace

std::string Seals::next(std::string_view text) const {
  const std::string all = last_ + std::string(text);
  return fmt::format("{:016x}", XXH3_64bits(all.data(), all.size()));
}

std::string Seals::sealed(const Json& document) {
  std::string text = json_text(document);
  text.pop_back();  // the brace
  last_ = next(text);
  return fmt::format("{}{}{}\"}}", text, seal_begins, last_);
}

bool Seals::fits(std::string_view line) {
  const std::size_t length = seal_begins.size() + seal_length + 2;
  if (line.size() < length) return false;
  const std::string_view text = line.substr(0, line.size() - length);
  const std::string seal = next(text);
  if (line.substr(text.size()) != fmt::format("{}{}\"}}", seal_begins, seal)) return false;
  last_ = seal;
  return true;
}

Json head_document(const MatchRecord& record) {
  Json head = {{"record", "orchard-match"}, {"version", MatchRecord::version},
               {"game", record.game},       {"rules", record.rules},
               {"roles", record.roles},     {"players", record.players},
               {"seats", record.seats},     {"seed", record.seed}};
  if (!record.began.empty()) head["began"] = record.began;
  if (record.start_seconds) head["start_seconds"] = *record.start_seconds;
  if (record.play_seconds) head["play_seconds"] = *record.play_seconds;
  if (!record.sizes.empty()) head["sizes"] = record.sizes;
  if (!record.start.empty()) head["start"] = texts_of(record.start);
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
  if (!record.description.empty()) head["description"] = record.description;
  return head;
}

Json ply_document(const MatchRecord& record, std::uint64_t ply, const std::vector<Term>& joint,
                  const PlyNotes& notes) {
  Json moves;
  for (std::size_t r = 0; r < record.roles.size(); ++r) {
    moves[record.roles[r]] = joint.at(r).to_string();
  }
  Json line = {{"ply", ply}, {"joint", std::move(moves)}};
  if (!notes.seconds.empty()) {
    line["seconds"] = Json::object();
    constexpr double fine = 1e6;
    for (const auto& [role, seconds] : notes.seconds) {
      line["seconds"][role] = std::round(seconds * fine) / fine;
    }
  }
  for (const auto& [role, replaced] : notes.replaced) {
    line["replaced"][role] = {{"why", replaced.why}};
    if (!replaced.said.empty()) line["replaced"][role]["said"] = replaced.said;
  }
  for (const auto& [role, percepts] : notes.percepts) line["percepts"][role] = texts_of(percepts);
  if (notes.position) line["position"] = texts_of(*notes.position);
  return line;
}

Json back_document(std::uint64_t plies) {
  return {{"back", plies}};
}

Json end_document(const RecordedEnd& end) {
  Json goals = Json::object();
  for (const auto& [role, goal] : end.goals) goals[role] = goal;
  return {{"result", std::move(goals)}, {"reason", end.reason}};
}

void read_head(const Json& line, MatchRecord& record) {
  if (!line.is_object() || line.value("record", "") != "orchard-match") {
    throw std::invalid_argument("this is not the head of a match record");
  }
  const int version = line.at("version").get<int>();
  if (version < 1 || version > MatchRecord::version) {
    throw std::invalid_argument("this is a record of another version");
  }
  allow_only(line, std::array<std::string_view, 15>{"record", "version", "game", "rules", "roles",
                                                    "players", "seats", "seed", "began",
                                                    "start_seconds", "play_seconds", "sizes",
                                                    "start", "score", "description"});
  record.game = line.value("game", "");
  record.rules = line.value("rules", "");
  record.roles = line.at("roles").get<std::vector<std::string>>();
  if (record.roles.empty()) throw std::invalid_argument("it names no roles");
  record.players = line.value("players", std::map<std::string, std::string>{});
  record.seats = line.value("seats", std::map<std::string, std::string>{});
  record.seed = line.value("seed", std::uint64_t{1});
  record.began = line.value("began", "");
  if (line.contains("start_seconds")) record.start_seconds = line["start_seconds"].get<double>();
  if (line.contains("play_seconds")) record.play_seconds = line["play_seconds"].get<double>();
  record.sizes = line.value("sizes", std::map<std::string, std::int64_t>{});
  record.description = line.value("description", "");
  if (line.contains("start")) record.start = terms_from(line["start"]);
  const Json score = line.value("score", Json::array());
  for (const Json& entry : score) {
    record.score.push_back(
        {entry.at("wins").get<std::uint64_t>(), entry.at("draws").get<std::uint64_t>(),
         entry.at("losses").get<std::uint64_t>(), entry.value("scored", std::uint64_t{0}),
         entry.value("stuck", std::uint64_t{0}), entry.value("goals", 0.0)});
  }
}

void read_ply(const Json& line, MatchRecord& record) {
  allow_only(line, std::array<std::string_view, 6>{"ply", "joint", "seconds", "replaced",
                                                   "percepts", "position"});
  if (line.at("ply").get<std::uint64_t>() != record.joints.size()) {
    throw std::invalid_argument(fmt::format("ply {} is missing", record.joints.size()));
  }
  const Json joint = line.at("joint");
  check_roles(joint, record);
  Json moves = Json::array();
  for (const std::string& role : record.roles) moves.push_back(joint.at(role));
  PlyNotes notes;
  notes.seconds = line.value("seconds", std::map<std::string, double>{});
  const Json replaced = line.value("replaced", Json::object());
  check_roles(replaced, record);
  for (const auto& [role, fault] : replaced.items()) {
    notes.replaced[role] = {fault.at("why").get<std::string>(), fault.value("said", "")};
  }
  const Json percepts = line.value("percepts", Json::object());
  check_roles(percepts, record);
  for (const auto& [role, seen] : percepts.items()) notes.percepts[role] = terms_from(seen);
  if (line.contains("position")) notes.position = terms_from(line["position"]);
  record.joints.push_back(terms_from(moves));
  record.notes.resize(record.joints.size() - 1);
  record.notes.push_back(std::move(notes));
}

void read_back(const Json& line, MatchRecord& record) {
  allow_only(line, std::array<std::string_view, 1>{"back"});
  const auto plies = line.at("back").get<std::uint64_t>();
  if (plies > record.joints.size()) {
    throw std::invalid_argument(
        fmt::format("it goes back to ply {}, of {}", plies, record.joints.size()));
  }
  record.joints.resize(plies, {});
  record.notes.resize(plies);
}

void read_end(const Json& line, MatchRecord& record) {
  allow_only(line, std::array<std::string_view, 2>{"result", "reason"});
  const Json goals = line.at("result");
  check_roles(goals, record);
  RecordedEnd end;
  end.reason = line.value("reason", "");
  end.goals = goals.get<std::map<std::string, std::int64_t>>();
  record.end = std::move(end);
}

}  // namespace orchard
