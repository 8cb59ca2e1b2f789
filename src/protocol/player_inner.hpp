// What stands behind a Player: its matches, the games they are of, and who thinks about them.
//
// The mutex guards which matches there are; each match has its own for where it stands. Neither is
// held while somebody thinks.
#pragma once

#include <fmt/core.h>

#include <algorithm>
#include <atomic>
#include <functional>
#include <map>
#include <mutex>

#include "base/utf8.hpp"
#include "protocol/known_games.hpp"
#include "protocol/open_match.hpp"
#include "protocol/player.hpp"
#include "protocol/thinkers.hpp"

namespace orchard::protocol {

using Clock = std::chrono::steady_clock;

inline Clock::duration as_duration(double seconds) {
  return std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
}

struct Player::Inner {
  explicit Inner(PlayerOptions of) : options(std::move(of)), games(options.rules) {
    thinkers = std::make_unique<Thinkers>(options.threads);
    if (options.think_ahead) idle_thinkers = std::make_unique<Thinkers>(options.threads);
  }

  Reply answer(const Message& message, const std::string& text, Clock::time_point arrived);
  Reply info();
  Reply preview(const Message& message);
  Reply start(const Message& message, Clock::time_point arrived);
  Reply play(const Message& message, const std::string& text, Clock::time_point arrived);
  Reply stop(const Message& message);
  Reply abort(const Message& message);
  Reply refuse(int status, const std::string& why);
  void tell(const std::string& what, bool wrong = false) const {
    if (options.log) options.log(safe_for_terminal(what), wrong);
  }

  double margin_of(double clock) const {
    constexpr double of_short_clocks = 0.25;
    return std::min(options.margin_seconds, of_short_clocks * clock);
  }
  // Answers that are all due at the same time take each other's time.
  double margin_now(double clock) const {
    constexpr double an_answer = 0.001;  // seconds: to wake up and to be sent, on a busy machine
    constexpr double at_most = 0.65;     // of the clock
    return std::min(margin_of(clock) + an_answer * static_cast<double>(waiting.load()),
                    std::max(margin_of(clock), at_most * clock));
  }
  std::shared_ptr<OpenMatch> find(const std::string& id);
  std::shared_ptr<OpenMatch> take_out(const std::string& id);
  void give_up_silent_ones();
  Result<std::shared_ptr<KnownGame>> read(const std::string& rules, double seconds);
  void use_opponents(OpenMatch& match, Clock::time_point until, const std::function<void()>& use);
  Situation situation_of(const Choice& choice, Clock::time_point deadline,
                         std::stop_token stop) const;
  void think(const std::shared_ptr<OpenMatch>& match, const std::shared_ptr<Thought>& thought,
             Clock::time_point until);
  void warm_up(const std::shared_ptr<OpenMatch>& match, Clock::time_point until);
  void think_ahead(const std::shared_ptr<OpenMatch>& match, const Choice& made, const Move& own);

  const PlayerOptions options;
  KnownGames games;

  std::mutex mutex;  // guards what follows
  std::map<std::string, std::shared_ptr<OpenMatch>> matches;
  std::size_t being_started = 0;
  std::uint64_t next_seed = 0;

  std::stop_source over;
  std::atomic<std::uint64_t> waiting = 0;  // handlers with a move to answer
  std::atomic<std::uint64_t> begun = 0, ended = 0, given_up = 0, moves = 0, unfinished = 0,
                             refused = 0;

  std::unique_ptr<Thinkers> idle_thinkers;  // for thinking ahead
  std::unique_ptr<Thinkers> thinkers;       // last, so that they end before what they work on
};

}  // namespace orchard::protocol
