#include "desk/works.hpp"

#include "game/reached_circuit.hpp"
#include "orchard/circuit.hpp"
#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "orchard/solve.hpp"
#include "report/json.hpp"

namespace orchard::desk {

namespace {

// Where the rules have no circuit, one of what can be reached, or of the first plies.
Game to_explore(const Game& game, const Budget& budget) {
  if (has_circuit(game)) return game;
  const auto reached =
      with_reached_circuit(game, budget_of_reaching(budget), {}, CircuitReach::first_plies);
  return reached ? *reached : game;
}

Json checked(const Reading& reading, const std::string& claims, Budget budget) {
  const Game game = to_explore(*reading.game, budget);
  ReviewOptions options;
  options.budget = std::move(budget);
  if (!claims.empty()) options.claims_text = claims;
  const auto review = review_rules(game, options);
  if (!review) return {{"findings", findings_json(review.diagnostics())}};
  // An answer about nothing is none.
  if (!review->not_asked.empty()) return {{"findings", findings_json(review->not_asked)}};
  Json document = report::document_of(game, *review);
  if (const auto plies = circuit_plies(game)) document["first_plies"] = *plies;
  return document;
}

Json sought(const Reading& reading, const std::string& formula, Budget budget) {
  const Game game = to_explore(*reading.game, budget);
  ReviewOptions options;
  options.budget = std::move(budget);
  const auto found = find_position(game, formula, options);
  if (!found) return error(found.diagnostics().items().front().message);
  return report::document_of(game, *found);
}

Json random_games(const Reading& reading, const Position& from, Budget budget) {
  PlayoutOptions options;
  options.from = from;
  options.budget = std::move(budget);
  const auto statistics = run_playouts(*reading.game, options);
  if (!statistics) return error(statistics.diagnostics().items().front().message);
  return report::document_of(*reading.game, *statistics);
}

// What each legal move of whoever chooses is worth under best play.
Json values_of_moves(const Reading& reading, const Position& position, Budget budget) {
  const Game& game = *reading.game;
  SolveOptions options;
  options.budget = std::move(budget);
  options.from = position;
  options.way = SolveOptions::Way::all;
  const auto solution = solve(game, options);
  if (!solution) return error(solution.diagnostics().items().front().message);
  if (!solution->complete()) return {{"unsolved", solution->reason()}};
  Json values = Json::array();
  for (const Role& role : game.to_move(position)) {
    for (const Move& move : game.legal(position, role)) {
      const auto joint = game.joint_move(position, role, move);
      if (!joint) return {{"unsolved", "roles choose at once here"}};
      const auto next = game.next(position, *joint);
      const auto value = next ? solution->value(*next, role) : std::nullopt;
      if (value) {
        values.push_back({{"role", role.name()}, {"move", move.to_string()}, {"value", *value}});
      }
    }
  }
  std::string remark = solution->remark();
  if (game.has_hidden_information()) {
    remark += remark.empty() ? "" : " ";
    remark += "They are worked out as if every role saw everything.";
  }
  return {{"values", values}, {"remark", remark}};
}

}  // namespace

Background::Work work_of(const Asked& here, const Json& request) {
  const std::string what = text_of(request, "what");
  const auto& reading = here.reading;
  const Position& position = here.position();
  if (what == "check") {
    return [reading, claims = text_of(request, "claims")](Budget budget) {
      return checked(*reading, claims, std::move(budget));
    };
  }
  if (what == "find") {
    return [reading, formula = text_of(request, "formula")](Budget budget) {
      return sought(*reading, formula, std::move(budget));
    };
  }
  if (what == "games") {
    return [reading, position](Budget budget) {
      return random_games(*reading, position, std::move(budget));
    };
  }
  if (what == "values") {
    return [reading, position](Budget budget) {
      return values_of_moves(*reading, position, std::move(budget));
    };
  }
  return {};
}

}  // namespace orchard::desk
