// Many matches under one host, several at once: who did better, how often, and what went wrong.
//
// Players sit down in the order of the roles and move on by a seat after each match, unless the
// seats are fixed; with more players than seats each choice of them meets. Matches of a series have
// seeds of their own, so what chance does is the same again for the same seed.
#pragma once

#include <mutex>

#include "orchard/ratings.hpp"
#include "protocol/referee.hpp"

namespace orchard::protocol {

struct HostedSeriesOptions {
  std::vector<SeatedPlayer> players;  // at least one for each role but chance
  bool fixed_seats = false;
  std::uint64_t games = 1;  // for each choice of players
  unsigned at_once = 1;
  std::string folder;      // for a record of each match; none if empty
  RefereeOptions referee;  // of each match; `match` and `seed` are made from these
  // Told when a match has ended, one at a time: its number from 1, and who sat where.
  std::function<void(std::uint64_t number, const HostedMatch&)> ended{};
  // Told after each ply, from any thread.
  std::function<void(std::uint64_t number, const Match&,
                     const std::map<std::string, std::string>& names)>
      watch{};
};

struct HostedSeriesResult {
  std::vector<Tally> by_player;
  std::vector<std::map<std::string, std::uint64_t>> replaced;  // by player: why → moves
  std::vector<std::vector<double>> better;  // how often one did better than another
  std::vector<Rating> ratings;              // where more than one plays
  std::uint64_t games = 0;
  std::uint64_t unfinished = 0;  // broken off at the most plies
  std::uint64_t plies = 0;       // of all
  double slowest = 0;            // seconds of the slowest reply in time
  bool interrupted = false;      // matches that were cut short are not counted
};

// Fails where a record cannot be written, with `wrong-players` for too few, and with `wrong-call`
// for what is no address.
Result<HostedSeriesResult> host_series(const Game& game, const HostedSeriesOptions& options);

}  // namespace orchard::protocol
