// `orchard play`: sets a sitting up.
#include <fmt/core.h>

#include <algorithm>

#include "cli/call.hpp"
#include "cli/joined_seat.hpp"
#include "cli/line_pictures.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/sitting.hpp"

namespace orchard::cli {
namespace {

// Every position of the match, under its heading.
std::vector<PictureFrame> frames_of(const Game& game, const Match& match) {
  const Line line{match.positions(), match.joints()};
  std::vector<PictureFrame> frames;
  for (std::size_t ply = 0; ply < line.positions.size(); ++ply) {
    frames.push_back(frame_of(game, line.positions[ply], picture::step_to(line, ply), false));
    frames.back().title = heading(game, line.positions[ply], ply);
    frames.back().title.pop_back();
  }
  return frames;
}

// Whether somebody at the table looks ahead.
bool looks_ahead(const Call& call) {
  return std::ranges::any_of(call.texts("seat"), [](const std::string& seat) {
    return !seat.ends_with("=person") && !seat.ends_with("=random");
  });
}

}  // namespace

Status play(const Call& call) {
  if (const auto address = call.text("join")) return play_joined(call, *address);
  if (call.game.empty()) {
    return report(call, plain_error("wrong-call", "GAME is required",
                                    "name a description; only --join can do without one"));
  }
  const auto opened = looks_ahead(call) ? open_game_to_explore(call) : open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  MatchRecord record;
  std::optional<Match> match(std::in_place, game, start);
  if (const auto file = call.text("resume")) {
    auto read = read_record(*file, {.cut_line = true});
    if (!read) return report(call, read.diagnostics());
    record = *read;
    auto replayed = replay(game, record);
    if (!replayed) return report(call, replayed.diagnostics());
    match = *replayed;
    if (record.cut) {
      remark("{}: its last line was cut off; it goes on from ply {}\n", *file, match->ply());
    }
    if (record.rules != game.digest()) {
      remark("{}: the rules have changed since it was saved; every move is still legal\n", *file);
    }
  }
  if (const Diagnostics faults = check_pictures(call); !faults.empty()) return report(call, faults);
  auto picture = picture_of(call, game);
  if (!picture) return Status::wrong_call;
  Sitting sitting(call, game, *picture, std::move(*match));
  const Diagnostics faults = sitting.take_seats(record);
  if (!faults.empty()) return report(call, faults);
  const Status status = sitting.run();
  if (!wants_pictures(call)) return status;
  return after_side_files(status, write_pictures(call, *picture, frames_of(game, sitting.match())));
}

}  // namespace orchard::cli
