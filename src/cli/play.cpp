// `orchard play`: sets a sitting up.
#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/output.hpp"
#include "cli/sitting.hpp"

namespace orchard::cli {

Status play(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  MatchRecord record;
  std::optional<Match> match(std::in_place, game, start);
  if (const auto file = call.text("resume")) {
    auto read = read_record(*file);
    if (!read) return report(call, read.diagnostics());
    record = *read;
    auto replayed = replay(game, record);
    if (!replayed) return report(call, replayed.diagnostics());
    match = *replayed;
    if (record.rules != game.digest()) {
      remark("{}: the rules have changed since it was saved; every move is still legal\n", *file);
    }
  }
  auto picture = picture_of(call, game);
  if (!picture) return Status::wrong_call;
  Sitting sitting(call, game, std::move(*picture), std::move(*match));
  const Diagnostics faults = sitting.take_seats(record);
  if (!faults.empty()) return report(call, faults);
  return sitting.run();
}

}  // namespace orchard::cli
