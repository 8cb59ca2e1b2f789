// Cuts connections when their time is over, or when everything is to end: one thread for any number
// of them.
//
// Any thread may set and lift a watch. A client is touched only while it is watched. A connection
// that is just being opened escapes a cut, so cuts are repeated as long as the watch is there.
#pragma once

#include <chrono>
#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <thread>

namespace orchard::protocol {

class Watchdogs {
 public:
  using Clock = std::chrono::steady_clock;

  Watchdogs();
  ~Watchdogs();
  Watchdogs(const Watchdogs&) = delete;

  // From now on all that does not outlast the end is cut. From any thread.
  void end();

  // Calls `cut` from that time on, until the watch is destroyed. `outlasts`: not by `end`.
  class Watch {
   public:
    Watch(Watchdogs& dogs, Clock::time_point until, bool outlasts, std::function<void()> cut);
    ~Watch();
    Watch(const Watch&) = delete;

   private:
    Watchdogs& dogs_;
    std::multimap<Clock::time_point, std::pair<bool, std::function<void()>>>::iterator entry_;
  };

 private:
  void run();

  std::mutex mutex_;  // guards what follows
  std::condition_variable changed_;
  // By time: whether it outlasts the end, and what cuts it.
  std::multimap<Clock::time_point, std::pair<bool, std::function<void()>>> watches_;
  bool ended_ = false;
  bool over_ = false;  // the thread is to end

  std::thread thread_;  // last, so that the rest is there when it begins
};

}  // namespace orchard::protocol
