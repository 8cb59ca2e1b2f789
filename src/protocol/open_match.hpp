// What a player keeps of a match that is being played: where it stands, who chooses, and what is
// being thought about.
#pragma once

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <semaphore>
#include <stop_token>
#include <string>

#include "opponents/evaluator_opponent.hpp"
#include "orchard/random.hpp"
#include "protocol/known_games.hpp"
#include "protocol/role_in_match.hpp"

namespace orchard::protocol {

// A choice that somebody thinks about. The handler waits for it, a thinker fulfils it.
class Thought {
 public:
  explicit Thought(Choice choice) : choice_(std::move(choice)) {}

  const Choice& choice() const { return choice_; }
  std::stop_token stop() const { return stop_.get_token(); }
  void give_up() { stop_.request_stop(); }

  void fulfil(const Move& move) {
    const std::lock_guard lock(mutex_);
    if (!move_) move_ = move;
    made_.notify_all();
  }
  // None if there is none at that time, or the match was given up.
  std::optional<Move> wait(std::chrono::steady_clock::time_point until) {
    std::unique_lock lock(mutex_);
    made_.wait_until(lock, stop_.get_token(), until, [&] { return move_.has_value(); });
    return move_;
  }

 private:
  const Choice choice_;
  std::stop_source stop_;
  std::mutex mutex_;  // guards the move
  std::condition_variable_any made_;
  std::optional<Move> move_;
};

// A match that is being played.
struct OpenMatch {
  OpenMatch(const Message& message, std::shared_ptr<KnownGame> of, const Role& role,
            std::unique_ptr<Opponent> who, std::uint64_t seed)
      : start(message),
        game(std::move(of)),
        at(game->game, role),
        random(seed),
        opponent(std::move(who)),
        by_evaluator(opponents::evaluator_opponent(seed)) {}

  // Nobody needs what is still thought about.
  void give_up_thinking() {
    for (std::shared_ptr<Thought>* const one : {&thought, &ahead}) {
      if (*one) (*one)->give_up();
      one->reset();
    }
  }

  const Message start;
  const std::shared_ptr<KnownGame> game;

  std::atomic<bool> begun = false;  // a move was asked for, or it has ended

  std::mutex mutex;  // guards what follows; never held while somebody thinks
  RoleInMatch at;
  std::string last_message;  // of play
  std::string last_answer;
  std::shared_ptr<Thought> thought;  // for the last message, if it took one
  std::chrono::steady_clock::time_point heard = std::chrono::steady_clock::now();
  std::shared_ptr<Thought> ahead;  // while the others choose
  bool over = false;
  Random random;

  std::binary_semaphore thinking{1};  // taken by whoever uses the opponents
  const std::unique_ptr<Opponent> opponent;
  const std::unique_ptr<Opponent> by_evaluator;
};

}  // namespace orchard::protocol
