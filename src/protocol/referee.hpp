// The host of a match: asks whoever sits at each seat, by the open match protocol or in this
// process, within the clocks; makes random moves for who is late, illegal or gone; and writes down
// what happens.
//
// A player that has gone, or has forgotten the match, is asked to begin again: with the same rules
// at the present position, which every player understands, or, where something is hidden from it,
// with all messages since the start. One thread at a time; matches of other referees go on beside.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "orchard/record.hpp"
#include "orchard/view.hpp"
#include "protocol/remote_player.hpp"

namespace orchard::protocol {

// Who sits at a seat.
struct SeatedPlayer {
  std::string name;
  std::string who;  // an address, or an opponent as of make_opponent
  // Of a player in this process; empty for one at an address.
  std::function<std::unique_ptr<Opponent>(std::uint64_t seed)> make{};
};

struct RefereeOptions {
  std::string match = "match";  // its ID
  std::string rules;            // as players are sent them: the game's, in the strict prefix syntax
  double start_seconds = 10;
  double play_seconds = 10;
  std::uint64_t plies = 10'000;  // a longer match is broken off
  std::uint64_t seed = 1;
  std::string record;                           // the file to write; none if empty
  bool record_positions = false;                // after each ply
  bool record_rules = false;                    // in the head
  std::map<std::string, std::int64_t> sizes{};  // that the game was loaded with
  std::optional<MatchRecord> resumed{};         // a match to go on with
  std::stop_token stop{};
  // Told after each ply, and at the start.
  std::function<void(const Match&)> watch{};
};

// How a match came out.
struct HostedMatch {
  MatchRecord record;
  Outcome outcome;
  bool finished = false;                          // by the rules
  bool interrupted = false;                       // by the stop token
  std::map<std::string, std::uint64_t> replaced;  // role → moves made in its place
  double slowest = 0;                             // seconds of the slowest reply in time
};

// Plays a match. `players` by role; chance has none. Fails where the record cannot be written, or
// the resumed one is not of this game.
Result<HostedMatch> host_match(const Game& game, const std::map<std::string, SeatedPlayer>& players,
                               const RefereeOptions& options, Watchdogs& watchdogs);

// The rules as messages carry them: without directives and comments. Fails as reading them does.
Result<std::string> rules_on_the_wire(const std::string& path,
                                      const std::map<std::string, std::int64_t>& sizes);

}  // namespace orchard::protocol
