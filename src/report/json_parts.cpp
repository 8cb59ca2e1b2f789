#include "report/json.hpp"

namespace orchard::report {

std::string text_of(const Json& document) {
  return json_text(document);
}

Json document_of(const Diagnostics& diagnostics) {
  Json list = Json::array();
  for (const Diagnostic& item : diagnostics) {
    Json entry = {{"code", item.code},           {"severity", name_of(item.severity)},
                  {"file", item.place.file},     {"line", item.place.line},
                  {"column", item.place.column}, {"message", item.message}};
    if (!item.remedy.empty()) entry["remedy"] = item.remedy;
    list.push_back(std::move(entry));
  }
  return list;
}

Json line_json(const Game& game, const Line& line) {
  Json result = Json::array();
  for (const JointMove& joint : line.joints) {
    Json& ply = result.emplace_back(Json::object());
    for (const Role& role : game.roles()) ply[role.name()] = joint[role].to_string();
  }
  return result;
}

Json fluents_json(const Position& position) {
  Json list = Json::array();
  for (const Term& fluent : position.fluents()) list.push_back(fluent.to_string());
  return list;
}

Json legal_json(const Game& game, const Position& position) {
  Json legal = Json::object();
  for (const Role& role : game.roles()) {
    Json& list = legal[role.name()] = Json::array();
    for (const Move& move : game.legal(position, role)) list.push_back(move.to_string());
  }
  return legal;
}

Json goals_json(const Game& game, const std::vector<std::vector<Term>>& values) {
  Json goals = Json::object();
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    Json list = Json::array();
    for (const Term& value : values[role.index()]) {
      if (const auto number = value.number()) {
        list.push_back(*number);
      } else {
        list.push_back(value.to_string());
      }
    }
    if (list.size() == 1) goals[role.name()] = list.front();
    if (list.size() > 1) goals[role.name()] = std::move(list);
  }
  return goals;
}

Json goals_json(const Game& game, const Position& position) {
  std::vector<std::vector<Term>> values;
  for (const Role& role : game.roles()) values.push_back(game.goals(position, role));
  return goals_json(game, values);
}

void narrow_to_view(Json& document, const View& view, bool deduced) {
  const std::string& role = view.role().name();
  Json& seen = document["view"] = {{"role", role}, {"deduced", deduced}};
  if (deduced) {
    seen["exact"] = view.exact();
    seen["positions"] = view.positions();
  } else {
    seen["exact"] = view.tells();
  }
  if (document["terminal"]) return;
  const auto list = [](const std::vector<Term>& fluents) {
    Json texts = Json::array();
    for (const Term& fluent : fluents) texts.push_back(fluent.to_string());
    return texts;
  };
  document["position"] = list(deduced ? view.known() : view.told());
  seen["unsure"] = list(deduced ? view.possible() : view.untold());
  for (const char* part : {"legal", "joint", "sees"}) {
    if (!document.contains(part)) continue;
    const Json own = document[part][role];
    document[part] = {{role, own}};
  }
  document["goals"] = Json::object();
}

}  // namespace orchard::report
