#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "orchard/playouts.hpp"

namespace orchard::cli {
namespace {

void print_text(const Game& game, const Picture& picture, const WalkStep& step,
                const TextStyle& style, const std::optional<View>& view, Insight insight,
                const std::optional<picture::LastStep>& before) {
  if (step.ply == 0) print("game {}\n\n", step.game);
  const std::uint64_t last = step.ply == 0 ? 0 : step.ply - 1;
  print("{}",
        view ? view_page(game, picture, *view, insight, step.position, step.ply, style, false, last)
             : page(game, picture, step.position, step.ply, style, false, before));
  for (const Role& role : game.roles()) {
    if (view || step.sees.empty() || step.sees[role.index()].empty()) continue;
    print("   {} sees", role.name());
    for (const Term& percept : step.sees[role.index()]) print(" {}", percept.to_string());
    print("\n");
  }
  if (step.joint) {
    for (const Role& role : game.to_move(step.position)) {
      if (view && game.has_hidden_information() && role != view->role()) continue;
      print("   {} plays {}\n", role.name(), (*step.joint)[role].to_string());
    }
  }
  if (step.cut) print("   broken off by --plies\n");
  print("\n");
}

}  // namespace

Status walk(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  const std::optional<Picture> picture = call.json() ? std::nullopt : picture_of(call, game);
  if (!call.json() && !picture) return Status::wrong_call;
  TextStyle style = call.style();
  style.widths = std::make_shared<std::vector<std::size_t>>();
  if (!check_view(call, game)) return Status::wrong_call;
  const auto role = viewing_role(call, game);
  const std::uint64_t games = call.number("games").value_or(1);
  std::optional<View> fresh;
  for (std::uint64_t number = 0; number < games; ++number) {
    WalkOptions options;
    options.game = number;
    options.seed = *call.number("seed");
    options.plies = *call.number("plies");
    options.from = start;
    std::optional<View> view;
    if (role) {
      if (!fresh) fresh = fresh_view(game, *role, start);
      view = fresh;
    }
    std::optional<picture::LastStep> before;
    const auto walked = random_walk(game, options, [&](const WalkStep& step) {
      if (call.json()) {
        Json line = document_of(game, step);
        if (view) narrow_to_view(line, *view, call.flag("deduced"));
        print_json(line);
      } else {
        print_text(game, *picture, step, style, view, insight_of(call), before);
      }
      if (step.joint) before = picture::LastStep{step.position, *step.joint};
      if (view && step.joint) (void)view->advance(step.position, *step.joint);
      return !call.stop.stop_requested();
    });
    if (!walked) return report(call, walked.diagnostics());
    if (call.stop.stop_requested()) return Status::unfinished;
  }
  return Status::done;
}

}  // namespace orchard::cli
