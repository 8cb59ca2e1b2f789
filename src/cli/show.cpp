#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/page.hpp"
#include "orchard/playouts.hpp"

namespace orchard::cli {
namespace {

// What the role of --view knows after the line; none without --view.
std::optional<View> view_of_line(const Call& call, const Game& game, const Line& line) {
  const auto role = viewing_role(call, game);
  if (!role) return std::nullopt;
  View view(game, *role, line.positions.front());
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    (void)view.advance(line.positions[ply], line.joints[ply]);
  }
  return view;
}

}  // namespace

Status show(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (!check_view(call, game)) return Status::wrong_call;
  const auto line = line_of_call(call, game, start);
  if (!line) return Status::wrong_call;
  const Position& position = line->last();
  const std::uint64_t ply = line->joints.size();
  const auto view = view_of_line(call, game, *line);
  if (!call.json()) {
    const Picture picture(game);
    const TextStyle style = call.style();
    fmt::print("{}   {}", game.name(),
               view ? view_page(game, picture, *view, position, ply, style, true, 0)
                    : page(game, picture, position, ply, style, true));
    return Status::done;
  }
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
  if (view) narrow_to_view(document, *view);
  print_json(document);
  return Status::done;
}

}  // namespace orchard::cli
