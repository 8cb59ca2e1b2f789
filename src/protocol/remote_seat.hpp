// A role of a match that is played by a player somewhere else.
//
// Knows what the player has been told, tells it what is new, and begins anew with one that has
// forgotten. One thread at a time.
#pragma once

#include <optional>
#include <stop_token>
#include <string>

#include "orchard/match.hpp"
#include "protocol/remote_player.hpp"

namespace orchard::protocol {

class RemoteSeat {
 public:
  struct Terms {
    std::string match;
    std::string rules;
    double start_seconds = 10;
    double play_seconds = 10;
    std::stop_token stop{};  // nothing is tried again once it asks for an end
  };

  RemoteSeat(RemotePlayer player, Role role, Terms terms);

  struct Said {
    std::optional<Term> move;  // a term, legal or not
    std::string why;           // there is none: "late", "unreadable", "refused", "unreachable"
    std::string text;          // what was said instead, if anything
    double seconds = 0;
  };

  // Has the player begin, at whatever point the match is. Whether it is ready within the time.
  bool begin(const Match& match, double seconds);
  // Asks for the move, within the clock.
  Said ask(const Match& match);
  // The match has ended, or is broken off: a short word, whether it is heard or not. Breaking off
  // takes no more than a twentieth of a second.
  void end(const Match& match);
  void abort();

 private:
  bool tells_percepts(const Match& match) const { return match.game().has_hidden_information(); }
  std::string play(const Match& match) const;
  std::string told(const Match& match, std::uint64_t ply, bool stop) const;
  bool begin_once(const Match& match, double seconds);

  RemotePlayer player_;
  Role role_;
  Terms terms_;
  bool begun_ = false;
  std::string id_;           // of the match as this player knows it
  std::uint64_t first_ = 0;  // the ply at which that match begins
  int times_ = 0;            // that it was begun
};

// The rules with another start.
std::string rules_from(const std::string& rules, const Position& start);

}  // namespace orchard::protocol
