// Games whose rules came over the wire: read once for all matches of the same rules, and their
// circuits made beside the play.
//
// Rules are treated as hostile: reading them and making circuits have bounds of time and memory,
// and directives, which could read files, were refused before. Keeps the games of matches that go
// on, and a few that were played last. Any thread may call.
#pragma once

#include <atomic>
#include <condition_variable>
#include <deque>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <thread>

#include "orchard/game.hpp"

namespace orchard::protocol {

// A game, and whether what opponents of the ladder need of it is there.
struct KnownGame {
  explicit KnownGame(Game of) : game(std::move(of)) {}
  Game game;
  std::atomic<bool> ready = false;
};

class KnownGames {
 public:
  explicit KnownGames(LoadOptions limits);
  ~KnownGames();
  KnownGames(const KnownGames&) = delete;

  // The game of these rules. Fails as Game::from_text does; leaves by `Interrupted` where whoever
  // asks is interrupted.
  Result<std::shared_ptr<KnownGame>> game_of(const std::string& rules);
  // Waits until a game is ready, or so long; whether it is.
  bool wait(const KnownGame& game, std::chrono::steady_clock::time_point until);

 private:
  void make_ready(const std::stop_token& stop);

  static constexpr std::size_t most_kept = 4;  // beside those in use

  std::stop_source over_;  // ends what is being made
  const LoadOptions limits_;
  std::mutex mutex_;  // guards what follows
  std::condition_variable_any changed_;
  std::map<std::string, std::weak_ptr<KnownGame>> games_;  // by rules
  std::deque<std::shared_ptr<KnownGame>> recent_;
  std::deque<std::weak_ptr<KnownGame>> to_make_ready_;

  std::jthread maker_;  // last, so that it ends before the rest goes
};

}  // namespace orchard::protocol
