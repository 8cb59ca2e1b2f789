#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/page.hpp"
#include "orchard/playouts.hpp"

namespace orchard::cli {
namespace {

struct Shown {
  Position position;
  std::uint64_t ply = 0;
  std::optional<View> view;  // with --view
};

// The position after --after random plies, or where the game went on no more.
Result<Shown> position_to_show(const Call& call, const Game& game, const Position& start) {
  const std::uint64_t plies = *call.number("after");
  Shown shown{start, 0, {}};
  if (const auto role = viewing_role(call, game)) shown.view.emplace(game, *role, start);
  if (plies == 0) return shown;
  WalkOptions options;
  options.seed = *call.number("seed");
  options.plies = plies;
  options.from = start;
  const auto walked = random_walk(game, options, [&](const WalkStep& step) {
    shown.position = step.position;
    shown.ply = step.ply;
    if (shown.view && step.joint) (void)shown.view->advance(step.position, *step.joint);
    return true;
  });
  if (!walked) return walked.diagnostics();
  return shown;
}

}  // namespace

Status show(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (!check_view(call, game)) return Status::wrong_call;
  const auto shown = position_to_show(call, game, start);
  if (!shown) return report(call, shown.diagnostics());
  const Position& position = shown->position;
  if (!call.json()) {
    const Picture picture(game);
    const TextStyle style = call.style();
    fmt::print("{}   {}", game.name(),
               shown->view
                   ? view_page(game, picture, *shown->view, position, shown->ply, style, true, 0)
                   : page(game, picture, position, shown->ply, style, true));
    return Status::done;
  }
  Json roles = Json::array();
  for (const Role& role : game.roles()) roles.push_back(role.name());
  Json to_move = Json::array();
  for (const Role& role : game.to_move(position)) to_move.push_back(role.name());
  Json document = {{"roles", roles},
                   {"ply", shown->ply},
                   {"position", fluents_json(position)},
                   {"to_move", to_move},
                   {"legal", legal_json(game, position)},
                   {"terminal", game.terminal(position)},
                   {"goals", goals_json(game, position)}};
  if (shown->view) narrow_to_view(document, *shown->view);
  print_json(document);
  return Status::done;
}

}  // namespace orchard::cli
