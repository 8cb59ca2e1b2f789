// A player of the open match protocol somewhere else, as its host speaks to it: a message, and the
// reply within its clock, whatever the player does.
//
// One message at a time; another player may be spoken to at the same time.
#pragma once

#include <chrono>
#include <memory>
#include <string>

#include "orchard/result.hpp"
#include "protocol/watchdogs.hpp"

namespace orchard::protocol {

class RemotePlayer {
 public:
  // "http://127.0.0.1:9147". `watchdogs` must outlive it. Fails with `wrong-call`.
  static Result<RemotePlayer> at(const std::string& address, Watchdogs& watchdogs);
  ~RemotePlayer();
  RemotePlayer(RemotePlayer&&) noexcept;

  struct Answer {
    enum class Kind {
      reply,        // `text` is what it said
      refused,      // it would not answer; `text` says why
      late,         // nothing within the time
      unreachable,  // nobody is there, or the connection broke
    };
    Kind kind = Kind::reply;
    std::string text;
    double seconds = 0;  // that it took
    int status = 0;      // of HTTP; 0 if there is none
  };
  // Comes back when the time is over at the latest (and a few milliseconds), or when the watchdogs
  // end everything that does not outlast that.
  Answer send(const std::string& message, double seconds, bool outlasts = false);
  const std::string& address() const;

 private:
  struct Inner;
  explicit RemotePlayer(std::unique_ptr<Inner> inner);
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::protocol
