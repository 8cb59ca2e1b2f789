// Records of matches, and what many of them have in common.
#include "report/json.hpp"

namespace orchard::report {

Json document_of(const MatchRecord& record) {
  return {{"game", record.game},
          {"rules", record.rules},
          {"roles", record.roles},
          {"players", record.players},
          {"seats", record.seats},
          {"began", record.began},
          {"plies", record.joints.size()},
          {"reason", record.end ? Json(record.end->reason) : Json(nullptr)},
          {"goals", record.end ? Json(record.end->goals) : Json::object()},
          {"replaced", record.replaced()},
          {"cut", record.cut}};
}

Json document_of(const Game& game, const Opening& opening) {
  Json goals = Json::object();
  for (const Role& role : game.roles()) {
    if (role.is_chance() || opening.results.empty()) continue;
    const Tally& tally = opening.results[role.index()];
    goals[role.name()] = {{"wins", tally.wins},
                          {"draws", tally.draws},
                          {"losses", tally.losses},
                          {"mean_goal", tally.mean_goal()}};
  }
  Json next = Json::array();
  for (const Opening& one : opening.next) next.push_back(document_of(game, one));
  return {{"moves", opening.moves},
          {"matches", opening.matches},
          {"results", std::move(goals)},
          {"next", std::move(next)}};
}

}  // namespace orchard::report
