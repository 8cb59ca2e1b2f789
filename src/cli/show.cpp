#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/effects.hpp"
#include "cli/json.hpp"
#include "cli/line_pictures.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "orchard/playouts.hpp"

namespace orchard::cli {
namespace {

// What the role of --view knows after the line; none without --view.
std::optional<View> view_of_line(const Call& call, const Game& game, const Line& line) {
  const auto role = viewing_role(call, game);
  if (!role) return std::nullopt;
  const Position& start = line.positions.front();
  View view = fresh_view(game, *role, start);
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    (void)view.advance(line.positions[ply], line.joints[ply]);
  }
  return view;
}

void print_effects(const Game& game, const Position& position) {
  if (game.terminal(position)) return;
  print("\neffects:\n");
  for (const NumberedMove& move : numbered_moves(game, position, game.to_move(position))) {
    print("   {} {} {}: {}\n", move.number, move.role.name(), move.move.to_string(),
          effect_of(game, position, move));
  }
}

// The frames of the pictures: the last position of the line, or all of them.
std::vector<PictureFrame> frames_of(const Call& call, const Game& game, const Picture& picture,
                                    const Line& line, const std::optional<Role>& viewer) {
  std::vector<PictureFrame> frames;
  const bool all = wants_every_position(call);
  std::optional<View> view;
  if (viewer) {
    const Position& start = line.positions.front();
    view = fresh_view(game, *viewer, start);
  }
  for (std::size_t ply = 0; ply < line.positions.size(); ++ply) {
    const bool last = ply + 1 == line.positions.size();
    const Position& position = line.positions[ply];
    if (all || last) {
      auto frame =
          view ? seen_frame(game, picture, *view, insight_of(call), position, last)
               : std::optional(frame_of(game, position, picture::step_to(line, ply), last && !all));
      if (frame) {
        frame->title = heading(game, position, ply);
        frame->title.pop_back();
        if (view && !game.terminal(position)) {
          frame->captions = view_captions(*view, *frame, insight_of(call));
        }
        frames.push_back(std::move(*frame));
      }
    }
    if (view && !last) (void)view->advance(position, line.joints[ply]);
  }
  return frames;
}

}  // namespace

Status show(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (!check_view(call, game)) return Status::wrong_call;
  Diagnostics wrong = check_pictures(call);
  if (call.flag("drawn") && call.text("view")) {
    wrong.add(plain_error("wrong-call",
                          "--drawn writes the whole position, and --view hides some of it",
                          "leave one of them out"));
  }
  if (!wrong.empty()) return report(call, wrong);
  const auto line = line_of_call(call, game, start);
  if (!line) return Status::wrong_call;
  const Position& position = line->last();
  const std::uint64_t ply = line->joints.size();
  const bool pictures = wants_pictures(call);
  const auto picture = picture_of(call, game);
  if (!picture) return Status::wrong_call;
  const auto view = view_of_line(call, game, *line);
  Diagnostics unwritten;
  if (pictures || !call.json()) {
    if (pictures) {
      const auto frames = frames_of(call, game, *picture, *line, viewing_role(call, game));
      unwritten = write_pictures(call, *picture, frames);
    }
    if (!call.json()) {
      const PageStyle style(call);
      if (call.flag("drawn")) {
        print("{}", picture->drawn(position));
        return after_side_files(Status::done, unwritten);
      }
      print("{}   {}", game.name(),
            view ? view_page(game, *picture, *view, insight_of(call), position, ply, style, true, 0)
                 : page(game, *picture, position, ply, style, true, picture::last_step(*line)));
      if (call.flag("effects")) print_effects(game, position);
      return after_side_files(Status::done, unwritten);
    }
  }
  Json document = document_of(game, position, ply);
  if (view) narrow_to_view(document, *view, call.flag("deduced"));
  print_json(document);
  return after_side_files(Status::done, unwritten);
}

}  // namespace orchard::cli
