#include "report/json.hpp"

namespace orchard::report {

Json document_of(const Game& game, const Position& position, std::uint64_t ply) {
  Json roles = Json::array();
  for (const Role& role : game.roles()) roles.push_back(role.name());
  Json to_move = Json::array();
  for (const Role& role : game.to_move(position)) to_move.push_back(role.name());
  Json document = {{"roles", roles},
                   {"ply", ply},
                   {"position", fluents_json(position)},
                   {"to_move", to_move},
                   {"legal", legal_json(game, position)},
                   {"terminal", game.terminal(position)},
                   {"goals", goals_json(game, position)}};
  return document;
}

Json document_of(const Game& game, const WalkStep& step) {
  Json line = {{"game", step.game},
               {"ply", step.ply},
               {"position", fluents_json(step.position)},
               {"legal", legal_json(game, step.position)},
               {"terminal", game.terminal(step.position)},
               {"goals", goals_json(game, step.position)}};
  if (step.joint) {
    Json& joint = line["joint"] = Json::object();
    for (const Role& role : game.roles()) joint[role.name()] = (*step.joint)[role].to_string();
  }
  if (!step.sees.empty()) {
    Json& sees = line["sees"] = Json::object();
    for (const Role& role : game.roles()) {
      Json& list = sees[role.name()] = Json::array();
      for (const Term& percept : step.sees[role.index()]) list.push_back(percept.to_string());
    }
  }
  if (step.cut) line["stopped"] = "plies";
  if (!step.stuck.empty()) {
    Json& stuck = line["stuck"] = Json::array();
    for (const Role& role : step.stuck) stuck.push_back(role.name());
  }
  return line;
}

namespace {

std::string_view name_of(Reason::Kind kind) {
  using Kind = Reason::Kind;
  switch (kind) {
    case Kind::rule:
      return "rule";
    case Kind::stated:
      return "stated";
    case Kind::always:
      return "always";
    case Kind::fluent:
      return "fluent";
    case Kind::move:
      return "move";
    case Kind::comparison:
      return "comparison";
    case Kind::absent:
      return "absent";
    case Kind::repeated:
      return "repeated";
    case Kind::attempts:
      return "attempts";
    case Kind::attempt:
      return "attempt";
    case Kind::no_rule:
      return "no-rule";
    case Kind::since:
      return "since";
    case Kind::open:
      return "open";
  }
  return "";
}

}  // namespace

// The reasons as a flat list: `conditions` are numbers of others, so that depth costs nothing.
Json document_of(const Question& question, const Explanation& explanation) {
  Json reasons = Json::array();
  for (const Reason& reason : explanation.reasons) {
    Json entry = {
        {"kind", name_of(reason.kind)}, {"literal", reason.literal()}, {"holds", reason.holds}};
    if (reason.place.line > 0) {
      entry["file"] = reason.place.file;
      entry["line"] = reason.place.line;
      entry["column"] = reason.place.column;
    }
    if (!reason.bindings.empty()) {
      Json bindings = Json::object();
      for (const auto& [name, value] : reason.bindings) bindings[name] = value.to_string();
      entry["bindings"] = bindings;
    }
    if (!reason.conditions.empty()) entry["conditions"] = reason.conditions;
    if (reason.left_out > 0) entry["left_out"] = reason.left_out;
    if (reason.kind == Reason::Kind::since) entry["ply"] = reason.ply;
    if (!reason.joint.empty()) entry["joint"] = reason.joint;
    reasons.push_back(std::move(entry));
  }
  Reason asked;
  asked.atom = question.atom;
  asked.negated = question.negated;
  return {{"question", asked.literal()}, {"holds", explanation.holds}, {"reasons", reasons}};
}

}  // namespace orchard::report
