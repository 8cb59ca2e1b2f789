// A player of the open match protocol: any number of matches at once, each message answered within
// its clock.
//
//   Player player(options);
//   Reply reply = player.answer("(start m1 east (…) 10 5)");   // carries nothing over the wire
//
// What is answered never waits for whoever thinks: at the end of the clock, less a margin, the best
// move so far is the answer, or, where nothing is known yet, a random one. As long as the circuit
// of a game is not there, its moves are chosen by the reference evaluator. A message that makes no
// sense harms no match. The same message again gets the same answer. Any thread may call `answer`.
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <string>

#include "orchard/game.hpp"
#include "orchard/opponent.hpp"
#include "protocol/message.hpp"

namespace orchard::protocol {

struct Reply {
  int status = 200;  // of HTTP
  std::string body;
};

struct PlayerOptions {
  std::string name = "orchard";
  // Makes whoever chooses, for a role of a game. Called for each match.
  std::function<Result<std::unique_ptr<Opponent>>(const Game&, const Role&, std::uint64_t seed)>
      make;
  std::uint64_t seed = 1;
  unsigned threads = 2;         // that think
  std::size_t matches = 64;     // at once
  double margin_seconds = 0.2;  // before the end of a clock; of short clocks a quarter
  double idle_seconds = 600;    // beyond its clocks, after which a match is given up
  std::uint64_t match_bytes = std::uint64_t{64} << 20;  // what a match may keep for its next moves
  bool think_ahead = false;                             // while the others choose
  MessageLimits messages{};
  LoadOptions rules{};
  // Told what happens, a line each; from any thread. `wrong`: something was refused.
  std::function<void(const std::string& what, bool wrong)> log{};
};

// What a player has done so far.
struct PlayerCounts {
  std::uint64_t begun = 0;       // matches
  std::uint64_t ended = 0;       // by stop or abort
  std::uint64_t given_up = 0;    // after a long silence
  std::uint64_t moves = 0;       // answered
  std::uint64_t unfinished = 0;  // of them, random because nothing was known in time
  std::uint64_t refused = 0;     // messages
};

class Player {
 public:
  explicit Player(PlayerOptions options);
  ~Player();
  Player(const Player&) = delete;

  Reply answer(const std::string& message);
  PlayerCounts counts() const;

 private:
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::protocol
