#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/effects.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "orchard/playouts.hpp"
#include "orchard/png.hpp"

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
  const bool all = call.flag("strip") || call.flag("animate");
  std::optional<View> view;
  if (viewer) {
    const Position& start = line.positions.front();
    view = fresh_view(game, *viewer, start);
  }
  for (std::size_t ply = 0; ply < line.positions.size(); ++ply) {
    const bool last = ply + 1 == line.positions.size();
    const Position& position = line.positions[ply];
    if (all || last) {
      const auto before = ply == 0 ? std::nullopt : std::optional(line.joints[ply - 1]);
      auto frame = view ? frame_of(game, picture, *view, insight_of(call), position, last)
                        : std::optional(frame_of(game, position, before, last && !all));
      if (frame) {
        frame->title = heading(game, position, ply);
        frame->title.pop_back();
        frames.push_back(std::move(*frame));
      }
    }
    if (view && !last) (void)view->advance(position, line.joints[ply]);
  }
  return frames;
}

Diagnostics write_pictures(const Call& call, const Picture& picture,
                           const std::vector<PictureFrame>& frames) {
  SvgStyle style;
  const std::string light = *call.text("light");
  style.light = light == "dark"    ? SvgStyle::Light::dark
                : light == "light" ? SvgStyle::Light::light
                                   : SvgStyle::Light::both;
  style.turned = call.flag("turn");
  Diagnostics faults;
  if (const auto file = call.text("svg")) {
    faults = write_whole_file(*file, call.flag("animate") ? picture.animated_svg(frames, style)
                                                          : picture.svg(frames, style));
  }
  if (const auto file = call.text("png"); file && faults.empty()) {
    if (style.light == SvgStyle::Light::both) style.light = SvgStyle::Light::light;
    const auto png = to_png(picture.svg(frames, style), 1.0);
    faults = png ? write_whole_file(*file, *png) : png.diagnostics();
  }
  return faults;
}

// What only makes sense together.
Diagnostics check_pictures(const Call& call) {
  Diagnostics faults;
  const bool written = call.text("svg") || call.text("png");
  if (call.flag("animate") && !call.text("svg")) {
    faults.add(plain_error("wrong-call", "--animate needs --svg", "add --svg FILE"));
  } else if (call.flag("strip") && !written) {
    faults.add(plain_error("wrong-call", "--strip needs --svg or --png", "add --png FILE"));
  } else if (call.flag("drawn") && call.text("view")) {
    faults.add(plain_error("wrong-call",
                           "--drawn writes the whole position, and --view hides some of it",
                           "leave one of them out"));
  }
  return faults;
}

}  // namespace

Status show(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (!check_view(call, game)) return Status::wrong_call;
  if (const Diagnostics faults = check_pictures(call); !faults.empty()) {
    return report(call, faults);
  }
  const auto line = line_of_call(call, game, start);
  if (!line) return Status::wrong_call;
  const Position& position = line->last();
  const std::uint64_t ply = line->joints.size();
  const bool pictures = call.text("svg") || call.text("png");
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
      const TextStyle style = call.style();
      const auto last = ply == 0 ? std::nullopt : std::optional(line->joints.back());
      if (call.flag("drawn")) {
        print("{}", picture->drawn(position));
        return after_side_files(Status::done, unwritten);
      }
      print("{}   {}", game.name(),
            view ? view_page(game, *picture, *view, insight_of(call), position, ply, style, true, 0)
                 : page(game, *picture, position, ply, style, true, last));
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
